import { fireEvent, screen, waitFor } from '@testing-library/react'
import { DEMO_MACHINES } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import {
  LINE_STRIDE,
  START_STRIDE,
  TRAVEL_STRIDE,
  analysePath,
  compareReadings,
  layerPlan,
  summarise,
  type HeightRange,
} from '@verimend/core/toolpath'
import { useState } from 'react'
import { CompareView } from '../src/paths/CompareView'
import { FeedView } from '../src/paths/FeedView'
import { HeightSheet } from '../src/paths/HeightSheet'
import { LayerCanvas } from '../src/paths/LayerCanvas'
import { LayerView } from '../src/paths/LayerView'
import { SeamMap } from '../src/paths/SeamMap'
import { paintLayer } from '../src/paths/paintLayer'
import { linear } from '../src/drawing/scales'
import { caseOf, copyOf, demoServer } from './demo'
import { partFile } from './part'
import { show } from './show'

const machine = DEMO_MACHINES.greenhouse
const context = {
  filamentDiameter: 1.75,
  density: 1.24,
  nozzleDiameter: machine.nozzle.diameter,
  limits: machine.limits,
}
const analysis = analysePath(readGcode(new TextEncoder().encode(partFile())), context)
const reading = summarise(analysis)
const plan = layerPlan(analysis, 5)

/** A canvas that notes what is asked of it. */
function paper() {
  const done: Record<string, number> = {}
  const widths: number[] = []
  const colours = new Set<string>()
  const alphas = new Set<number>()
  const g = new Proxy(
    {},
    {
      get: (_, name: string) => (): void => void (done[name] = (done[name] ?? 0) + 1),
      set(_, name: string, value: never) {
        if (name === 'lineWidth') widths.push(value)
        if (name === 'strokeStyle') colours.add(value)
        if (name === 'globalAlpha') alphas.add(value)
        return true
      },
    },
  ) as CanvasRenderingContext2D
  return { g, done, widths, colours, alphas }
}
const frame = {
  x: linear([plan.box.minX, plan.box.maxX], [0, 400]),
  y: linear([plan.box.minY, plan.box.maxY], [400, 0]),
  width: 400,
  height: 400,
  mode: 'light' as const,
}

test('a layer: every line at its true width, every crossing, every start', () => {
  const { g, done, widths } = paper()
  paintLayer(g, plan, { ...frame, shade: 'feature' })
  const scale = 400 / (plan.box.maxX - plan.box.minX)
  const beads = Array.from({ length: plan.lines.length / LINE_STRIDE }, (_, i) =>
    Math.max(0.6, plan.lines[i * LINE_STRIDE + 4] * scale),
  )
  expect(beads.length).toBeGreaterThan(20)
  for (const width of beads) expect(widths.some((w) => Math.abs(w - width) < 1e-6)).toBe(true)
  // a move each for lines and crossings, and those of the rule beneath
  expect(done.moveTo).toBeGreaterThanOrEqual(beads.length + plan.travels.length / TRAVEL_STRIDE)
  expect(done.arc).toBe(plan.starts.length / START_STRIDE)
})

test('by speed the colour follows the speed; by feature strength of ink tells lines apart too', () => {
  const speed = paper()
  paintLayer(speed.g, plan, { ...frame, shade: 'speed' })
  const speeds = new Set(
    Array.from({ length: plan.lines.length / LINE_STRIDE }, (_, i) => plan.lines[i * LINE_STRIDE + 6]),
  )
  expect(speeds.size).toBeGreaterThan(1)
  expect(speed.colours.size).toBeGreaterThanOrEqual(Math.min(4, speeds.size))
  const feature = paper()
  paintLayer(feature.g, plan, { ...frame, shade: 'feature' })
  expect(feature.alphas.size).toBeGreaterThan(2)
})

test('dark and light use other inks for the same layer', () => {
  const [light, dark] = [paper(), paper()]
  paintLayer(light.g, plan, { ...frame, shade: 'feature' })
  paintLayer(dark.g, plan, { ...frame, shade: 'feature', mode: 'dark' })
  expect([...light.colours].sort()).not.toEqual([...dark.colours].sort())
  expect(light.done.stroke).toBe(dark.done.stroke)
})

beforeEach(() => {
  localStorage.clear()
  HTMLCanvasElement.prototype.getContext = (() => paper().g) as never
})

test('the canvas says which layer it shows and how to move in it', () => {
  show(<LayerCanvas plan={plan} />)
  expect(screen.getByLabelText(/^Layer 6 from above, \d+ lines/)).toBeTruthy()
  const whole = screen.getByRole<HTMLButtonElement>('button', { name: 'Whole layer' })
  expect(whole.disabled).toBe(true)
  fireEvent.click(screen.getByRole('button', { name: 'Closer' }))
  expect(whole.disabled).toBe(false)
  fireEvent.click(whole)
  expect(whole.disabled).toBe(true)
})

function Layers() {
  const [layer, setLayer] = useState(0)
  return (
    <LayerView
      reading={reading}
      source={(n) => Promise.resolve(layerPlan(analysis, n))}
      layer={layer}
      onLayer={setLayer}
    />
  )
}

test('the first layer tells how it lies on the bed, the others do not; a layer is chosen by number', async () => {
  const { user } = show(<Layers />)
  await screen.findByLabelText(/^Layer 1 from above/)
  expect(screen.getByText('Left open')).toBeTruthy()
  expect(screen.getByText('Islands').nextElementSibling!.textContent).toMatch(
    new RegExp(`^${reading.firstLayer!.islands}`),
  )
  const field = screen.getByLabelText('Layer', { selector: 'input' })
  await user.clear(field)
  await user.type(field, '7')
  await screen.findByLabelText(/^Layer 7 from above/)
  expect(screen.queryByText('Left open')).toBeNull()
  await user.click(screen.getByText('By speed'))
  await waitFor(() => expect(document.body.textContent).toContain('mm/s'))
})

/** The silhouette, with a mouse over it. */
function drag(from: number, to: number) {
  const shape = screen.getByTestId('silhouette')
  shape.getBoundingClientRect = () => ({ left: 0, top: 0, width: 150, height: 394 }) as DOMRect
  ;(shape as unknown as { setPointerCapture: () => void }).setPointerCapture = () => undefined
  for (const [kind, clientY] of [
    ['pointerdown', from],
    ['pointermove', to],
    ['pointerup', to],
  ] as const)
    fireEvent(shape, new MouseEvent(kind, { clientX: 70, clientY, bubbles: true }))
}
function Heights({ onPick }: { onPick?: (layer: number) => void }) {
  const [ranges, setRanges] = useState<HeightRange[]>([])
  return (
    <>
      <HeightSheet reading={reading} ranges={ranges} onRanges={setRanges} onPick={onPick} />
      <output aria-label="ranges">{JSON.stringify(ranges)}</output>
    </>
  )
}
const ranges = () => JSON.parse(screen.getByLabelText('ranges').textContent!) as HeightRange[]

test('dragged over the silhouette, from below or from above, a height is marked; a touch marks none', () => {
  show(<Heights />)
  drag(200, 200)
  expect(ranges()).toEqual([])
  drag(300, 120)
  drag(120, 300)
  const [up, down] = ranges()
  expect(up).toEqual(down)
  expect(up.from).toBeLessThan(up.to)
  // 360 px are the whole height, from 28 px on
  const top = reading.layers.z.at(-1)!
  expect(up.to).toBeCloseTo(top * (1 - (120 - 28) / 360), 1)
  expect(up.from).toBeCloseTo(top * (1 - (300 - 28) / 360), 1)
})

test('a drag that leaves the part ends at its top and its base', () => {
  show(<Heights />)
  drag(-400, 2000)
  expect(ranges()).toEqual([{ from: 0, to: Number(reading.layers.z.at(-1)!.toFixed(1)) }])
})

test('a click on a strip opens the layer of that height', () => {
  const picked: number[] = []
  show(<Heights onPick={(l) => picked.push(l)} />)
  const strip = screen.getAllByRole('img', { name: / by height, at most / })[0]
  strip.getBoundingClientRect = () => ({ left: 0, top: 0, width: 112, height: 394 }) as DOMRect
  fireEvent.click(strip, { clientX: 20, clientY: 28 })
  fireEvent.click(strip, { clientX: 20, clientY: 388 })
  expect(picked).toEqual([reading.layerCount - 1, 0])
})

test('two readings side by side: what core says differs, by name', async () => {
  demoServer()
  const other = copyOf(reading)
  other.rest = { ...other.rest, nozzle: (other.rest.nozzle ?? 200) + 15 }
  const side = (name: string, r: typeof reading) => ({ name, reading: r, layer: null })
  const { container } = show(
    <CompareView a={side('one.gcode', reading)} b={side('two.gcode', other)} context={context} />,
  )
  await waitFor(() => expect(container.textContent).toContain('two.gcode'))
  const apart = compareReadings(reading, other)
  expect(JSON.stringify(apart)).toContain(String(other.rest.nozzle))
  expect(container.textContent).toContain(String(other.rest.nozzle))
  expect(container.textContent).toContain(String(reading.rest.nozzle))
})

test('filament: how often it goes back, or that it never does', () => {
  const { container, unmount } = show(<FeedView reading={reading} />)
  expect(container.textContent).toContain(`${reading.retraction.count} pull-backs`)
  unmount()
  const none = { ...reading, retraction: { ...reading.retraction, kind: 'none' as const } }
  expect(show(<FeedView reading={none} />).container.textContent).toMatch(/never pulls the filament back/)
})

test('the seam is drawn from the reading of any print, one without outlines too', () => {
  for (const r of [reading, ...caseOf('Vent hinge').files.map((f) => f.reading)]) {
    const { container, unmount } = show(<SeamMap reading={r} />)
    expect(container.textContent!.length).toBeGreaterThan(20)
    unmount()
  }
})
