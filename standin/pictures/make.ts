// Pictures from a simulated machine, `npm run pictures`: signs for the handbook (not there, slight, clear), and grades for a reading.
import { mkdirSync, writeFileSync } from 'node:fs'
import sharp from 'sharp'
import type { CriterionId } from '@verimend/core/trials'
import type { Picture } from '../src/picture/render'
import { demoPhoto } from './demo'
import { GRADES_SHOWN, picturesOfGrades } from './grades'
import { picturesOf, SHOWN } from './signs'

/** Pixels of one picture. */
const [WIDE, TALL, GAP] = [260, 180, 8]
/** Pixels of a grade's picture; it is shown at half of them. */
const [GRADE_WIDE, GRADE_TALL] = [192, 128]
const GROUND = { side: '#e9e6dd', top: '#cfc9ba', first: '#cfc9ba' }
const LEVELS = ['none', 'slight', 'clear']
const [out, list, photo, gradesOut, gradeList, ...only] = process.argv.slice(2)
mkdirSync(out, { recursive: true })
mkdirSync(gradesOut, { recursive: true })
const raw = ({ data, width, height }: Picture) =>
  sharp(Buffer.from(data), { raw: { width, height, channels: 3 } })
const made: Record<string, string[]> = {}
for (const [sign, { view }] of Object.entries(SHOWN)) {
  if (only.length && !only.includes(sign)) continue
  const pictures = picturesOf(sign as keyof typeof SHOWN, 900)
  const shown = pictures.flatMap((p, i) => (p ? [{ ...p, level: LEVELS[i] }] : []))
  const tiles = await Promise.all(
    shown.map((picture) =>
      raw(picture)
        .resize(WIDE, TALL, { fit: 'contain', background: GROUND[view], kernel: 'lanczos3' })
        .png()
        .toBuffer(),
    ),
  )
  const width = tiles.length * WIDE + (tiles.length - 1) * GAP
  await sharp({ create: { width, height: TALL, channels: 4, background: '#00000000' } })
    .composite(tiles.map((input, i) => ({ input, left: i * (WIDE + GAP), top: 0 })))
    .webp({ quality: 82 })
    .toFile(`${out}/${sign}.webp`)
  made[sign] = shown.map((s) => s.level)
  process.stdout.write(`${sign}: ${made[sign].join(', ')}\n`)
}
if (!only.length)
  writeFileSync(
    list,
    `// Written by \`npm run pictures\`.
import type { SignId } from '@verimend/core/knowledge'

/** Signs that have pictures, and what these show. */
export const SIGN_PICTURES: Partial<Record<SignId, readonly ('none' | 'slight' | 'clear')[]>> = ${JSON.stringify(made)}
`,
  )

const graded: string[] = []
for (const criterion of Object.keys(GRADES_SHOWN) as CriterionId[]) {
  if (only.length && !only.includes(criterion)) continue
  const pictures = picturesOfGrades(criterion, 2 * GRADE_WIDE)
  const missing = pictures.flatMap((p, grade) => (p ? [] : [grade]))
  // a row with a hole in it would be filled by eye
  if (missing.length) {
    process.stdout.write(`${criterion}: no place of grade ${missing.join(', ')}\n`)
    continue
  }
  for (const [grade, picture] of pictures.entries())
    await raw(picture!)
      .resize(GRADE_WIDE, GRADE_TALL)
      .webp({ quality: 82 })
      .toFile(`${gradesOut}/${criterion}-${grade}.webp`)
  graded.push(criterion)
  process.stdout.write(`${criterion}: all grades\n`)
}
if (!only.length)
  writeFileSync(
    gradeList,
    `// Written by \`npm run pictures\`.
import type { CriterionId } from '@verimend/core/trials'

/** Criteria whose grades have pictures. */
export const GRADE_PICTURES = ${JSON.stringify(graded)} as const satisfies readonly CriterionId[]
`,
  )

// the photo of the demo's first case
if (photo) {
  await raw(demoPhoto(900)).webp({ quality: 82 }).toFile(photo)
}
