import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import type { CaseLesson, CaseSummary } from '@verimend/contract'
import { SIGN_IDS, SIGNS, suspectOf, type SuspectId } from '@verimend/core/knowledge'
import { signNames, suspectName } from '@verimend/core/words'
import CaseList from '../src/cases/CaseList'
import NewCase from '../src/cases/NewCase'
import {
  DEMO_CASES,
  DEMO_PAIRS,
  DEMO_ROLLS,
  caseOf,
  demoServer,
  only,
  pick,
  problem,
  rows,
  sent,
  undo,
} from './demo'
import { show } from './show'

beforeEach(() => {
  localStorage.clear()
  sessionStorage.clear()
})
const parts = () => rows('case').map((r) => r.querySelector('a')!.textContent)
const closed = DEMO_CASES.filter((c) => c.status === 'closed')

test('all cases stand there, open ones first, each with its pair and what is seen', async () => {
  demoServer()
  show(<CaseList />)
  await waitFor(() => expect(rows('case')).toHaveLength(DEMO_CASES.length))
  const states = rows('case').map((r) => DEMO_CASES.find((c) => r.textContent!.includes(c.part))!.status)
  expect(states).toEqual([...states].sort().reverse())
  await waitFor(() => expect(rows('case')[0].textContent).toMatch(/ on (Greenhouse|Potting shed)/))
  const hinge = rows('case').find((r) => r.textContent!.includes('Vent hinge'))!
  expect(hinge.textContent).toContain(signNames(DEMO_CASES.find((c) => c.part === 'Vent hinge')!.seen))
})

test('shown by state, by pair and by kind of fault, and all of them together', async () => {
  demoServer()
  const { user } = show(<CaseList />)
  await waitFor(() => expect(rows('case')).toHaveLength(DEMO_CASES.length))
  await user.click(screen.getByText('Closed', { selector: '.ant-segmented-item-label' }))
  expect(parts()).toEqual(closed.map((c) => c.part))
  await user.click(screen.getByText('Open', { selector: '.ant-segmented-item-label' }))
  expect(rows('case')).toHaveLength(DEMO_CASES.length - closed.length)
  await pick('Cases of a kind of fault', 'Seam')
  const ofSeam = (c: CaseSummary) => c.seen.some((s) => SIGNS[s].family === 'seam')
  expect(parts().sort()).toEqual(
    DEMO_CASES.filter((c) => c.status === 'open' && ofSeam(c))
      .map((c) => c.part)
      .sort(),
  )
  const slate = DEMO_ROLLS.find((r) => r.filament.name === 'Slate')!
  const pair = DEMO_PAIRS.find((p) => p.filamentId === slate.id)!
  await pick('Cases of a pair', /^Slate/)
  const both = DEMO_CASES.filter((c) => c.pairId === pair.id && c.status === 'open' && ofSeam(c))
  if (both.length) expect(parts()).toEqual(both.map((c) => c.part))
  else expect(screen.getByText('No case in this state.')).toBeTruthy()
})

test('a closed case that shows nothing any more is of the kinds its cure went for', async () => {
  const cause: SuspectId = 'retraction-too-short'
  demoServer({ 'GET cases': [{ ...closed[0], part: 'Cured', seen: [], causes: [cause], grams: 12 }] })
  show(<CaseList />)
  await screen.findByText('Cured')
  const families = new Set(
    SIGN_IDS.filter((s) => suspectOf(cause).signs[s]).map((s) => SIGNS[s].family as string),
  )
  const worked = within(screen.getByLabelText('What worked here'))
  expect(worked.getAllByRole('row')).toHaveLength(1 + families.size)
  expect(worked.getAllByText(suspectName(cause).toLowerCase())).toHaveLength(families.size)
  expect(worked.getAllByText('12')).toHaveLength(families.size)
})

test('put away and brought back', async () => {
  const gone = DEMO_CASES[0]
  const asked = demoServer({
    [`DELETE cases/${gone.id}`]: caseOf(gone.part),
    [`POST cases/${gone.id}/restore`]: caseOf(gone.part),
  })
  const { user } = show(<CaseList />)
  await user.click(await screen.findByRole('button', { name: `Remove ${gone.part}` }))
  await undo(/is put away/)
  await waitFor(() => expect(sent(asked, 'POST').map((a) => a.path)).toEqual([`cases/${gone.id}/restore`]))
})

test('what was learnt: figures move as a case is left out', async () => {
  const lesson: CaseLesson = {
    caseId: closed[0].id,
    part: 'Hose coupling',
    pairId: DEMO_PAIRS[0].id,
    causes: ['nozzle-too-hot'],
    samePair: true,
    sameMachine: true,
    sameFamily: true,
    learns: true,
  } as CaseLesson
  let learns = true
  const asked = demoServer({
    [`GET cases/lessons?pairId=${DEMO_PAIRS[0].id}`]: () => [{ ...lesson, learns }],
    [`PUT cases/${closed[0].id}/learns`]: (b: unknown) => {
      learns = (b as { learns: boolean }).learns
      return caseOf('Hose coupling')
    },
  })
  const { user } = show(<CaseList />)
  const learnt = within(await screen.findByLabelText('What was learnt'))
  const row = learnt.getByText(suspectName('nozzle-too-hot')).closest('tr')!
  const [before, now] = [...row.querySelectorAll('td')].slice(1, 3).map((c) => parseFloat(c.textContent!))
  expect(now).toBeGreaterThan(before)
  await user.click(learnt.getByRole('checkbox'))
  await screen.findByText(/Every case is left out/)
  expect(await only(asked, 'PUT')).toEqual({ learns: false })
})

test('no case at all, and a list that does not come', async () => {
  demoServer({ 'GET cases': [] })
  const { user, where } = show(<CaseList />)
  await screen.findByText(/No case yet/)
  await user.click(screen.getByRole('button', { name: 'Begin a case' }))
  expect(where()).toBe('/cases/new')
})

const begin = () => screen.getByRole('button', { name: 'Begin' })

test('a new case wants a part; what was typed outlives the page; it is sent once and opened', async () => {
  const made = caseOf('Vent hinge')
  const asked = demoServer({ 'POST cases': made })
  const first = show(<NewCase />, { at: '/cases/new', route: '/cases/new' })
  await waitFor(() => expect(screen.queryByRole('button', { name: 'Choose a pair' })).toBeNull())
  await first.user.click(begin())
  await waitFor(() =>
    expect(document.querySelector('.ant-form-item-explain-error')?.textContent).toBeTruthy(),
  )
  expect(sent(asked, 'POST')).toEqual([])
  await first.user.type(screen.getByLabelText(/Which part came out wrong/), 'Bracket')
  first.unmount()
  const { user, where } = show(<NewCase />, { at: '/cases/new', route: '/cases/new' })
  expect(screen.getByLabelText<HTMLInputElement>(/Which part came out wrong/).value).toBe('Bracket')
  await user.click(screen.getByTestId('places').querySelectorAll('input')[1])
  await user.click(begin())
  await waitFor(() => expect(where()).toBe(`/cases/${made.id}`))
  const body = await only<{ part: string; pairId: string; place: string | null }>(asked, 'POST')
  expect(body).toMatchObject({ part: 'Bracket', pairId: DEMO_PAIRS[0].id })
  expect(body.place).not.toBeNull()
  expect(sessionStorage.getItem('draft.case')).toBeNull()
})

test('without a pair the choice of one is put first, nothing is sent', async () => {
  const asked = demoServer({ 'GET pairs': [] })
  const { user } = show(<NewCase />)
  await screen.findByRole('button', { name: 'Choose a pair' })
  fireEvent.change(screen.getByLabelText(/Which part/), { target: { value: 'Bracket' } })
  await user.click(begin())
  await screen.findByText('Which filament on which machine?')
  expect(sent(asked, 'POST')).toEqual([])
})

test('a case that the server will not begin keeps what was typed', async () => {
  demoServer({ 'POST cases': problem(409, 'This pair was put away.') })
  const { user } = show(<NewCase />)
  await user.type(await screen.findByLabelText(/Which part/), 'Bracket')
  await user.click(begin())
  await screen.findByText('This pair was put away.')
  expect(screen.getByLabelText<HTMLInputElement>(/Which part/).value).toBe('Bracket')
})
