import { PLACES, SIGN_IDS } from '@verimend/core/knowledge'
import { PIECES, PIECE_IDS, TOP_GRADE } from '@verimend/core/trials'
import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { renderToStaticMarkup } from 'react-dom/server'
import { PlaceDrawing } from '../src/drawing/PlaceDrawing'
import { SignDrawing } from '../src/drawing/SignDrawing'
import { SignPictures } from '../src/drawing/SignPictures'
import { SIGN_PICTURES } from '../src/drawing/signPictures'
import { ago, percent } from '../src/components/format'
import { cividis } from '../src/drawing/cividis'
import { GradeDrawing } from '../src/trials/GradeDrawing'

/** Names that are drawn the same as an earlier one. */
function alike(all: [string, string][]): string[] {
  const seen = new Map<string, string>()
  const out: string[] = []
  for (const [name, markup] of all) {
    const bare = markup.replace(/ (id|class|aria-label)="[^"]*"/g, '')
    const first = seen.get(bare)
    if (first) out.push(`${name} = ${first}`)
    else seen.set(bare, name)
  }
  return out
}
const strokes = (markup: string) => (markup.match(/<(path|line|circle|rect|polyline|ellipse)/g) ?? []).length

test('every sign has a drawing of its own', () => {
  const all = SIGN_IDS.map((s): [string, string] => [s, renderToStaticMarkup(<SignDrawing sign={s} />)])
  expect(alike(all)).toEqual([])
  expect(all.filter(([, m]) => strokes(m) < 2).map(([s]) => s)).toEqual([])
})

test('every sign with pictures has a file of them, and each begins with what it looks like without it', () => {
  const folder = join(__dirname, '..', 'public', 'signs')
  const listed = Object.keys(SIGN_PICTURES).map((s) => `${s}.webp`)
  expect(readdirSync(folder).sort()).toEqual(listed.sort())
  expect(listed.length).toBeGreaterThan(4)
  for (const levels of Object.values(SIGN_PICTURES)) {
    expect(levels[0]).toBe('none')
    expect(levels.length).toBeGreaterThan(1)
  }
  for (const sign of SIGN_IDS)
    expect(renderToStaticMarkup(<SignPictures sign={sign} />) !== '').toBe(sign in SIGN_PICTURES)
})

test('every place on the part has one', () => {
  const all = PLACES.map((p): [string, string] => [p.id, renderToStaticMarkup(<PlaceDrawing place={p.id} />)])
  expect(alike(all)).toEqual([])
})

test('the grades of whatever a piece is judged by look different from one another', () => {
  const judged = [...new Set(PIECE_IDS.flatMap((p) => PIECES[p].criteria))]
  for (const c of judged) {
    const all = Array.from({ length: TOP_GRADE + 1 }, (_, g): [string, string] => [
      `${c} ${g}`,
      renderToStaticMarkup(<GradeDrawing criterion={c} grade={g} />),
    ])
    expect(alike(all)).toEqual([])
  }
})

test('the ramp for quantities gets lighter all the way (that is what makes it readable without colour)', () => {
  const luminance = (t: number) => {
    const [r, g, b] = cividis(t)
      .match(/\d+/g)!
      .map((v) => (Number(v) / 255) ** 2.2)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b // ITU-R BT.709
  }
  for (let t = 0; t < 1; t += 0.01) expect(luminance(t + 0.01)).toBeGreaterThan(luminance(t))
  expect(cividis(-3)).toBe(cividis(0))
  expect(cividis(9)).toBe(cividis(1))
})

test.each([
  [0.9999, '> 99 %'],
  [0.994, '99 %'],
  [0.5, '50 %'],
  [0.0099, '< 1 %'],
  [0, '< 1 %'],
])('a chance of %d is never shown as certain or nothing', (p, text) => expect(percent(p)).toBe(text))

test('how long ago', () => {
  const now = Date.parse('2026-05-10T12:00:00Z')
  const said = (iso: string) => ago(iso, now)
  expect(said('2026-05-10T11:59:40Z')).toBe('just now')
  expect(said('2026-05-10T11:30:00Z')).toBe('30 minutes ago')
  expect(said('2026-05-09T12:00:00Z')).toBe('yesterday')
  expect(said('2026-05-01T12:00:00Z')).toBe('9 days ago')
})
