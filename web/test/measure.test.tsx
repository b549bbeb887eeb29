import { screen, waitFor, within } from '@testing-library/react'
import type { MeasurementRecord } from '@verimend/contract'
import { NO_CORRECTION, USUAL_INSTRUMENT, type Measured } from '@verimend/core/measurement'
import Measure from '../src/measure/Measure'
import MeasurementPage from '../src/measure/MeasurementPage'
import { answerTo, demoServer, only, pairOf, problem, sent, undo } from './demo'
import { show, type Answers } from './show'
import { withWorkers } from './worker'

withWorkers()
const fern = pairOf('Fern green')
beforeEach(() => {
  sessionStorage.clear()
  localStorage.setItem('verimend.pair', fern.id)
})
const ID = '11111111-1111-4111-8111-111111111111'
const record = (measured: Measured, more: Partial<MeasurementRecord> = {}): MeasurementRecord => ({
  id: ID,
  rev: 1,
  machineId: fern.machineId,
  pairId: fern.id,
  caseId: null,
  version: fern.current,
  inUse: NO_CORRECTION,
  measured,
  note: '',
  acted: null,
  createdAt: '2026-11-01T10:00:00.000Z',
  updatedAt: '2026-11-01T10:00:00.000Z',
  ...more,
})
/** A page of a measurement, with a server that keeps what is sent. */
async function open(measured: Measured, answers: Answers = {}, more: Partial<MeasurementRecord> = {}) {
  const m = record(measured, more)
  const asked = demoServer({
    [`GET measurements/${ID}`]: m,
    [`PUT measurements/${ID}`]: { ...m, rev: 2 },
    ...answers,
  })
  const view = show(<MeasurementPage />, { at: `/measure/${ID}`, route: '/measure/:id' })
  await screen.findByRole('heading', { name: 'What it says' })
  return { ...view, asked }
}
const sizes: Measured = { kind: 'sizes', instrument: USUAL_INSTRUMENT, readings: [], wanted: [] }
const says = () => screen.getByRole('region', { name: 'What it says' })

test('what can be measured, what was, and one taken off the list comes back', async () => {
  const [kept] = answerTo<MeasurementRecord[]>(`measurements?machineId=${fern.machineId}&pairId=${fern.id}`)
  const asked = demoServer({
    [`DELETE measurements/${kept.id}`]: kept,
    [`POST measurements/${kept.id}/restore`]: kept,
    'POST measurements': record(sizes),
  })
  const { user } = show(<Measure />, { at: '/measure', route: '/measure' })
  const row = within(await screen.findByTestId('measurements'))
  expect(row.getByRole('link', { name: 'Sizes' })).toBeTruthy()
  await user.click(row.getByRole('button', { name: /^Remove/ }))
  await undo(/is removed/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(1))
  await user.click(screen.getByRole('button', { name: /^The bed/ }))
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(2))
  // a machine levelled by hand starts with nine places to feel
  expect(sent(asked, 'POST')[1].body).toMatchObject({
    machineId: fern.machineId,
    pairId: fern.id,
    measured: { kind: 'bed', from: 'felt' },
  })
})

test('a cube by keyboard: Enter takes a size and moves on, a comma is a point, what is odd is asked about', async () => {
  const { user, asked } = await open(sizes)
  await user.click(screen.getByRole('button', { name: 'A cube of this side' }))
  const field = () => screen.getByLabelText('What it measures')
  await user.type(field(), '20,18{Enter}')
  expect(document.querySelector('[data-next]')!.getAttribute('data-next')).toBe('y')
  await user.type(field(), '0.79{Enter}')
  expect(screen.getByRole('alert').textContent).toMatch(/looks like inches\. Is it 20\.07/)
  await user.click(screen.getByRole('button', { name: 'Take 20.07 mm' }))
  expect(document.querySelector('[data-next]')!.getAttribute('data-next')).toBe('z')
  await user.type(field(), 'x{Enter}')
  expect(screen.getByRole('alert').textContent).toMatch(/Enter a number/)
  await user.clear(field())
  await user.type(field(), '20.02{Enter}')
  await waitFor(() => expect(sent(asked, 'PUT').length).toBeGreaterThan(0))
  await waitFor(() => {
    const last = sent(asked, 'PUT').at(-1)!.body as { measured: Extract<Measured, { kind: 'sizes' }> }
    expect(last.measured.readings.map((r) => r.measures)).toEqual([[20.18], [20.07], [20.02]])
  })
  await waitFor(() => expect(says().textContent).toMatch(/cannot separate/))
})

test('sizes go into the recipe with their ±, and can be taken back', async () => {
  const [kept] = answerTo<MeasurementRecord[]>(`measurements?machineId=${fern.machineId}&pairId=${fern.id}`)
  const acted = {
    ...record(kept.measured),
    rev: 2,
    acted: { version: fern.current + 1, what: 'recipe' as const },
  }
  const { user, asked } = await open(kept.measured, {
    [`POST measurements/${ID}/adopt`]: acted,
    [`POST pairs/${fern.id}/restore`]: fern.version,
  })
  await screen.findByRole('region', { name: 'For the recipe' })
  expect(says().textContent).toMatch(/The contour: \+0\.1/)
  expect(says().textContent).toMatch(/IT\d+/)
  await user.click(screen.getByRole('checkbox', { name: 'Scale X' }))
  await user.click(screen.getByRole('button', { name: `Take into version ${fern.current + 1}` }))
  const body = await only<{ base: number; keys: string[] }>(asked, 'POST')
  expect(body.base).toBe(fern.current)
  expect(body.keys).toEqual(['contourOffset', 'scaleY'])
  await undo(/Taken into version/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(2))
})

test('a pasted grid: read as it is typed, a short row is one sentence, turns for the screws', async () => {
  const { user, asked } = await open({ kind: 'bed', from: 'grid', points: [] })
  const field = screen.getByLabelText('The grid as the machine reports it')
  await user.click(field)
  await user.paste('0.30 0.15 0.00\n0.30 0.15')
  expect(screen.getByRole('alert').textContent).toBe('Row 2 has 2 numbers, the others 3.')
  await user.clear(field)
  await user.paste('0.30 0.15 0.00\n0.30 0.15 0.00\n0.30 0.15 0.00')
  await waitFor(() => expect(says().textContent).toMatch(/Back left: .*anticlockwise/))
  expect(document.querySelectorAll('[data-residual]')).toHaveLength(9)
  await waitFor(() => expect(sent(asked, 'PUT').length).toBeGreaterThan(0))
})

test('heights of bands: the screw’s turn fits; a list may come in one go', async () => {
  const { user } = await open({ kind: 'bands', heights: [], spacing: null })
  await user.type(screen.getByLabelText('Height of a band'), '3 11 19 27 35 abc{Enter}')
  expect(screen.getByRole('alert').textContent).toMatch(/“abc” is no number/)
  await user.clear(screen.getByLabelText('Height of a band'))
  await user.type(screen.getByLabelText('Height of a band'), '3 11 19,05 27 35 43{Enter}')
  await waitFor(() => expect(says().textContent).toMatch(/One turn of the Z screw fits/))
})

test('a feed that is off: the steps, and noted on the machine; a refusal is said and nothing typed is lost', async () => {
  const feed: Measured = { kind: 'feed', asked: 100, fed: [95, 95.1, 94.9], steps: 93 }
  const { user, asked } = await open(feed, {
    [`POST measurements/${ID}/apply`]: problem(422, 'That has been noted already.'),
    [`PUT measurements/${ID}`]: problem(
      409,
      'This measurement was changed in another window. Yours is kept here.',
    ),
  })
  await waitFor(() => expect(says().textContent).toMatch(/97\.\d+ steps\/mm/))
  await user.click(screen.getByRole('button', { name: /I corrected the steps/ }))
  expect(await screen.findByText('That has been noted already.')).toBeTruthy()
  await user.type(screen.getByLabelText('What was fed'), '95.05{Enter}')
  expect(await screen.findByText(/Yours is kept here/)).toBeTruthy()
  expect(screen.getByText('95.1')).toBeTruthy()
  expect(sent(asked, 'PUT').length).toBeGreaterThan(0)
})
