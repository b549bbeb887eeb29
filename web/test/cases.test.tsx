import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import type { CaseLesson, CaseStatistics } from '@verimend/contract'
import type { SuspectId } from '@verimend/core/knowledge'
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
  pageOf,
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
  const slate = DEMO_ROLLS.find((r) => r.filament.name === 'Slate')!
  const pair = DEMO_PAIRS.find((p) => p.filamentId === slate.id)!
  const asked = demoServer({
    'GET cases?status=closed': pageOf(closed),
    [`GET cases?status=open&pairId=${pair.id}&family=seam&search=peg`]: pageOf([]),
  })
  const { user, where } = show(<CaseList />)
  await waitFor(() => expect(rows('case')).toHaveLength(DEMO_CASES.length))
  await user.click(screen.getByText('Closed', { selector: '.ant-segmented-item-label' }))
  await waitFor(() => expect(parts()).toEqual(closed.map((c) => c.part)))
  await user.click(screen.getByText('Open', { selector: '.ant-segmented-item-label' }))
  await pick('Cases of a kind of fault', 'Seam')
  await pick('Cases of a pair', /^Slate/)
  await user.type(screen.getByLabelText('Cases of a part'), 'peg')
  expect(await screen.findByText('No case is like that.')).toBeTruthy()
  // the way back to just this list is in the address
  expect(where()).toBe(`/?show=open&fault=seam&pair=${pair.id}`)
  // letters are not asked for one by one
  expect(asked.filter((a) => /search=/.test(a.path))).toHaveLength(1)
})

test('a long list comes in pages, and another choice begins at the first', async () => {
  const many = (from: number) => ({
    cases: [{ ...DEMO_CASES[0], id: `case-${from}`, part: `Peg ${from}` }],
    total: 5000,
  })
  demoServer({ 'GET cases': many(1), 'GET cases?skip=50': many(51), 'GET cases?status=open': many(7) })
  const { user, where } = show(<CaseList />)
  await screen.findByText('1 to 50 of 5000')
  await user.click(screen.getByTitle('2'))
  await screen.findByText('Peg 51')
  expect(screen.getByText('51 to 100 of 5000')).toBeTruthy()
  expect(where()).toBe('/?page=2')
  await user.click(screen.getByText('Open', { selector: '.ant-segmented-item-label' }))
  await screen.findByText('Peg 7')
  expect(where()).toBe('/?show=open')
})

test('what worked here: what closed cases cost, and the causes that were cured', async () => {
  const suspect: SuspectId = 'retraction-too-short'
  const statistics: CaseStatistics = [
    { family: 'strings', closed: 3, attempts: 4 / 3, grams: 12, worked: [{ suspect, count: 2 }] },
    { family: 'size', closed: 1, attempts: 1, grams: 0, worked: [] },
  ]
  demoServer({ 'GET cases/statistics': statistics })
  show(<CaseList />)
  const worked = within(await screen.findByLabelText('What worked here'))
  const [, strings, size] = worked.getAllByRole('row').map((r) => r.textContent)
  expect(strings).toBe(`Strings and debris31.312${suspectName(suspect).toLowerCase()} (2)`)
  expect(size).toBe('Size11–none found')
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
  demoServer({ 'GET cases': pageOf([]) })
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
  expect(sessionStorage.getItem('draft.newCase')).toBeNull()
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
