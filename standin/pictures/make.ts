// Pictures of signs from a simulated machine: not there, slight, clear. `npm run pictures` writes them for the handbook.
import { mkdirSync, writeFileSync } from 'node:fs'
import sharp from 'sharp'
import { demoPhoto } from './demo'
import { picturesOf, SHOWN } from './signs'

/** Pixels of one picture. */
const [WIDE, TALL, GAP] = [260, 180, 8]
const GROUND = { side: '#e9e6dd', top: '#cfc9ba', first: '#cfc9ba' }
const LEVELS = ['none', 'slight', 'clear']
const [out, list, photo, ...only] = process.argv.slice(2)
mkdirSync(out, { recursive: true })
const made: Record<string, string[]> = {}
for (const [sign, { view }] of Object.entries(SHOWN)) {
  if (only.length && !only.includes(sign)) continue
  const pictures = picturesOf(sign as keyof typeof SHOWN, 900)
  const shown = pictures.flatMap((p, i) => (p ? [{ ...p, level: LEVELS[i] }] : []))
  const tiles = await Promise.all(
    shown.map(({ data, width, height }) =>
      sharp(Buffer.from(data), { raw: { width, height, channels: 3 } })
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

// the photo of the demo's first case
if (photo) {
  const { data, width, height } = demoPhoto(900)
  await sharp(Buffer.from(data), { raw: { width, height, channels: 3 } })
    .webp({ quality: 82 })
    .toFile(photo)
}
