import { DEMO_MACHINES } from '@verimend/core/demo'
import { beadArea, filamentArea } from '@verimend/core/extrusion'
import { readGcode } from '@verimend/core/gcode'
import { appearancesOf, printProgram, soundWorld } from '../src'

// What is wrong in one place shows, whatever the rest of the part is like. Paths by hand, on a sound machine.
const machine = DEMO_MACHINES.shed
const WIDTH = 0.45
const LAYER = 0.2
const f = (v: number) => v.toFixed(4)

/** A file of so many layers, from lines that are laid corner by corner. */
function file(layers: number, draw: (pen: { go: Pen; lay: Pen }, k: number) => void): Uint8Array {
  const out = ['G90', 'M83', 'M109 S208', 'M190 S60', 'M106 S255', 'G28']
  let at = [0, 0]
  const go: Pen = (x, y) => {
    out.push(`G0 X${f(x)} Y${f(y)} F7200`)
    at = [x, y]
  }
  const lay: Pen = (x, y) => {
    const fed = (Math.hypot(x - at[0], y - at[1]) * beadArea(WIDTH, LAYER)) / filamentArea(1.75)
    out.push(`G1 X${f(x)} Y${f(y)} E${fed.toFixed(5)} F2400`)
    at = [x, y]
  }
  for (let k = 0; k < layers; k++) {
    out.push(`G0 Z${f((k + 1) * LAYER)} F600`)
    draw({ go, lay }, k)
  }
  return new TextEncoder().encode(out.join('\n'))
}
type Pen = (x: number, y: number) => void
type Draw = Parameters<typeof file>[1]

const ring = ({ go, lay }: { go: Pen; lay: Pen }, x0: number, y0: number, x1: number, y1: number) => {
  go(x0, y0)
  for (const [x, y] of [
    [x1, y0],
    [x1, y1],
    [x0, y1],
    [x0, y0],
  ])
    lay(x, y)
}
const block = (pen: { go: Pen; lay: Pen }, x0: number, y0: number, x1: number, y1: number) => {
  ring(pen, x0, y0, x1, y1)
  for (let i = 1; y0 + i * 0.41 < y1; i++) {
    const [a, b] = i % 2 ? [x0 + 0.4, x1 - 0.4] : [x1 - 0.4, x0 + 0.4]
    pen.go(a, y0 + i * 0.41)
    pen.lay(b, y0 + i * 0.41)
  }
}
const shows = (layers: number, draw: Draw) => {
  const world = soundWorld(machine, 'pla')
  const part = printProgram(readGcode(file(layers, draw), { filamentDiameter: 1.75 }), machine, world)
  return appearancesOf(part, world)
}
const SHAPE = ['sagging-overhangs', 'bridge-sags', 'tips-melt'] as const

test('a ledge of 20 mm in the air hangs down, and so does one tall block with a small ledge', () => {
  const sound = shows(60, (pen) => block(pen, 90, 90, 110, 110))
  for (const sign of SHAPE) expect(sound[sign]).toBeLessThan(0.2)
  const ledge = shows(60, (pen, k) => block(pen, 90, 90, k < 50 ? 110 : 130, 110))
  expect(ledge['bridge-sags']).toBeGreaterThan(0.7)
  // the same ledge on a part ten times as large
  const large = shows(60, (pen, k) => {
    block(pen, 40, 40, 110, 110)
    if (k >= 50) block(pen, 110, 90, 130, 110)
  })
  expect(large['bridge-sags']).toBeGreaterThan(0.8)
})

test('a gap of 15 mm between two walls is bridged, and one of 70 mm hangs through', () => {
  const over = (gap: number) =>
    shows(40, (pen, k) => {
      block(pen, 60, 90, 68, 110)
      block(pen, 68 + gap, 90, 76 + gap, 110)
      if (k >= 35)
        for (let i = 0; i < 40; i++) {
          const y = 90.3 + i * 0.45
          pen.go(61, y)
          pen.lay(68, y)
          pen.lay(68 + gap, y)
          pen.lay(75 + gap, y)
        }
    })
  expect(over(15)['bridge-sags']).toBeLessThan(0.2)
  expect(over(70)['bridge-sags']).toBeGreaterThan(0.8)
})

test('a spire whose layers take a tenth of a second melts, on however broad a foot', () => {
  const spire = (foot: number) =>
    shows(20 + 60, (pen, k) =>
      k < 20 ? block(pen, 90, 90, 90 + foot, 90 + foot) : ring(pen, 95, 95, 96.2, 96.2),
    )
  expect(spire(10)['tips-melt']).toBeGreaterThan(0.8)
  expect(spire(60)['tips-melt']).toBeGreaterThan(0.8)
})
