import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import type { Trial } from '@verimend/contract'
import { ASPECTS } from '@verimend/core/casework'
import { PIECES, PIECE_IDS, isPiece, outcomeAmong, type Outcome } from '@verimend/core/trials'
import { READINESS_WORDS, say, sayAll, valueText } from '@verimend/core/words'
import PlanTrial from '../src/trials/PlanTrial'
import TrialPage from '../src/trials/TrialPage'
import TrialsScreen from '../src/trials/TrialsScreen'
import { FitChart } from '../src/trials/FitChart'
import {
  DEMO_READINESS,
  copyOf,
  demoServer,
  only,
  pairOf,
  pick,
  problem,
  rows,
  sent,
  trialsOf,
  undo,
} from './demo'
import { show, type Answers } from './show'
import { onBench } from '../src/pairs/onBench'
import { started, withWorkers } from './worker'

withWorkers()
const dew = pairOf('Morning dew')
const [tower] = trialsOf(dew)
const outcomeOf = (t: Trial) => outcomeAmong(t, trialsOf(dew), onBench(dew))
beforeEach(() => {
  sessionStorage.clear()
  localStorage.setItem('verimend.pair', dew.id)
})

test('what is still to be found: every aspect that a piece can settle, with what it costs', async () => {
  demoServer()
  const { user, where } = show(<TrialsScreen />, { at: '/trials', route: '/trials' })
  await screen.findByLabelText('What is still to be found')
  const { aspects } = DEMO_READINESS.find((r) => r.pairId === dew.id)!
  const shown = [...document.querySelectorAll<HTMLElement>('[data-aspect]')]
  expect(shown.map((r) => r.dataset.aspect)).toEqual(
    aspects.filter((a) => isPiece(ASPECTS[a.id].by)).map((a) => a.id),
  )
  for (const r of shown) {
    const { state } = aspects.find((a) => a.id === r.dataset.aspect)!
    expect(r.textContent).toContain(READINESS_WORDS[state])
  }
  const all = screen.getByText('All pieces').nextElementSibling!
  expect(all.querySelectorAll('li')).toHaveLength(PIECE_IDS.length)
  await user.click(screen.getAllByRole('button', { name: /Plan it|Go on with trial/ })[0])
  expect(where()).toMatch(/^\/trials\//)
})

test('a trial that was read says what came of it; it is put away and comes back', async () => {
  const asked = demoServer({
    [`DELETE trials/${tower.id}`]: tower,
    [`POST trials/${tower.id}/restore`]: tower,
  })
  const { user } = show(<TrialsScreen />, { at: '/trials', route: '/trials' })
  await waitFor(() => expect(rows('trial')).toHaveLength(trialsOf(dew).length))
  await waitFor(() => expect(rows('trial')[0].textContent).toContain(say(outcomeOf(tower).reasons[0])))
  await user.click(screen.getByRole('button', { name: `Remove trial ${tower.number}` }))
  await undo(/is put away/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(1))
})

test('more than the roll holds is said', async () => {
  const poor = copyOf(dew)
  poor.filament.filament.weightLeft = 1
  demoServer({ [`GET pairs/${dew.id}`]: poor })
  show(<TrialsScreen />, { at: '/trials', route: '/trials' })
  await screen.findByText(/The roll does not hold enough for all of them/)
})

test('no trial yet, and no pair yet', async () => {
  demoServer({ [`GET trials?pairId=${dew.id}`]: [] })
  const { unmount } = show(<TrialsScreen />)
  await screen.findByText(/No trial of this pair yet/)
  unmount()
  localStorage.clear()
  demoServer({ 'GET pairs': [] })
  show(<TrialsScreen />)
  await screen.findByText(/a trial is always of a pair/)
})

const plan = (piece: string, answers: Answers = {}, query = '') => {
  const asked = demoServer(answers)
  return {
    asked,
    ...show(<PlanTrial />, { at: `/trials/new/${piece}${query}`, route: '/trials/new/:piece' }),
  }
}
const field = (label: string | RegExp) => screen.getByLabelText<HTMLInputElement>(label)
const make = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Make this trial' })

test('what was planned outlives the page until the trial is made', async () => {
  const first = plan('temperature-tower', { 'POST trials': tower })
  await waitFor(() => expect(make().disabled).toBe(false))
  const from = Number(field('Nozzle, first').value)
  fireEvent.change(field('Nozzle, first'), { target: { value: String(from + 1) } })
  fireEvent.blur(field('Nozzle, first'))
  fireEvent.change(field('Time budget, min'), { target: { value: '45' } })
  first.unmount()
  const { user } = plan('temperature-tower', { 'POST trials': tower })
  await waitFor(() => expect(make().disabled).toBe(false))
  expect([Number(field('Nozzle, first').value), field('Time budget, min').value]).toEqual([from + 1, '45'])
  await user.click(make())
  await waitFor(() => expect(sessionStorage.length).toBe(0))
})

test('a piece is planned round the best an earlier trial found, written, drawn, and made', async () => {
  const { user, asked, where } = plan('temperature-tower', { 'POST trials': tower })
  await waitFor(() => expect(make().disabled).toBe(false))
  const { best } = outcomeOf(tower)
  const [from, to] = [Number(field('Nozzle, first').value), Number(field('Nozzle, last').value)]
  expect(Math.min(from, to)).toBeLessThanOrEqual(best!)
  expect(Math.max(from, to)).toBeGreaterThanOrEqual(best!)
  expect(screen.getByText(/of the recipe, within what Greenhouse can do/)).toBeTruthy()
  await user.click(make())
  const body = await only<{ pairId: string; plan: Trial['plan']; caseId: string | null }>(asked, 'POST')
  expect(body).toMatchObject({ pairId: dew.id, caseId: null, plan: { piece: 'temperature-tower' } })
  expect(body.plan.steps).toMatchObject({ key: 'nozzle', from, to })
  await waitFor(() => expect(where()).toBe(`/trials/${tower.id}`))
})

test('steps that cannot be are said, and nothing can be made of them', async () => {
  const { user } = plan('temperature-tower')
  await waitFor(() => expect(make().disabled).toBe(false))
  await user.clear(field('Nozzle, last'))
  await user.type(field('Nozzle, last'), field('Nozzle, first').value)
  const alert = await screen.findByRole('alert')
  expect(alert.textContent!.length).toBeGreaterThan(10)
  expect(make().disabled).toBe(true)
  await user.clear(field('Nozzle, first'))
  await user.type(field('Nozzle, first'), '900')
  await waitFor(() => expect(make().disabled).toBe(true))
})

test('as many as fit in a time; a plan that is changed ends the writing of the one before', async () => {
  const { user } = plan('temperature-tower')
  await waitFor(() => expect(make().disabled).toBe(false))
  const before = Number(field('How many bands').value)
  await user.type(field('Time budget, min'), '45')
  await user.click(screen.getByRole('button', { name: 'As many as fit' }))
  await waitFor(() => expect(Number(field('How many bands').value)).not.toBe(before))
  await waitFor(() => expect(started.length).toBeGreaterThan(1))
  await waitFor(() => expect(started.slice(0, -1).every((w) => w.ended)).toBe(true))
})

test('what is asked for in the address is what is planned, and the case comes with it', async () => {
  const { user, asked } = plan(
    'retraction-tower',
    { 'POST trials': tower },
    '?from=0.4&to=1.2&count=5&case=c1',
  )
  await waitFor(() => expect(make().disabled).toBe(false))
  await user.click(make())
  const body = await only<{ plan: Trial['plan']; caseId: string }>(asked, 'POST')
  expect(body.plan.steps).toMatchObject({ from: 0.4, to: 1.2, count: 5 })
  expect(body.caseId).toBe('c1')
})

test.each(PIECE_IDS.map((id) => [PIECES[id].name, id]))(
  '%s can be planned for this pair',
  async (name, id) => {
    plan(id)
    await screen.findByRole('heading', { level: 1 })
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe(name)
    await waitFor(() => {
      const alert = screen.queryByRole('alert')
      // a piece may not suit the pair: then a sentence says why
      expect(alert ? alert.textContent!.length > 10 : !make().disabled).toBe(true)
    })
  },
)

test('a piece that there is not', async () => {
  plan('no-such-piece')
  await screen.findByText('There is no such test piece.')
})

test('a trial that cannot be made keeps its plan', async () => {
  const { user } = plan('temperature-tower', { 'POST trials': problem(503, 'Try again in a second.') })
  await waitFor(() => expect(make().disabled).toBe(false))
  const typed = field('Nozzle, first').value
  await user.click(make())
  await screen.findByText('Try again in a second.')
  expect(field('Nozzle, first').value).toBe(typed)
})

const page = (t: Trial, answers: Answers = {}) => {
  const asked = demoServer({ [`GET trials/${t.id}`]: t, ...answers })
  return { asked, ...show(<TrialPage />, { at: `/trials/${t.id}`, route: '/trials/:id' }) }
}

test('what comes of a trial: the answer of core, taken into the recipe on the version it was read in', async () => {
  const { user, asked } = page(tower, { [`POST trials/${tower.id}/adopt`]: tower })
  const outcome = outcomeOf(tower)
  const panel = within(await screen.findByLabelText('What comes of it'))
  await waitFor(() =>
    expect(screen.getByLabelText('What comes of it').textContent).toContain(say(outcome.reasons[0])),
  )
  for (const a of outcome.adopt) {
    const line = document.querySelector(`[data-adopt="${a.key}"]`)!
    expect(line.textContent).toContain(valueText(a.key, a.value))
  }
  await user.click(panel.getByRole('button', { name: 'Take into the recipe' }))
  expect(await only(asked, 'POST')).toEqual({
    base: dew.current,
    keys: outcome.adopt.map((a) => a.key),
  })
})

test('what is left out is not taken; with everything left out there is nothing to take', async () => {
  const { user } = page(tower)
  const panel = within(await screen.findByLabelText('What comes of it'))
  await panel.findByRole('button', { name: 'Take into the recipe' })
  for (const box of panel.getAllByRole('checkbox')) await user.click(box)
  expect(panel.getByRole<HTMLButtonElement>('button', { name: 'Take into the recipe' }).disabled).toBe(true)
})

test('a recipe that moved on: it is said, and the button waits for a look', async () => {
  const { user } = page(tower, {
    [`POST trials/${tower.id}/adopt`]: problem(409, 'The recipe has moved on.'),
  })
  const panel = within(await screen.findByLabelText('What comes of it'))
  await user.click(await panel.findByRole('button', { name: 'Take into the recipe' }))
  await screen.findByText('The recipe has moved on.')
  expect(panel.getByRole<HTMLButtonElement>('button', { name: 'Take into the recipe' }).disabled).toBe(true)
})

test('not read yet: the file first, then the reading', async () => {
  const fresh: Trial = { ...tower, readings: {} }
  const { user, where } = page(fresh)
  await screen.findByText(/Print the piece, look at it place by place/)
  const file = screen.getByText('G-code').closest('a')!
  expect(file.getAttribute('href')).toBe(`/api/trials/${tower.id}/piece.gcode`)
  await user.click(screen.getByRole('button', { name: 'Read the printed piece' }))
  expect(where()).toBe(`/trials/${tower.id}/read`)
})

test('a note is kept when the field is left', async () => {
  const { user, asked } = page(tower, {
    [`PUT trials/${tower.id}`]: (b: unknown) => ({ ...tower, ...(b as object) }),
  })
  await user.type(await screen.findByLabelText('Note on the trial'), 'cold room')
  await user.tab()
  expect(await only(asked, 'PUT')).toEqual({ resolution: tower.resolution, note: 'cold room' })
})

test('where something is measured, the step of the display is asked for', async () => {
  const measured: Trial = {
    ...tower,
    cells: tower.cells.map((c) => ({ ...c, measure: 'wall', nominal: 0.4 })),
  } as Trial
  const { asked } = page(measured, { [`PUT trials/${tower.id}`]: measured })
  await screen.findByLabelText('Step of the caliper’s or scale’s display')
  await pick('Step of the caliper’s or scale’s display', '0.05')
  expect(await only(asked, 'PUT')).toEqual({ resolution: 0.05, note: tower.note })
})

test('the chart: what it shows is named in words, and each line in its key', () => {
  const outcome = outcomeOf(tower)
  demoServer()
  const { container } = show(<FitChart outcome={outcome} inUse={215} newest={tower.number} />)
  expect(container.querySelector('canvas')!.getAttribute('aria-label')).toBe(sayAll(outcome.reasons))
  const key = container.querySelector('figcaption')!.textContent!
  expect(key).toContain('fit')
  expect(key).toContain('in use')
  expect(key).not.toContain('earlier trials')
  const older = show(<FitChart outcome={outcome} inUse={null} newest={tower.number + 1} />)
  expect(older.container.querySelector('figcaption')!.textContent).toContain('earlier trials')
  expect(older.container.querySelector('figcaption')!.textContent).not.toContain('in use')
})

test('without readings there is no chart', () => {
  demoServer()
  const empty: Outcome = { ...outcomeOf(tower), points: [], curve: [], best: null, low: null, high: null }
  const { container } = show(<FitChart outcome={empty} inUse={null} newest={1} />)
  expect(container.querySelector('figure')).toBeNull()
})
