import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { USUAL_WEIGHTS } from '@verimend/core/diagnosis'
import { useEffect, useState } from 'react'
import { keys } from '../src/api/keys'
import { useTrialChange } from '../src/api/queries'
import { useCostWeights } from '../src/cases/useCostWeights'
import { linear, ticksOf } from '../src/drawing/scales'
import { usePanZoom, type PanZoomOptions } from '../src/drawing/usePanZoom'
import { useComputed } from '../src/workers/useComputed'
import type { TaskInput } from '../src/workers/tasks'
import { byHand as answered } from './compute'

type Question = TaskInput<'correlate'>
const question = (from: number): Question => ({
  layers: {} as Question['layers'],
  ranges: [{ from, to: from + 1 }],
})
/** Tasks that are under way, each to be answered by hand. */
function byHand() {
  const running: {
    from: number
    signal: AbortSignal
    answer: (v: unknown) => void
    fail: (e: unknown) => void
  }[] = []
  answered.answer = ((_name: string, input: Question, signal: AbortSignal) =>
    new Promise((answer, fail) => {
      signal.addEventListener('abort', () => fail(new DOMException('ended', 'AbortError')))
      running.push({ from: input.ranges[0].from, signal, answer, fail })
    })) as never
  return running
}
function Asking({ input }: { input: Question | null }) {
  const { data, pending, error } = useComputed('correlate', input)
  return (
    <output>
      {JSON.stringify({ data, pending, error: error instanceof Error ? error.message : undefined })}
    </output>
  )
}
const said = () => JSON.parse(screen.getByRole('status').textContent!) as Record<string, unknown>

test('a newer question ends the older task, and only the newest answer counts', async () => {
  const running = byHand()
  const { rerender } = render(<Asking input={question(1)} />)
  expect(said()).toEqual({ pending: true })
  rerender(<Asking input={question(2)} />)
  expect(running.map((r) => r.signal.aborted)).toEqual([true, false])
  await act(async () => running[0].answer('late'))
  expect(said()).toEqual({ pending: true })
  await act(async () => running[1].answer('two'))
  await waitFor(() => expect(said()).toEqual({ data: 'two', pending: false }))
})

test('the answer before stays while the next is worked out, and its failure is told', async () => {
  const running = byHand()
  const { rerender } = render(<Asking input={question(1)} />)
  await act(async () => running[0].answer('one'))
  await waitFor(() => expect(said()).toMatchObject({ data: 'one', pending: false }))
  rerender(<Asking input={question(2)} />)
  expect(said()).toEqual({ data: 'one', pending: true })
  await act(async () => running[1].fail(new Error('the worker died')))
  expect(said()).toEqual({ data: 'one', pending: false, error: 'the worker died' })
  rerender(<Asking input={question(3)} />)
  await act(async () => running[2].answer('three'))
  await waitFor(() => expect(said()).toEqual({ data: 'three', pending: false }))
})

test('nothing asked, nothing worked out; leaving the page ends what is running', async () => {
  const running = byHand()
  const { rerender, unmount } = render(<Asking input={null} />)
  expect(running).toEqual([])
  expect(said()).toEqual({ pending: false })
  rerender(<Asking input={question(1)} />)
  unmount()
  expect(running[0].signal.aborted).toBe(true)
})

test('the same question asked by another drawing of the page is not asked again', () => {
  const running = byHand()
  const input = question(1)
  const { rerender } = render(<Asking input={input} />)
  rerender(<Asking input={input} />)
  expect(running).toHaveLength(1)
})

const SIZE = { width: 200, height: 100 }
function Drawing(options: Partial<PanZoomOptions> & { onEach?: (k: number, x: number, y: number) => void }) {
  const { ref, transform, whole, zoomBy, reset, onKeyDown } = usePanZoom<HTMLDivElement>({
    ...SIZE,
    closest: 8,
    ...options,
  })
  const { onEach } = options
  useEffect(() => onEach?.(transform.k, transform.x, transform.y), [transform, onEach])
  return (
    <div ref={ref} tabIndex={0} onKeyDown={onKeyDown} aria-label="drawing">
      <span
        data-inner
      >{`${transform.k.toFixed(3)} ${transform.x.toFixed(1)} ${transform.y.toFixed(1)}`}</span>
      <output>{String(whole)}</output>
      <button onClick={() => zoomBy(2)}>closer</button>
      <button onClick={reset}>whole</button>
    </div>
  )
}
const place = () => document.querySelector('[data-inner]')!.textContent!.split(' ').map(Number)
const press = (key: string) => fireEvent.keyDown(screen.getByLabelText('drawing'), { key })
/** d3 asks SVG and HTML elements for their size in ways that are not here. */
function drawing(options: Parameters<typeof Drawing>[0] = {}) {
  Object.defineProperty(HTMLElement.prototype, 'clientWidth', { value: SIZE.width, configurable: true })
  Object.defineProperty(HTMLElement.prototype, 'clientHeight', { value: SIZE.height, configurable: true })
  return render(<Drawing {...options} />)
}

test('by keys: plus and minus come closer and go away, 0 shows the whole, within what is allowed', () => {
  drawing()
  expect(place()).toEqual([1, 0, 0])
  press('+')
  expect(place()[0]).toBeCloseTo(1.3, 3)
  for (let i = 0; i < 20; i++) press('+')
  expect(place()[0]).toBe(8)
  press('-')
  expect(place()[0]).toBeCloseTo(8 / 1.3, 2)
  for (let i = 0; i < 20; i++) press('-')
  expect(place()).toEqual([1, 0, 0])
  press('+')
  press('0')
  expect(place()).toEqual([1, 0, 0])
})

test('arrows move what is seen by a tenth of it, and never past its edge', () => {
  drawing()
  press('ArrowRight')
  expect(place()).toEqual([1, 0, 0])
  for (let i = 0; i < 3; i++) press('+')
  const [k, x0] = place()
  press('ArrowRight')
  expect(place()[1]).toBeCloseTo(x0 - 0.1 * SIZE.width, 0)
  for (let i = 0; i < 60; i++) press('ArrowRight')
  expect(place()[1]).toBeCloseTo(SIZE.width * (1 - k), 0)
  for (let i = 0; i < 60; i++) press('ArrowUp')
  expect(place()[2]).toBeCloseTo(0, 1)
})

test('other keys are the page’s own', () => {
  drawing()
  const event = new KeyboardEvent('keydown', { key: 'a', bubbles: true, cancelable: true })
  fireEvent(screen.getByLabelText('drawing'), event)
  expect(event.defaultPrevented).toBe(false)
  // a key pressed in something inside the drawing is not the drawing's
  fireEvent.keyDown(screen.getByText('closer'), { key: '+' })
  expect(place()[0]).toBe(1)
})

test('the wheel comes closer; buttons do the same and back', () => {
  drawing()
  fireEvent.wheel(screen.getByLabelText('drawing'), { deltaY: -200, clientX: 100, clientY: 50 })
  expect(place()[0]).toBeGreaterThan(1)
  expect(screen.getByRole('status').textContent).toBe('false')
  fireEvent.click(screen.getByText('whole'))
  fireEvent.click(screen.getByText('closer'))
  expect(place()[0]).toBe(2)
  fireEvent.click(screen.getByText('whole'))
  expect(screen.getByRole('status').textContent).toBe('true')
})

test('ticks are round, ascending, within the scale, and told apart by their words', () => {
  for (const [from, to] of [
    [0, 26.2],
    [0, 0.07],
    [190, 230],
    [-0.3, 0.3],
    [0, 100_000],
  ] as const) {
    const scale = linear([from, to], [300, 0])
    const ticks = ticksOf(scale, 8)
    expect(ticks.length).toBeGreaterThan(2)
    expect(new Set(ticks.map((t) => t.text)).size).toBe(ticks.length)
    for (const [i, t] of ticks.entries()) {
      expect(t.value).toBeGreaterThanOrEqual(from)
      expect(t.value).toBeLessThanOrEqual(to)
      expect(t.at).toBeCloseTo(300 * (1 - (t.value - from) / (to - from)), 6)
      if (i) expect(t.value).toBeGreaterThan(ticks[i - 1].value)
    }
  }
})

function Weights() {
  const [weights, setWeights] = useCostWeights()
  const [, again] = useState(0)
  return (
    <>
      <output>{JSON.stringify(weights)}</output>
      <button onClick={() => setWeights({ ...weights, gram: 1.5 })}>dear</button>
      <button onClick={() => setWeights(USUAL_WEIGHTS)}>usual</button>
      <button onClick={() => again((n) => n + 1)}>again</button>
    </>
  )
}
const weights = () => JSON.parse(screen.getByRole('status').textContent!) as typeof USUAL_WEIGHTS

test('what things are worth is kept in this browser; nonsense kept there is as usual', () => {
  localStorage.clear()
  const first = render(<Weights />)
  expect(weights()).toEqual(USUAL_WEIGHTS)
  fireEvent.click(screen.getByText('dear'))
  expect(weights().gram).toBe(1.5)
  first.unmount()
  const second = render(<Weights />)
  expect(weights().gram).toBe(1.5)
  fireEvent.click(screen.getByText('usual'))
  second.unmount()
  for (const key of Object.keys(localStorage)) localStorage.setItem(key, '{"gram":')
  render(<Weights />)
  expect(weights()).toEqual(USUAL_WEIGHTS)
})

test('changes of a trial go one after another, and an answer that a later change is not in yet does not take its place', async () => {
  const client = new QueryClient({ defaultOptions: { mutations: { networkMode: 'always' } } })
  const key = keys.trials.one('t')
  const began: number[] = []
  const answer: ((v: unknown) => void)[] = []
  function Changing() {
    const change = useTrialChange('t', (n: number) => {
      began.push(n)
      return new Promise<never>((resolve) => answer.push(resolve as (v: unknown) => void))
    })
    return (
      <>
        {[1, 2, 3].map((n) => (
          <button key={n} onClick={() => (client.setQueryData(key, { shown: n }), change.mutate(n))}>
            {n}
          </button>
        ))}
      </>
    )
  }
  render(
    <QueryClientProvider client={client}>
      <Changing />
    </QueryClientProvider>,
  )
  for (const n of [1, 2, 3]) fireEvent.click(screen.getByText(n))
  await waitFor(() => expect(began).toEqual([1]))
  await act(async () => answer[0]({ shown: 'after 1', pairId: 'p' }))
  await waitFor(() => expect(began).toEqual([1, 2]))
  // what the third has shown already stays in sight
  expect(client.getQueryData(key)).toEqual({ shown: 3 })
  await act(async () => answer[1]({ shown: 'after 2', pairId: 'p' }))
  await waitFor(() => expect(began).toEqual([1, 2, 3]))
  await act(async () => answer[2]({ shown: 'after 3', pairId: 'p' }))
  await waitFor(() => expect(client.getQueryData(key)).toEqual({ shown: 'after 3', pairId: 'p' }))
})
