import { screen, waitFor, within } from '@testing-library/react'
import { ASPECT_IDS, READINESS_STATES } from '@verimend/core/casework'
import { READINESS_WORDS } from '@verimend/core/words'
import Bench from '../src/bench/Bench'
import { ReadyMark } from '../src/bench/Readiness'
import type { CasePage } from '@verimend/contract'
import {
  answerTo,
  DEMO_CASES,
  DEMO_PAIRS,
  DEMO_PRINTERS,
  DEMO_READINESS,
  DEMO_ROLLS,
  demoServer,
  only,
  pageOf,
  problem,
  rows,
  sent,
} from './demo'
import { show } from './show'

beforeEach(() => localStorage.clear())
const OPEN_CASES = answerTo<CasePage>('cases?status=open&limit=24')
const card = (part: string) => screen.getByText(part).closest('a')!

test('every open case lies there with what comes next, closed ones do not', async () => {
  demoServer()
  show(<Bench />)
  await screen.findByText('Vent hinge')
  const open = DEMO_CASES.filter((c) => c.status === 'open')
  expect(within(screen.getByLabelText('Open cases')).getAllByRole('link')).toHaveLength(open.length)
  expect(OPEN_CASES.total).toBe(open.length)
  expect(screen.queryByText('Hose coupling')).toBeNull()
  expect(card('Vent hinge').textContent).toContain('change one thing')
  expect(card('Seed-tray labels').textContent).toContain('look again')
  await waitFor(() => expect(card('Vent hinge').textContent).toContain('Morning dew on Greenhouse'))
})

test('a case whose signs are gone is to be closed, one without any to be looked at', async () => {
  const [one, two] = DEMO_CASES
  demoServer({
    'GET cases?status=open&limit=24': pageOf([
      { ...one, part: 'Nothing left', seen: [], attempts: 2, awaiting: false },
      { ...two, part: 'Just begun', seen: [], attempts: 0, awaiting: false },
    ]),
  })
  show(<Bench />)
  await screen.findByText('Nothing left')
  expect(card('Nothing left').textContent).toContain('close it')
  expect(card('Nothing left').textContent).toContain('2 attempts')
  expect(card('Just begun').textContent).toContain('mark what you see')
})

test('a disk that is nearly full is told before it is, one with room is not', async () => {
  demoServer({ 'GET health': { status: 'ok', room: 340_500_000 } })
  const { unmount } = show(<Bench />)
  expect(await screen.findByText(/Only 340 MB are left/)).toBeTruthy()
  unmount()
  demoServer({ 'GET health': { status: 'ok', room: 40e9 } })
  show(<Bench />)
  await screen.findByText('Vent hinge')
  expect(screen.queryByText(/are left on the disk/)).toBeNull()
})

describe('an empty bench leads to the first case', () => {
  const nothing = {
    'GET cases': pageOf([]),
    'GET cases?status=open&limit=24': pageOf([]),
    'GET pairs/readiness': { pairs: [], total: 0 },
    'GET pairs': [],
    'GET filaments': [],
    'GET machines': [],
  }
  const step = () => document.querySelector('[aria-current="step"]')!.textContent

  test('from nothing: a roll first, a machine as well, or practice', async () => {
    demoServer(nothing)
    const { user, where } = show(<Bench />)
    const steps = await screen.findByLabelText('First steps')
    expect(step()).toContain('A roll')
    expect(within(steps).getAllByRole('listitem')).toHaveLength(4)
    expect(within(steps).getByRole('link', { name: 'Add a machine' })).toBeTruthy()
    expect(screen.getByLabelText('Practice')).toBeTruthy()
    expect(screen.queryByText('Readiness of the pairs')).toBeNull()
    await user.click(within(steps).getByRole('link', { name: 'Add a roll' }))
    expect(where()).toBe('/shelf/new')
  })

  test('with one roll and one machine their pair is one press, and the first case follows', async () => {
    let opened = false
    const asked = demoServer({
      ...nothing,
      'GET filaments': [DEMO_ROLLS[0]],
      'GET machines': [DEMO_PRINTERS[0]],
      'GET pairs': () => (opened ? [DEMO_PAIRS[0]] : []),
      'POST pairs': () => {
        opened = true
        return answerTo(`pairs/${DEMO_PAIRS[0].id}`)
      },
    })
    const { user } = show(<Bench />)
    await screen.findByLabelText('First steps')
    expect(step()).toContain('The pair')
    const { filament } = DEMO_ROLLS[0]
    await user.click(
      screen.getByRole('button', { name: `${filament.name} on ${DEMO_PRINTERS[0].machine.name}` }),
    )
    expect(await only(asked, 'POST')).toEqual({
      machineId: DEMO_PRINTERS[0].id,
      filamentId: DEMO_ROLLS[0].id,
    })
    await waitFor(() => expect(step()).toContain('The first case'))
    expect(screen.getByRole('link', { name: 'Begin a case' })).toBeTruthy()
  })

  test('with a case behind one, an empty bench only says how the next begins', async () => {
    demoServer({ 'GET cases?status=open&limit=24': pageOf([]) })
    show(<Bench />)
    await screen.findByText(/Nothing is open/)
    await waitFor(() => expect(rows('pair')).toHaveLength(DEMO_PAIRS.length))
    expect(screen.queryByLabelText('First steps')).toBeNull()
  })
})

test('cases that cannot be fetched say so, the pairs are shown all the same, and trying again works', async () => {
  let broken = true
  const asked = demoServer({
    'GET cases?status=open&limit=24': () => (broken ? problem(500, 'The database is away.') : OPEN_CASES),
  })
  const { user } = show(<Bench />)
  const alert = await screen.findByRole('alert')
  expect(alert.textContent).toContain('The database is away.')
  await waitFor(() => expect(rows('pair')).toHaveLength(DEMO_PAIRS.length))
  broken = false
  await user.click(within(alert).getByRole('button', { name: 'Try again' }))
  await screen.findByText('Vent hinge')
  expect(sent(asked, 'GET').filter((a) => a.path === 'cases?status=open&limit=24')).toHaveLength(2)
})

test('readiness: one mark an aspect, the next step with its cost, and the pair to work with is chosen', async () => {
  demoServer()
  const { user } = show(<Bench />)
  await waitFor(() => expect(rows('pair')).toHaveLength(DEMO_PAIRS.length))
  for (const [i, row] of rows('pair').entries()) {
    const { aspects, next } = DEMO_READINESS[i]
    const marks = [...row.querySelectorAll('[role="img"]')].map((m) => m.getAttribute('aria-label'))
    expect(marks).toEqual(aspects.map((a) => READINESS_WORDS[a.state]))
    expect(marks).toHaveLength(ASPECT_IDS.length)
    if (next) expect(row.textContent).toContain(`${next.minutes} min`)
  }
  const current = () => rows('pair').findIndex((r) => r.getAttribute('aria-current') === 'true')
  expect(current()).toBe(DEMO_READINESS.findIndex((r) => r.pairId === DEMO_PAIRS[0].id))
  const other = current() === 0 ? 1 : 0
  await user.click(within(rows('pair')[other]).getByRole('button', { name: 'Work with it' }))
  expect(current()).toBe(other)
  expect(localStorage.getItem('verimend.pair')).toBe(DEMO_READINESS[other].pairId)
})

test('states differ in shape, not in colour alone', () => {
  show(
    <>
      {READINESS_STATES.map((s) => (
        <ReadyMark key={s} state={s} title={s} />
      ))}
    </>,
  )
  const shapes = READINESS_STATES.map((s) =>
    [...screen.getByLabelText(READINESS_WORDS[s]).children]
      .map((c) => `${c.tagName}${c.getAttribute('class')}`)
      .join(),
  )
  expect(new Set(shapes).size).toBe(READINESS_STATES.length)
})

test('a pair whose roll was put away is left out, the others stand', async () => {
  const gone = DEMO_PAIRS[0].filamentId
  demoServer({ 'GET filaments': DEMO_ROLLS.filter((r) => r.id !== gone) })
  show(<Bench />)
  const left = DEMO_PAIRS.filter((p) => p.filamentId !== gone).length
  await waitFor(() => expect(rows('pair')).toHaveLength(left))
})
