import type { CaseReport } from '@verimend/core/words'
import { FAINT, INK, RULE, page, plain } from './page'

/** Shares of the width of the columns of a report's table. */
const COLUMNS = [0.09, 0.34, 0.11, 0.15, 0.31]

/** A photo for the report, with the words under it. */
export interface ReportPhoto {
  jpeg: Uint8Array
  words: string
}

/**
 * A case on A4 pages.
 * @param photos at most two are shown: before and after
 * @returns the PDF's bytes
 */
export function caseSheet(report: CaseReport, photos: ReportPhoto[]): Promise<Buffer> {
  const { doc, done } = page(report.title, 44)
  const width = doc.page.width - 88
  const bottom = doc.page.height - 44
  const text = (face: string, size: number, colour: string, words: string) =>
    doc.font(face).fontSize(size).fillColor(colour).text(plain(words), 44, doc.y, { width })
  text('bold', 20, INK, report.title)
  doc.moveDown(0.2)
  text('text', 9.5, FAINT, report.about)
  if (photos.length) {
    doc.moveDown(0.8)
    const top = doc.y
    const box = (width - 14) / 2
    photos.slice(0, 2).forEach((p, i) => {
      const x = 44 + i * (box + 14)
      doc.image(Buffer.from(p.jpeg), x, top, { fit: [box, 170], align: 'center' })
      doc
        .font('text')
        .fontSize(8.5)
        .fillColor(FAINT)
        .text(plain(p.words), x, top + 174, { width: box, lineBreak: false, ellipsis: true })
    })
    doc.y = top + 188
  }
  for (const s of report.sections) {
    if (doc.y > bottom - 60) doc.addPage()
    doc.moveDown(0.9)
    text('bold', 12, INK, s.title)
    doc
      .moveTo(44, doc.y + 2)
      .lineTo(44 + width, doc.y + 2)
      .lineWidth(0.6)
      .stroke(RULE)
    doc.y += 6
    for (const p of s.paragraphs) {
      text('text', 10, INK, p)
      doc.moveDown(0.3)
    }
    for (const b of s.bullets) {
      text('text', 10, INK, `• ${b}`)
      doc.moveDown(0.2)
    }
    if (s.table) {
      const lay = (cells: string[], face: string, colour: string) => {
        doc.font(face).fontSize(8.8)
        const tall = Math.max(
          ...cells.map((c, i) => doc.heightOfString(plain(c), { width: width * COLUMNS[i] - 6 })),
        )
        if (doc.y + tall > bottom) doc.addPage()
        const top = doc.y
        let x = 44
        cells.forEach((c, i) => {
          doc
            .fillColor(colour)
            .text(plain(c), x, top, { width: width * COLUMNS[i] - 6, height: bottom - top, ellipsis: true })
          x += width * COLUMNS[i]
        })
        doc.y = Math.min(bottom, top + tall + 4)
      }
      lay(s.table.head, 'bold', FAINT)
      for (const r of s.table.rows) lay(r, 'text', INK)
    }
  }
  doc.end()
  return done
}
