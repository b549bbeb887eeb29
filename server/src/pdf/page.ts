import { createRequire } from 'node:module'
import PDFDocument from 'pdfkit'

const require = createRequire(import.meta.url)
const font = (name: string) => require.resolve(name)
export const INK = '#1c2826'
export const FAINT = '#5f6b68'
export const RULE = '#d9d6cc'

/** An A4 document in the app's own type: `text`, `bold` and `figure`; `done` are its bytes after `doc.end()`. */
export function page(title: string, margin: number) {
  const doc = new PDFDocument({ size: 'A4', margin, info: { Title: title, Creator: 'Verimend' } })
  doc.registerFont('text', font('@fontsource/figtree/files/figtree-latin-400-normal.woff'))
  doc.registerFont('bold', font('@fontsource/figtree/files/figtree-latin-600-normal.woff'))
  doc.registerFont('figure', font('@fontsource/jetbrains-mono/files/jetbrains-mono-latin-400-normal.woff'))
  const chunks: Buffer[] = []
  const done = new Promise<Buffer>((resolve, reject) => {
    doc.on('data', (c: Buffer) => chunks.push(c))
    doc.on('end', () => resolve(Buffer.concat(chunks)))
    doc.on('error', reject)
  })
  return { doc, done }
}

/** Only what the fonts hold. */
export const plain = (text: string) => text.replace(/\u2009/g, ' ').replace(/→/g, 'to')

/** Only what the fonts hold, and no more than so many characters. */
export function fitted(text: string, most: number): string {
  const t = plain(text)
  return t.length > most ? `${t.slice(0, most - 1)}…` : t
}
