import { cleanup, screen, waitFor, within } from '@testing-library/react'
import type { Attempt, CaseDetail } from '@verimend/contract'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { SIGN_IDS, SIGNS_AT, signOf, type SignId } from '@verimend/core/knowledge'
import { said } from '@verimend/core/quantity'
import { deriveRecipe, layOver } from '@verimend/core/recipe'
import { EMPTY_CASE, diagnoseCase } from '@verimend/core/casework'
import type { SignStates } from '@verimend/core/diagnosis'
import { useState } from 'react'
import { BalancePanel } from '../src/cases/BalancePanel'
import { OutcomeForm } from '../src/cases/OutcomeForm'
import { SignPicker } from '../src/cases/SignPicker'
import CommandSearch from '../src/frame/CommandSearch'
import { DEMO_CASES, pageOf } from './demo'
import { server, show } from './show'

const id = '0190d8a4-7d1c-7000-8000-000000000003'
beforeEach(() => {
  sessionStorage.clear()
  localStorage.clear()
})

function Picker({ onSigns, place }: { onSigns: (s: SignStates) => void; place?: 'base' }) {
  const [signs, setSigns] = useState<SignStates>({})
  return (
    <SignPicker
      signs={signs}
      start="strings"
      place={place}
      onSet={(s, state) => {
        const next = { ...signs }
        if (state) next[s] = state
        else delete next[s]
        setSigns(next)
        onSigns(next)
      }}
    />
  )
}
const card = (sign: SignId) => within(document.querySelector<HTMLElement>(`[data-sign="${sign}"]`)!)

test('a sign is seen, not there, or not looked at: three different things', async () => {
  server({})
  let kept: SignStates = {}
  const { user } = show(<Picker onSigns={(s) => (kept = s)} />)
  await user.click(card('strings-thin').getByLabelText('Seen'))
  await user.click(card('popping-or-steam').getByLabelText('Not there'))
  expect(kept).toEqual({ 'strings-thin': 'present', 'popping-or-steam': 'absent' })
  await user.click(card('popping-or-steam').getByLabelText('Not looked'))
  expect(kept).toEqual({ 'strings-thin': 'present' })
  expect(screen.getByText('Strings and debris (1)')).toBeTruthy()
})

test('begun at the base, only signs of the base are shown, and others can still be found', async () => {
  server({})
  const { user } = show(<Picker onSigns={() => undefined} place="base" />)
  const shown = () => [...document.querySelectorAll('[data-sign]')].map((e) => e.getAttribute('data-sign'))
  expect(shown()).toEqual(SIGNS_AT.base)
  expect(shown().length).toBeLessThan(SIGN_IDS.length / 3)
  await user.click(screen.getByText('kind of fault'))
  await user.click(screen.getByText('Seam'))
  expect(shown()).toContain('seam-line')
})

const attempt: Attempt = {
  number: 1,
  mends: [
    {
      kind: 'setting',
      proposal: 'nozzle-too-hot/0',
      suspect: 'nozzle-too-hot',
      key: 'nozzle',
      from: 215,
      to: 210,
    },
  ],
  signsBefore: { 'strings-thin': 'present' },
  fromVersion: 1,
  toVersion: 2,
  results: null,
  newSigns: [],
  note: '',
  createdAt: '2026-01-01T00:00:00Z',
  recordedAt: null,
}
const aCase = {
  id,
  signs: { 'strings-thin': 'present', 'blobs-on-wall': 'present', 'popping-or-steam': 'absent' },
  attempts: [attempt],
} as unknown as CaseDetail

test('a sign is found by a word of the trade, whatever family it is in', async () => {
  server({})
  const { user } = show(<Picker onSigns={() => undefined} />)
  await user.type(screen.getByLabelText('Find a sign by a word'), 'warping')
  const shown = () => [...document.querySelectorAll<HTMLElement>('[data-sign]')].map((e) => e.dataset.sign)
  expect(shown()).toEqual(['corners-lift'])
  await user.clear(screen.getByLabelText('Find a sign by a word'))
  await user.type(screen.getByLabelText('Find a sign by a word'), 'kangaroo')
  expect(screen.getByText(/No sign matches these words/)).toBeTruthy()
})

test('an attempt is recorded when every sign seen before is answered; side effects are asked for by name', async () => {
  server({})
  const recorded: unknown[] = []
  const form = () => (
    <OutcomeForm
      kase={aCase}
      attempt={attempt}
      busy={false}
      error={null}
      onRecord={(d) => recorded.push(d)}
      onWithdraw={() => undefined}
    />
  )
  const { user } = show(form())
  const button = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Record attempt 1' })
  const row = (s: string) => within(document.querySelector<HTMLElement>(`[data-outcome="${s}"]`)!)
  expect(button().disabled).toBe(true)
  expect(document.querySelector('[data-outcome="popping-or-steam"]')).toBeNull()
  await user.click(row('strings-thin').getByLabelText('Better'))
  expect(screen.getByText('1 still to answer.')).toBeTruthy()
  // half filled in, the page goes away and comes back
  cleanup()
  const again = show(form())
  await again.user.click(row('blobs-on-wall').getByLabelText('Gone'))
  // cooler plastic can be weak and dull: that is asked, and "not there" counts
  const side = within(document.querySelector<HTMLElement>('[data-side-effect="weak-layers"]')!)
  await again.user.click(side.getByLabelText('Not there'))
  await again.user.click(button())
  expect(recorded).toEqual([
    {
      results: { 'strings-thin': 'better', 'blobs-on-wall': 'gone' },
      newSigns: [],
      notThere: ['weak-layers'],
      note: '',
    },
  ])
})

test('the draft of an outcome is dropped when it is kept, not before', async () => {
  server({})
  const kept: (() => void)[] = []
  const { user } = show(
    <OutcomeForm
      kase={{ ...aCase, signs: {} }}
      attempt={attempt}
      busy={false}
      error={new Error('No answer.')}
      onRecord={(_, done) => kept.push(done)}
      onWithdraw={() => undefined}
    />,
  )
  await user.type(screen.getByLabelText('Note on this attempt'), 'cold night')
  await user.click(screen.getByRole('button', { name: 'Record attempt 1' }))
  const draft = () => localStorage.getItem(`draft.outcome.${id}.1`)
  expect(draft()).toContain('cold night')
  kept[0]()
  expect(draft()).toBeNull()
})

test('the balance: before anything is seen it says so; then the first suspect lies open with both sides', () => {
  server({})
  const machine = DEMO_MACHINES.shed
  const filament = demoFilaments('2026-01-01').terracotta
  const pins = layOver({}, { retractLength: 2 }, { source: 'hand', reason: said('') })
  const recipe = deriveRecipe({ machine, filament, pins })
  const of = (signs: SignStates) => ({
    data: diagnoseCase({ ...EMPTY_CASE, signs }, { machine, filament, recipe, today: '2026-01-01' }),
    pending: false,
    error: undefined,
  })
  show(<BalancePanel diagnosis={of({})} />)
  expect(screen.getByText(/Mark what you see on the part/)).toBeTruthy()
  cleanup()
  const diagnosis = of({ 'strings-thin': 'present', 'seam-bumps-scattered': 'absent' })
  show(<BalancePanel diagnosis={diagnosis} />)
  const first = document.querySelector<HTMLElement>('[data-suspect]')!
  expect(first.dataset.suspect).toBe('retraction-too-short')
  expect(within(first).getByText('For')).toBeTruthy()
  expect(within(first).getByText('Against')).toBeTruthy()
  // every figure on the panel is one of the balance
  const shown = [...first.querySelectorAll('[title^="How strongly this counts"]')].map((e) =>
    Number(e.textContent!.replace(/[^\d.−-]/g, '').replace('−', '-')),
  )
  const weights = diagnosis.data.balance.suspects[0].weights.map((w) => Number(w.decibans.toFixed(1)))
  expect(shown.length).toBeGreaterThan(2)
  expect(shown.every((v) => weights.some((r) => Math.abs(Math.abs(r) - Math.abs(v)) < 0.06))).toBe(true)
})

test('search: what matches more of the words comes first, and Enter goes there', async () => {
  const asked = server({
    'GET cases': pageOf([{ ...DEMO_CASES[0], id, part: 'Drip-line clips' }]),
    'GET filaments': [],
    'GET machines': [],
  })
  let closed = 0
  const { user, where } = show(<CommandSearch onClose={() => closed++} onKeys={() => undefined} />)
  const field = screen.getByRole('combobox')
  await user.type(field, 'drip case')
  await waitFor(() => expect(screen.getAllByRole('option')[0].textContent).toMatch(/Drip-line clips/))
  // only the cases that are meant are asked for, and not by what they are
  expect(asked.filter((a) => a.path.startsWith('cases')).map((a) => a.path)).toEqual([
    'cases?search=drip&limit=12',
  ])
  await user.keyboard('{Enter}')
  expect(where()).toBe(`/cases/${id}`)
  expect(closed).toBe(1)
})

test('search for nothing there is; and the last hit is one arrow up from the first', async () => {
  server({})
  const { user } = show(<CommandSearch onClose={() => undefined} onKeys={() => undefined} />)
  const field = screen.getByRole('combobox')
  await user.type(field, 'zzz')
  expect(screen.getByText(/Nothing of that name/)).toBeTruthy()
  await user.clear(field)
  await user.type(field, signOf('strings-thin').name)
  await user.keyboard('{ArrowUp}')
  const options = screen.getAllByRole('option')
  expect(options.at(-1)!.getAttribute('aria-selected')).toBe('true')
})
