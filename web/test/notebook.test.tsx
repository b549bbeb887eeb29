import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import type { Attempt, CaseDetail } from '@verimend/contract'
import { diagnoseCase, type DesignedSet } from '@verimend/core/casework'
import { USUAL_WEIGHTS } from '@verimend/core/diagnosis'
import { SIGNS, type SignId } from '@verimend/core/knowledge'
import { compareWithRecipe, keysOf, valuesOfFile } from '@verimend/core/recipe'
import { say, settingLabel, valueText, signName, stepName, suspectName } from '@verimend/core/words'
import { diagnosisContextOf } from '@verimend/contract'
import CaseScreen from '../src/cases/CaseScreen'
import { today } from '../src/components/format'
import { computed } from './compute'
import { answerTo, caseOf, copyOf, demoServer, only, pick, problem, sent, trialsOf, undo } from './demo'
import { show, type Answers } from './show'

beforeEach(() => {
  sessionStorage.clear()
  localStorage.clear()
  computed.length = 0
})
/** A case at its address, with its first diagnosis there. */
async function open(kase: CaseDetail, answers: Answers = {}) {
  const asked = demoServer({ [`GET cases/${kase.id}`]: kase, ...answers })
  const view = show(<CaseScreen />, { at: `/cases/${kase.id}`, route: '/cases/:id' })
  await screen.findByLabelText('The part')
  if (kase.status === 'open')
    await waitFor(() => expect(screen.getByLabelText('The balance').getAttribute('aria-busy')).toBe('false'))
  return { ...view, asked }
}
const entry = (name: string) => document.querySelector<HTMLElement>(`[data-entry="${name}"]`)
const suspects = () =>
  [...document.querySelectorAll<HTMLElement>('[data-suspect]')].map((e) => e.dataset.suspect)
const pairOfCase = (kase: CaseDetail) =>
  answerTo<Parameters<typeof diagnosisContextOf>[0]['pair']>(`pairs/${kase.pairId}`)
/** The diagnosis of a case as core makes it. */
function diagnosisOf(kase: CaseDetail) {
  const pair = pairOfCase(kase)
  const context = diagnosisContextOf({
    pair,
    trials: trialsOf({ id: kase.pairId }),
    lessons: answerTo(`cases/lessons?pairId=${kase.pairId}`),
    measurements: answerTo(`measurements?machineId=${pair.machineId}&pairId=${pair.id}`),
    caseId: kase.id,
    today: today(),
    weights: USUAL_WEIGHTS,
  })
  return diagnoseCase(kase, context)
}

test('a case opens on its own pair, with the diagnosis that core makes of it', async () => {
  const hinge = caseOf('Vent hinge')
  await open(hinge)
  expect(localStorage.getItem('verimend.pair')).toBe(hinge.pairId)
  const { balance, plan, proposals } = diagnosisOf(hinge)
  expect(suspects()).toEqual(
    balance.suspects
      .filter((s) => s.probability >= 0.01)
      .slice(0, 7)
      .map((s) => s.id),
  )
  expect(entry('next')!.textContent).toContain(stepName(plan.next!))
  expect(document.querySelector(`[data-proposal="${proposals[0].id}"]`)).toBeTruthy()
  expect(computed).toContain('diagnose')
})

test.each(['Drip-line clips', 'Snap joint', 'Plant tie', 'Tap gasket', 'Sensor hood'])(
  '%s: on screen stands what core says',
  async (part) => {
    const kase = caseOf(part)
    await open(kase)
    const { balance } = diagnosisOf(kase)
    expect(suspects()[0]).toBe(balance.suspects[0].id)
    expect(screen.getByText(`${balance.seen} seen, ${balance.looked} looked at`)).toBeTruthy()
  },
)

test('what a case waits for is said in one line, and leads to where it is done', async () => {
  const now = () => screen.getByTestId('now')
  const led: (string | undefined)[] = []
  Element.prototype.scrollIntoView = function () {
    led.push((this as HTMLElement).dataset.entry)
  }
  const hinge = caseOf('Vent hinge')
  const { user, unmount } = await open(hinge)
  expect(now().textContent).toContain(stepName(diagnosisOf(hinge).plan.next!))
  await user.click(within(now()).getByRole('button'))
  expect(document.activeElement!.textContent).toMatch(/What to try/)
  unmount()
  const waiting = await open(caseOf('Seed-tray labels'))
  expect(now().textContent).toMatch(/Attempt 1.*say what became of it/)
  await waiting.user.click(within(now()).getByRole('button'))
  waiting.unmount()
  const closed = await open(caseOf('Hose coupling'))
  expect(now().textContent).toMatch(/2 of 2 signs are gone/)
  expect(entry('seen')!.textContent).toMatch(/Elephant’s foot.*gone/)
  await closed.user.click(within(now()).getByRole('button'))
  expect(led).toEqual(['next', 'attempt-1', 'kept'])
})

test('a sign marked shows at once, is weighed at once, and goes to the server', async () => {
  const clips = caseOf('Drip-line clips')
  const marked = { ...clips, rev: clips.rev + 1, signs: { ...clips.signs, 'seam-line': 'present' as const } }
  let answer: (c: CaseDetail) => void = () => undefined
  const waiting = new Promise<CaseDetail>((resolve) => (answer = resolve))
  const { user, asked } = await open(clips, { [`PUT cases/${clips.id}/signs/seam-line`]: () => waiting })
  await user.click(screen.getByTestId('look'))
  if (screen.queryByText('kind of fault')) await user.click(screen.getByText('kind of fault'))
  await user.click(screen.getByText(/^Seam/, { selector: '.ant-segmented-item-label' }))
  const card = document.querySelector<HTMLElement>('[data-sign="seam-line"]')!
  await user.click(within(card).getByLabelText('Seen'))
  expect(card.dataset.state).toBe('present')
  const looked = Object.keys(clips.signs).length + 1
  await screen.findByText(new RegExp(`, ${looked} looked at$`))
  answer(marked)
  await waitFor(() => expect(sent(asked, 'PUT')).toHaveLength(1))
  expect(sent(asked, 'PUT')[0].body).toEqual({ state: 'present' })
})

test('a sign that the server refuses goes back to what it was, and that is said', async () => {
  const clips = caseOf('Drip-line clips')
  const { user } = await open(clips, {
    [`PUT cases/${clips.id}/signs/seam-line`]: problem(409, 'The case was closed meanwhile.'),
  })
  await user.click(screen.getByTestId('look'))
  if (screen.queryByText('kind of fault')) await user.click(screen.getByText('kind of fault'))
  await user.click(screen.getByText(/^Seam/, { selector: '.ant-segmented-item-label' }))
  const card = () => document.querySelector<HTMLElement>('[data-sign="seam-line"]')!
  await user.click(within(card()).getByLabelText('Seen'))
  await screen.findByText('The case was closed meanwhile.')
  await waitFor(() => expect(card().dataset.state).toBeUndefined())
})

test('the first mend is taken up: the attempt is opened on the version it was read in', async () => {
  const kase = caseOf('Tap gasket')
  const begun = copyOf(kase)
  const { user, asked } = await open(kase, { [`POST cases/${kase.id}/attempts`]: begun })
  const first = diagnosisOf(kase).proposals[0]
  await user.click(screen.getByRole('button', { name: /Change it and open an attempt|I will do this/ }))
  const body = await only<{ base: number; mends: { proposal: string }[] }>(asked, 'POST')
  expect(body.base).toBe(pairOfCase(kase).current)
  expect(body.mends.map((m) => m.proposal)).toEqual([first.id])
})

test('another value can be typed; the old value, or one beyond the machine, cannot', async () => {
  const kase = caseOf('Drip-line clips')
  const { proposals } = diagnosisOf(kase)
  const p = proposals.find((q) => q.kind === 'setting' && typeof q.to === 'number')!
  if (p.kind !== 'setting') throw new Error('a setting')
  const { user, asked } = await open(kase, { [`POST cases/${kase.id}/attempts`]: kase })
  for (const more of screen.queryAllByText(/^Other mends/)) await user.click(more)
  const item = () => document.querySelector<HTMLElement>(`[data-proposal="${p.id}"]`)!
  await user.click(within(item()).getByRole('radio'))
  const field = () => within(item()).getByRole<HTMLInputElement>('spinbutton')
  const accept = () =>
    screen.getByRole<HTMLButtonElement>('button', { name: 'Change it and open an attempt' })
  await user.clear(field())
  await user.type(field(), String(p.from))
  await waitFor(() => expect(accept().disabled).toBe(true))
  expect(item().textContent).toContain('That is the value it has already.')
  await user.clear(field())
  await user.type(field(), '99999')
  await waitFor(() => expect(accept().disabled).toBe(true))
  await user.clear(field())
  await user.type(field(), String(p.to))
  await waitFor(() => expect(accept().disabled).toBe(false))
  await user.click(accept())
  const body = await only<{ mends: { proposal: string; to: number }[] }>(asked, 'POST')
  expect(body.mends).toEqual([{ proposal: p.id, from: p.from, to: p.to }])
})

test('another mend takes the place of the first; a second one is asked for by name, and what is lost is said', async () => {
  const kase = caseOf('Drip-line clips')
  const { user, asked } = await open(kase, { [`POST cases/${kase.id}/attempts`]: kase })
  const picked = () =>
    [...document.querySelectorAll<HTMLElement>('[data-picked]')].map((e) => e.dataset.proposal!)
  const [one, two] = diagnosisOf(kase).proposals.map((p) => p.id)
  expect(picked()).toEqual([one])
  await user.click(screen.getAllByRole('radio', { name: /^Choose: / })[1])
  expect(picked()).toEqual([two])
  expect(screen.queryByText(/One at a time tells more/)).toBeNull()
  const also = document.querySelector<HTMLElement>(`[data-proposal="${one}"]`)!
  await user.click(within(also).getByRole('button', { name: /^And also: / }))
  expect(picked().sort()).toEqual([one, two].sort())
  await screen.findByText(/One at a time tells more/)
  await user.click(within(also).getByRole('button', { name: /^Leave out: / }))
  expect(picked()).toEqual([two])
  await user.click(within(also).getByRole('button', { name: /^And also: / }))
  await user.click(screen.getByRole('button', { name: /Change it and open an attempt|I will do this/ }))
  const body = await only<{ mends: { proposal: string }[] }>(asked, 'POST')
  expect(body.mends.map((m) => m.proposal).sort()).toEqual([one, two].sort())
})

test('a recipe that moved on meanwhile: the attempt is refused, everything is asked for anew', async () => {
  const kase = caseOf('Tap gasket')
  const { user, asked } = await open(kase, {
    [`POST cases/${kase.id}/attempts`]: problem(409, 'The recipe has moved on.'),
  })
  const before = sent(asked, 'GET').length
  await user.click(screen.getByRole('button', { name: /Change it and open an attempt|I will do this/ }))
  await screen.findByText('The recipe has moved on.')
  await waitFor(() => expect(sent(asked, 'GET').length).toBeGreaterThan(before))
})

test('"I can’t do that" leaves a step out, and it can be asked for again', async () => {
  const kase = caseOf('Vent hinge')
  let now = kase
  const { user, asked } = await open(kase, {
    [`PUT cases/${kase.id}/cannot`]: (b: unknown) => (now = { ...now, ...(b as object) }),
  })
  const step = entry('next')!.querySelector<HTMLElement>('[data-step]')!.dataset.step!
  await user.click(screen.getByRole('button', { name: 'I can’t do that' }))
  await waitFor(() => expect(sent(asked, 'PUT')[0]?.body).toEqual({ cannot: [step] }))
  await waitFor(() =>
    expect(entry('next')!.querySelector<HTMLElement>('[data-step]')!.dataset.step).not.toBe(step),
  )
  await user.click(await screen.findByText('1 left out: ask again'))
  await waitFor(() => expect(sent(asked, 'PUT').at(-1)!.body).toEqual({ cannot: [] }))
})

test('a look that was asked for is answered there and then', async () => {
  // little is known yet: then a look tells most
  const kase = { ...caseOf('Drip-line clips'), files: [], signs: { 'popping-or-steam': 'present' as const } }
  const { plan } = diagnosisOf(kase)
  const look = [plan.next!, ...plan.others].find((s) => s.kind === 'look')
  if (look?.kind !== 'look') throw new Error('a look')
  const { user, asked } = await open(kase, {
    [`PUT cases/${kase.id}/signs/${look.sign}`]: { ...kase, signs: { ...kase.signs, [look.sign]: 'absent' } },
  })
  if (plan.next !== look) {
    await user.click(screen.getByText('Other steps worth considering'))
    await user.click(screen.getByText(`Look: ${stepName(look)}`))
  }
  const question = document.querySelector<HTMLElement>(`[data-asks="${look.sign}"]`)!
  await user.click(within(question).getByRole('button', { name: 'It is not there' }))
  expect(await only(asked, 'PUT')).toEqual({ state: 'absent' })
})

test('a check is answered suspect by suspect, noted, and taken back', async () => {
  const kase = caseOf('Snap joint')
  const { plan } = diagnosisOf(kase)
  const step = [plan.next!, ...plan.others].find((s) => s.kind === 'check')!
  if (step?.kind !== 'check') throw new Error('a check')
  let now = kase
  const { user, asked } = await open(kase, {
    [`PUT cases/${kase.id}/checks/${step.check}`]: (b: unknown) => {
      const { results } = b as { results: { suspect: (typeof step.about)[number]; found: boolean | null }[] }
      const checks = results.flatMap(({ suspect, found }) =>
        found === null ? [] : [{ by: step.check, suspect, found }],
      )
      return (now = { ...now, checks })
    },
  })
  if (plan.next !== step) {
    await user.click(screen.getByText('Other steps worth considering'))
    await user.click(screen.getByText(`Check: ${stepName(step)}`))
  }
  const note = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Note what it showed' })
  expect(note().disabled).toBe(true)
  const about = document.querySelector<HTMLElement>(`[data-about="${step.about[0]}"]`)!
  await user.click(within(about).getByLabelText('It is so'))
  await user.click(note())
  expect(await only(asked, 'PUT')).toEqual({ results: [{ suspect: step.about[0], found: true }] })
  const notes = within(await screen.findByLabelText('What checks showed'))
  expect(notes.getByText(new RegExp(`^${suspectName(step.about[0])}: it is so`))).toBeTruthy()
  await user.click(notes.getByRole('button', { name: 'Take back' }))
  await waitFor(() =>
    expect(sent(asked, 'PUT').at(-1)!.body).toEqual({ results: [{ suspect: step.about[0], found: null }] }),
  )
})

test('an attempt to be looked at: nothing else is offered until it is recorded or withdrawn', async () => {
  const kase = caseOf('Seed-tray labels')
  const waiting = kase.attempts.at(-1)!
  const { user, asked } = await open(kase, {
    [`DELETE cases/${kase.id}/attempts/${waiting.number}`]: kase,
  })
  expect(entry('next')).toBeNull()
  expect(entry('close')).toBeNull()
  expect(screen.queryByTestId('look')).toBeNull()
  expect(entry(`attempt-${waiting.number}`)!.textContent).toContain('to be looked at')
  for (const m of waiting.mends)
    if (m.kind === 'setting')
      expect(entry(`attempt-${waiting.number}`)!.textContent).toContain(settingLabel(m.key))
  await user.click(screen.getByRole('button', { name: /Withdraw|never printed|Take .* back/i }))
  await waitFor(() => expect(sent(asked, 'DELETE')).toHaveLength(1))
})

test('what moved with a mend is named beside it', async () => {
  const kase = caseOf('Hose coupling')
  const waiting = kase.attempts.find((a) => a.toVersion !== a.fromVersion)!
  const [mend] = waiting.mends
  const heads = [
    {
      number: waiting.toVersion,
      changes: [
        ...(mend.kind === 'setting' ? [{ key: mend.key, from: mend.from, to: mend.to }] : []),
        { key: 'fan', from: 100, to: 80 },
      ],
    },
  ]
  await open(kase, { [`GET pairs/${kase.pairId}/versions`]: heads })
  const told = () => entry(`attempt-${waiting.number}`)!.textContent
  await waitFor(() =>
    expect(told()).toContain(
      `With it moved: ${settingLabel('fan').toLowerCase()} ${valueText('fan', 100)} → ${valueText('fan', 80)}.`,
    ),
  )
})

test('the outcome of an attempt goes to the server as it was answered', async () => {
  const kase = caseOf('Seed-tray labels')
  const waiting = kase.attempts.at(-1)!
  const { user, asked } = await open(kase, {
    [`POST cases/${kase.id}/attempts/${waiting.number}/outcome`]: kase,
  })
  const seen = Object.keys(kase.signs).filter((s) => kase.signs[s as keyof typeof SIGNS] === 'present')
  for (const s of seen) {
    const asking = document.querySelector<HTMLElement>(`[data-outcome="${s}"]`)!
    await user.click(within(asking).getByLabelText('Gone'))
  }
  await user.click(screen.getByRole('button', { name: `Record attempt ${waiting.number}` }))
  expect(await only(asked, 'POST')).toMatchObject({
    results: Object.fromEntries(seen.map((s) => [s, 'gone'])),
  })
})

test('a case is closed on the version that is chosen', async () => {
  const kase = caseOf('Sensor hood')
  const { current } = pairOfCase(kase)
  const { user, asked } = await open(kase, { [`POST cases/${kase.id}/close`]: kase })
  await pick('Version to keep', new RegExp(`^version ${kase.startVersion} `))
  await user.click(screen.getByRole('button', { name: 'Close the case' }))
  const body = await only<{ rev: number; keep: number }>(asked, 'POST')
  expect(body).toEqual({ rev: kase.rev, keep: kase.startVersion })
  expect(kase.startVersion).toBeLessThanOrEqual(current)
})

test('all signs gone: closing is what is offered first, and nothing is left to explain', async () => {
  const kase = caseOf('Sensor hood')
  await open({ ...kase, signs: { 'corners-lift': 'absent' } })
  expect(entry('close')!.textContent).toContain('All signs are gone')
  expect(entry('next')).toBeNull()
})

test('a closed case: what it taught, what is kept, reopened; nothing to mark', async () => {
  const kase = caseOf('Hose coupling')
  const { user, asked } = await open(kase, {
    [`POST cases/${kase.id}/reopen`]: { ...kase, status: 'open' },
    [`PUT cases/${kase.id}/learns`]: { ...kase, learns: false },
  })
  expect(entry('kept')!.textContent).toContain(`version ${kase.keptVersion}`)
  expect(screen.queryByTestId('look')).toBeNull()
  expect(within(entry('kept')!).getByText('Summary as PDF').getAttribute('href')).toBe(
    `/api/cases/${kase.id}/summary.pdf`,
  )
  await user.click(screen.getByRole('checkbox', { name: 'Learn from this case' }))
  expect(await only(asked, 'PUT')).toEqual({ learns: !kase.learns })
  await user.click(screen.getByRole('button', { name: 'Reopen' }))
  await waitFor(() => expect(entry('kept')).toBeNull())
})

test('a sign that is back on a later part: the closed case goes on with it, and its attempt says so', async () => {
  const kase = caseOf('Hose coupling')
  const began = Object.entries(kase.attempts[0].signsBefore).flatMap(([s, v]) => (v === 'present' ? [s] : []))
  const signs = { ...kase.signs, [began[0]]: 'present' as const }
  const { user, asked } = await open(kase, {
    [`POST cases/${kase.id}/reopen`]: { ...kase, status: 'open', signs },
  })
  await user.click(screen.getByText('It is back on a later part'))
  const again = screen.getByRole('button', { name: 'Take the case up again' })
  expect((again as HTMLButtonElement).disabled).toBe(true)
  await user.click(within(entry('kept')!).getByRole('checkbox', { name: signName(began[0] as SignId) }))
  await user.click(again)
  expect(await only(asked, 'POST')).toEqual({ back: [began[0]] })
  await screen.findByText(', back later')
})

test('part and note are kept when the field is left; what another window wrote is shown, mine stays', async () => {
  const kase = caseOf('Vent hinge')
  const { user, asked } = await open(kase, {
    [`PUT cases/${kase.id}`]: problem(409, 'Changed meanwhile.', {
      current: { part: 'Hinge B', note: 'their note' },
    }),
  })
  const note = () => screen.getByLabelText<HTMLTextAreaElement>('Note on the case')
  await user.type(note(), 'cold night')
  fireEvent.blur(note())
  expect((await screen.findByRole('alert')).textContent).toContain('“Hinge B”, “their note”')
  expect(note().value).toBe('cold night')
  expect(sent(asked, 'PUT')[0].body).toEqual({
    was: { part: kase.part, note: kase.note },
    part: kase.part,
    note: 'cold night',
  })
})

test('an empty part is not sent', async () => {
  const kase = caseOf('Vent hinge')
  const { user, asked } = await open(kase)
  await user.clear(screen.getByLabelText('The part'))
  fireEvent.blur(screen.getByLabelText('The part'))
  expect(sent(asked, 'PUT')).toEqual([])
})

const set: DesignedSet = {
  id: '0190d8a4-7d1c-7000-8000-00000000000a',
  design: 'two-by-two',
  sign: 'strings-thin',
  factors: [
    {
      proposal: 'retraction-too-short/0',
      suspect: 'retraction-too-short',
      key: 'retractLength',
      levels: [1, 2],
    },
    { proposal: 'nozzle-too-hot/0', suspect: 'nozzle-too-hot', key: 'nozzle', levels: [220, 210] },
  ],
  grades: [0, 1, 3, 4],
} as unknown as DesignedSet

test('a set of prints: each run with its values, graded, with what each setting did; removed and brought back', async () => {
  const kase: CaseDetail = { ...caseOf('Drip-line clips'), sets: [set] }
  const { user, asked } = await open(kase, {
    [`DELETE cases/${kase.id}/sets/${set.id}`]: { ...kase, sets: [] },
    [`POST cases/${kase.id}/sets`]: kase,
    [`PUT cases/${kase.id}/sets/${set.id}/runs/1`]: kase,
  })
  const panel = within(await screen.findByLabelText(`Set against ${signName('strings-thin').toLowerCase()}`))
  expect(document.querySelectorAll('[data-run]')).toHaveLength(set.grades.length)
  const effects = within(panel.getByLabelText('Main effects'))
  expect(effects.getAllByRole('row')).toHaveLength(2)
  // strings are printed as posts: each run has a file of its own
  expect(document.querySelectorAll('[data-run] a[download]')).toHaveLength(set.grades.length)
  await pick('Print 1', 'half gone')
  await waitFor(() => expect(sent(asked, 'PUT')[0]?.body).toEqual({ grade: 2 }))
  await user.click(panel.getByRole('button', { name: 'Remove' }))
  await undo(/The set is taken out/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(1))
  expect(sent(asked, 'POST')[0].body).toMatchObject({
    design: set.design,
    factors: set.factors.map(({ proposal, levels }) => ({ proposal, levels })),
  })
})

test('two prints of a case side by side: what the person said, and what differed', async () => {
  const done: Attempt = {
    ...caseOf('Sensor hood').attempts[0],
    results: { 'corners-lift': 'better' },
    recordedAt: '2026-01-02T00:00:00Z',
  }
  const kase = { ...caseOf('Sensor hood'), attempts: [done] }
  const { user } = await open(kase)
  await user.click(screen.getByText('Compare any two prints of this case'))
  const compared = within(entry('compare')!)
  await waitFor(() => expect(compared.getAllByRole('combobox').length).toBeGreaterThanOrEqual(2))
  expect(entry('compare')!.textContent).toContain(signName('corners-lift').toLowerCase())
})

test('what a person’s minute is worth changes the advice, and is kept in this browser', async () => {
  const kase = caseOf('Vent hinge')
  const { user } = await open(kase)
  await user.click(screen.getByText('What things are worth to me'))
  const slider = screen.getByLabelText('A minute of mine', { selector: '[role="slider"]' })
  fireEvent.keyDown(slider, { key: 'ArrowRight', keyCode: 39 })
  await waitFor(() => expect(JSON.stringify({ ...localStorage })).toMatch(/mine/))
  await user.click(screen.getByRole('button', { name: 'As usual' }))
})

test('a file newer than the last change counts; an older one is said to be outdated', async () => {
  const kase = caseOf('Vent hinge')
  const attempt: Attempt = {
    ...caseOf('Sensor hood').attempts[0],
    number: 1,
    results: { 'bands-gloss': 'same' },
    recordedAt: '2026-01-02T00:00:00Z',
    fromVersion: 1,
    toVersion: 2,
  }
  await open({ ...kase, attempts: [attempt] })
  await screen.findByText(/was made before the last change/)
})

test('a path file taken out comes back with its reading', async () => {
  const kase = caseOf('Vent hinge')
  const [file] = kase.files
  const { user, asked } = await open(kase, {
    [`DELETE cases/${kase.id}/files/${file.id}`]: { ...kase, files: [] },
    [`POST cases/${kase.id}/files`]: kase,
  })
  await user.click(screen.getByText(file.name))
  await user.click(within(entry('told')!).getByRole('button', { name: 'Take it out' }))
  await undo(new RegExp(`${file.name} is taken out`))
  const { name, sha256, reading } = await only<typeof file>(asked, 'POST')
  expect({ name, sha256 }).toEqual({ name: file.name, sha256: file.sha256 })
  expect(reading).toEqual(file.reading)
})

test('a case that is not there says so', async () => {
  demoServer({ 'GET cases/none': problem(404, 'This case is not there any more.') })
  show(<CaseScreen />, { at: '/cases/none', route: '/cases/:id' })
  expect((await screen.findByRole('alert')).textContent).toContain('not there any more')
})

test('the file’s values become the recipe: each shown before, one left out, and it can be undone', async () => {
  const kase = caseOf('Drip-line clips')
  const pair = copyOf(pairOfCase(kase))
  // the recipe has moved on since the file was made
  pair.version.values.nozzle.value -= 12
  pair.version.values.fan.value = 10
  const file = kase.files.at(-1)!
  const found = valuesOfFile(file.reading, pair.machine.machine)
  const apart = compareWithRecipe(file.reading, pair.version.values).map((d) => d.key)
  const others = keysOf(found).filter((k) => apart.includes(k))
  expect(others.length).toBeGreaterThan(1)
  const version = { ...pair.version, number: pair.current + 1 }
  const { user, asked } = await open(kase, {
    [`GET pairs/${pair.id}`]: pair,
    [`POST pairs/${pair.id}/versions`]: version,
    [`POST pairs/${pair.id}/restore`]: version,
  })
  await user.click(screen.getByRole('button', { name: 'Take the file’s values as the recipe' }))
  const rows = [...document.querySelectorAll<HTMLElement>('[data-take]')].map((r) => r.dataset.take)
  expect(rows).toEqual(others)
  await user.click(screen.getByRole('checkbox', { name: `Take ${settingLabel(others[0])}` }))
  await user.click(screen.getByRole('button', { name: new RegExp(`^Write version ${pair.current + 1}`) }))
  const body = await only<{ base: number; set: object; file: string }>(asked, 'POST')
  expect(body).toMatchObject({ base: pair.current, file: file.name })
  expect(body.set).toEqual(Object.fromEntries(others.slice(1).map((k) => [k, found[k]])))
  await undo(/are the recipe now/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(2))
})

test('what a limit or a rule cuts away is named, with which', async () => {
  const clips = caseOf('Drip-line clips')
  // soft all over: where the fan or the heat can go no further, it is said
  const kase: CaseDetail = {
    ...clips,
    signs: { 'sagging-overhangs': 'present', 'tips-melt': 'present', 'strings-thin': 'present' },
  }
  const { blocked, proposals } = diagnosisOf(kase)
  await open(kase)
  const shown = blocked.filter((b) =>
    proposals.slice(0, 3).some((p) => p.suspect === b.suspect || p.also.includes(b.suspect)),
  )
  expect(shown.length).toBeGreaterThan(0)
  expect(entry('next')!.textContent).toContain(say(shown[0].why))
})

test('the longest side is kept where no file says it, and a long part pulls harder', async () => {
  const hood = caseOf('Sensor hood')
  const kase = { ...hood, files: [], longest: null, partId: null, about: null }
  const { user, asked } = await open(kase, { [`PUT cases/${kase.id}/longest`]: { ...kase, longest: 240 } })
  const field = screen.getByLabelText('Longest side')
  await user.type(field, '240{Enter}')
  expect(await only(asked, 'PUT')).toEqual({ longest: 240 })
  const pull = (longest: number | null) => diagnosisOf({ ...kase, longest }).facts.shrinkPull!.value as number
  expect(pull(240)).toBeCloseTo(3 * pull(80), 6)
})

test('a change that made it worse is taken back first, or kept on purpose', async () => {
  const hood = caseOf('Sensor hood')
  const pair = pairOfCase(hood)
  const [sign] = keysOf(hood.signs).filter((s) => hood.signs[s] === 'present')
  const done: Attempt = {
    ...hood.attempts[0],
    number: 1,
    mends: [
      {
        kind: 'setting',
        proposal: 'nozzle-too-hot/0',
        suspect: 'nozzle-too-hot',
        key: 'nozzle',
        from: 240,
        to: 230,
      },
    ],
    signsBefore: { [sign]: 'present' },
    results: { [sign]: 'worse' },
    newSigns: [],
    fromVersion: pair.version.number - 1,
    toVersion: pair.version.number,
    recordedAt: hood.attempts[0].createdAt,
  }
  const kase: CaseDetail = { ...hood, signs: { [sign]: 'present' }, attempts: [done] }
  const { user, asked } = await open(kase, {
    [`POST cases/${hood.id}/attempts/1/take-back`]: kase,
  })
  const offer = () => within(entry('next')!).queryByRole('group', { name: 'Take a change back' })
  expect(offer()!.textContent).toContain('Attempt 1 made it worse')
  expect(screen.getByTestId('now').textContent).toContain('Take back attempt 1')
  expect(entry('next')!.querySelectorAll('[data-proposal]')).toHaveLength(0)
  await user.click(screen.getByRole('button', { name: 'Take it back' }))
  await only(asked, 'POST')
  await user.click(screen.getByRole('button', { name: 'Keep it and go on' }))
  expect(offer()).toBeNull()
  expect(entry('next')!.querySelectorAll('[data-proposal]').length).toBeGreaterThan(0)
})
