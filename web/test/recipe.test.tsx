import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import type { PairDetail, RecipeVersion } from '@verimend/contract'
import { said } from '@verimend/core/quantity'
import { editRecipe, lintRecipe, settingOf, type Changes, type SettingKey } from '@verimend/core/recipe'
import { bareText, settingLabel, valueText } from '@verimend/core/words'
import RecipeScreen from '../src/recipes/RecipeScreen'
import { today } from '../src/components/format'
import { copyOf, demoServer, only, pairOf, pick, problem, sent, undo, versionsOf } from './demo'
import { show, type Answers } from './show'

const pond = pairOf('Pond blue')
beforeEach(() => {
  sessionStorage.clear()
  localStorage.setItem('verimend.pair', pond.id)
})
/** The recipe's screen, once it is there. */
async function open(answers: Answers = {}, at = '/recipes') {
  const asked = demoServer(answers)
  const view = show(<RecipeScreen />, { at, route: '/recipes' })
  await screen.findByRole('heading', { level: 1 })
  return { ...view, asked }
}
const row = (key: SettingKey) => document.querySelector<HTMLElement>(`[data-setting="${key}"]`)!
const shown = (key: SettingKey) => within(row(key)).getByTestId('value').textContent
/** Types a value into a setting. */
async function type(user: Awaited<ReturnType<typeof open>>['user'], key: SettingKey, value: string) {
  await user.click(within(row(key)).getByTestId('value'))
  const field = within(row(key)).getByRole<HTMLInputElement>('spinbutton')
  await user.clear(field)
  await user.type(field, `${value}{Enter}`)
}
const notKept = () => within(screen.getByLabelText('Changes not kept yet'))
const keep = () => notKept().getByRole<HTMLButtonElement>('button', { name: /^Keep as version/ })
/** The version that a change makes, as the server would. */
function next(pair: PairDetail, set: Changes): RecipeVersion {
  const { machine } = pair.machine
  const { filament } = pair.filament
  const edit = { set, variants: {}, source: 'hand' as const, reason: said('by hand') }
  const { values, variants } = editRecipe(pair.version, { machine, filament }, edit)
  return { ...pair.version, number: pair.current + 1, parent: pair.current, changes: [], values, variants }
}

test('without a pair the way in is a choice or a recipe file', async () => {
  localStorage.clear()
  demoServer({ 'GET pairs': [] })
  show(<RecipeScreen />)
  await screen.findByText(/Choose a pair above/)
  expect(screen.getByRole('button', { name: 'Take one in' })).toBeTruthy()
})

test('every setting stands there with its value, its unit and why', async () => {
  await open()
  const { values } = pond.version
  const seen = [...document.querySelectorAll<HTMLElement>('[data-setting]')].map((r) => r.dataset.setting)
  expect(seen.length).toBeGreaterThan(60)
  for (const key of ['nozzle', 'flow', 'retractLength', 'layerHeight'] as const)
    expect(Number(shown(key))).toBe(values[key].value)
  // where a setting does not matter it stands back
  expect(row('nozzle').dataset.off).toBeUndefined()
})

test('a change is laid over at once, what follows from it moves with it, and it is kept with its reason', async () => {
  const after = next(pond, { nozzle: 250 })
  const { user, asked } = await open({ [`POST pairs/${pond.id}/versions`]: after })
  await type(user, 'nozzle', '250')
  const first = bareText('nozzle', pond.version.values.nozzle.value)
  await waitFor(() => expect(notKept().getAllByText(`${first} → 250`).length).toBeGreaterThan(0))
  const follows = (['nozzleFirst', 'meltCap'] as const).filter(
    (k) => after.values[k].value !== pond.version.values[k].value,
  )
  expect(follows.length).toBeGreaterThan(0)
  for (const k of follows) expect(notKept().getByText(`${settingLabel(k)} follows`)).toBeTruthy()
  await user.type(screen.getByLabelText('Reason'), 'tower said so')
  await user.click(keep())
  expect(await only(asked, 'POST')).toEqual({
    base: pond.current,
    set: { nozzle: 250 },
    reason: 'tower said so',
  })
  await waitFor(() => expect(screen.queryByLabelText('Changes not kept yet')).toBeNull())
})

test('kept and taken back: the version before is brought back', async () => {
  const after = next(pond, { nozzle: 250 })
  const { user, asked } = await open({
    [`POST pairs/${pond.id}/versions`]: after,
    [`POST pairs/${pond.id}/restore`]: { ...after, number: after.number + 1 },
  })
  await type(user, 'nozzle', '250')
  await user.click(keep())
  await undo(/is kept/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(2))
  expect(sent(asked, 'POST')[1]).toMatchObject({
    path: `pairs/${pond.id}/restore`,
    body: { base: after.number, number: pond.current },
  })
})

test('Escape puts the kept value back, and typing the kept value is no change', async () => {
  const { user } = await open()
  const was = String(pond.version.values.nozzle.value)
  await user.click(within(row('nozzle')).getByTestId('value'))
  await user.type(within(row('nozzle')).getByRole('spinbutton'), '1{Escape}')
  expect(screen.queryByLabelText('Changes not kept yet')).toBeNull()
  await type(user, 'nozzle', '251')
  await screen.findByLabelText('Changes not kept yet')
  await type(user, 'nozzle', was)
  await waitFor(() => expect(screen.queryByLabelText('Changes not kept yet')).toBeNull())
  expect(sessionStorage.getItem(`draft.recipe.${pond.id}`)).toBeNull()
})

test('a value out of bounds, or beyond the machine, is said where it is typed and cannot be kept', async () => {
  const { user } = await open()
  const s = settingOf('nozzle')
  const limit = pond.machine.machine.limits.nozzle
  await type(user, 'nozzle', String(limit + 1))
  await waitFor(() => expect(row('nozzle').textContent).toContain(`This machine goes up to ${limit}.`))
  expect(keep().disabled).toBe(true)
  await type(user, 'nozzle', String((s.kind === 'number' ? s.max : 0) + 50))
  await waitFor(() => expect(keep().disabled).toBe(true))
  await type(user, 'nozzle', String(limit))
  await waitFor(() => expect(keep().disabled).toBe(false))
})

test('a draft outlives the page, and dropping it forgets it', async () => {
  const first = await open()
  await type(first.user, 'nozzle', '248')
  await screen.findByLabelText('Changes not kept yet')
  await waitFor(() => expect(sessionStorage.getItem(`draft.recipe.${pond.id}`)).toContain('248'))
  first.unmount()
  const { user } = await open()
  expect(shown('nozzle')).toBe('248')
  await user.click(notKept().getByRole('button', { name: 'Drop' }))
  await waitFor(() => expect(shown('nozzle')).toBe(String(pond.version.values.nozzle.value)))
})

test('somebody else was quicker: theirs is shown, mine is kept, and can be laid over theirs', async () => {
  const theirs = next(pond, { nozzle: 241 })
  let refused = true
  const { user, asked } = await open({
    [`POST pairs/${pond.id}/versions`]: () =>
      refused ? problem(409, 'Changed meanwhile.', { current: theirs }) : next(pond, { bed: 80 }),
    [`GET pairs/${pond.id}`]: () => (refused ? pond : { ...pond, current: theirs.number, version: theirs }),
  })
  await type(user, 'bed', '80')
  await screen.findByLabelText('Changes not kept yet')
  await user.click(keep())
  const alert = await screen.findByRole('alert')
  expect(alert.textContent).toContain(`Version ${theirs.number} was kept in another window`)
  expect(alert.textContent).toContain('→ 241')
  expect(keep().disabled).toBe(true)
  refused = false
  await user.click(within(alert).getByRole('button', { name: 'Lay mine over the newer version' }))
  await waitFor(() => expect(keep().disabled).toBe(false))
  await user.click(keep())
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(2))
  expect(sent(asked, 'POST')[1].body).toMatchObject({ base: theirs.number, set: { bed: 80 } })
})

test('a setting is found by its name and by the other words the trade has for it', async () => {
  const { user, where } = await open()
  const find = screen.getByLabelText('Find a setting')
  const keys = () =>
    [...document.querySelectorAll<HTMLElement>('[data-setting]')].map((r) => r.dataset.setting)
  await user.type(find, 'flow multiplier')
  await waitFor(() => expect(keys()).toContain('flow'))
  expect(keys()).not.toContain('nozzle')
  expect(where()).toContain('find=flow')
  await user.clear(find)
  await user.type(find, 'no such thing')
  await waitFor(() => expect(keys()).toEqual([]))
})

test('fine layers: only what follows the layer height is shown, and a change there is of the variant', async () => {
  const { user, asked } = await open({ [`POST pairs/${pond.id}/versions`]: next(pond, {}) })
  await user.click(screen.getByText(/^Fine /))
  await screen.findByText(/hold|change with the layer height/)
  expect(row('layerHeight')).toBeTruthy()
  await type(user, 'layerHeight', '0.1')
  await waitFor(() => expect(notKept().getByText(', fine')).toBeTruthy())
  await user.click(keep())
  expect(await only(asked, 'POST')).toMatchObject({ set: {}, fine: { layerHeight: 0.1 } })
})

test('measured by hand: a value with its ± is kept as measured', async () => {
  const { user, asked } = await open({ [`POST pairs/${pond.id}/versions`]: next(pond, { flow: 97 }) })
  await type(user, 'flow', '97')
  await user.click(within(row('flow')).getByRole('button', { name: settingLabel('flow') }))
  await user.type(screen.getByLabelText(`Plus or minus of ${settingLabel('flow')}`), '0.5')
  await user.click(keep())
  expect(await only(asked, 'POST')).toMatchObject({ set: { flow: 97 }, measured: { flow: 0.5 } })
})

test('opened, a setting tells what each source said, and a value set by hand can be derived again', async () => {
  const fern = pairOf('Pond blue')
  const hand = next(fern, { fan: 35 })
  const { user, asked } = await open({
    [`GET pairs/${pond.id}`]: { ...pond, version: { ...hand, number: pond.current } },
    [`POST pairs/${pond.id}/versions`]: next(pond, {}),
  })
  await user.click(within(row('fan')).getByRole('button', { name: settingLabel('fan') }))
  const told = row('fan').nextElementSibling!
  const { stack } = hand.values.fan
  expect(stack.length).toBeGreaterThan(1)
  expect(told.querySelectorAll('table tr')).toHaveLength(stack.length)
  expect(told.textContent).toContain(valueText('fan', stack[0].value))
  await user.click(within(told as HTMLElement).getByRole('button', { name: 'Let it be derived again' }))
  await waitFor(() => expect(notKept().getByText(/→ derived/)).toBeTruthy())
  await user.click(keep())
  expect(await only(asked, 'POST')).toMatchObject({ set: { fan: null } })
})

test('what bites: each warning with its mend, which is laid over as a draft', async () => {
  const bad = next(pond, { retractLength: 6 })
  const pair = { ...pond, version: { ...bad, number: pond.current } }
  const { machine } = pond.machine
  const { filament } = pond.filament
  const warnings = lintRecipe({ machine, filament, values: bad.values, today: today(), part: pond.lastPart })
  const mended = warnings.find((w) => w.mend && 'retractLength' in w.mend)!
  expect(mended).toBeTruthy()
  const { user } = await open({ [`GET pairs/${pond.id}`]: pair })
  const items = [...document.querySelectorAll<HTMLElement>('[data-rule]')]
  expect(items.map((i) => i.dataset.rule)).toEqual(
    warnings.filter((w) => !pond.acknowledged.includes(w.fingerprint)).map((w) => w.rule),
  )
  const item = items.find((i) => i.dataset.rule === mended.rule)!
  await user.click(within(item).getAllByRole('button')[0])
  await waitFor(() => expect(shown('retractLength')).toBe(String(mended.mend!.retractLength)))
})

test('a warning meant so is put away with the server, and can be called back', async () => {
  const bad = next(pond, { retractLength: 6 })
  let pair: PairDetail = { ...pond, version: { ...bad, number: pond.current } }
  const { user, asked } = await open({
    [`GET pairs/${pond.id}`]: () => pair,
    [`POST pairs/${pond.id}/acknowledged`]: (b: unknown) => {
      const { fingerprint, acknowledged } = b as { fingerprint: string; acknowledged: boolean }
      pair = {
        ...pair,
        acknowledged: acknowledged
          ? [...pair.acknowledged, fingerprint]
          : pair.acknowledged.filter((f) => f !== fingerprint),
      }
      return pair
    },
  })
  const count = () => document.querySelectorAll('[data-rule]').length
  const before = count()
  expect(before).toBeGreaterThan(0)
  await user.click(screen.getAllByRole('button', { name: /^I mean it/ })[0])
  await waitFor(() => expect(count()).toBe(before - 1))
  await user.click(screen.getByRole('button', { name: /meant so$/ }))
  await user.click(screen.getByRole('button', { name: 'Warn me again' }))
  await waitFor(() => expect(count()).toBe(before))
  expect(sent(asked, 'POST').map((a) => (a.body as { acknowledged: boolean }).acknowledged)).toEqual([
    true,
    false,
  ])
})

test('held against a version: what differs stands out, one value is taken across', async () => {
  const versions = versionsOf(pond)
  const older = versions.find((v) => v.number !== pond.current)!
  const { user, where } = await open()
  await pick('Compare with', new RegExp(`^version ${older.number}:`))
  await waitFor(() => expect(where()).toContain(`against=v${older.number}`))
  await user.click(await screen.findByText('Only what differs'))
  const rowsLeft = () => [...document.querySelectorAll<HTMLElement>('[data-setting]')]
  await waitFor(() => expect(rowsLeft().length).toBeLessThan(30))
  const take = screen.getAllByRole('button', { name: /^Take .* for / })[0]
  const key = take.closest<HTMLElement>('[data-setting]')!.dataset.setting as SettingKey
  await user.click(take)
  await waitFor(() => expect(notKept().getByText(settingLabel(key))).toBeTruthy())
})

test('decisions: versions in a line, and any brought back', async () => {
  const versions = versionsOf(pond)
  const back = versions.at(-1)!
  const { user, asked } = await open({
    [`POST pairs/${pond.id}/restore`]: { ...pond.version, number: pond.current + 1 },
  })
  const decisions = within(await screen.findByLabelText('Decisions'))
  await waitFor(() => expect(decisions.getAllByRole('listitem')).toHaveLength(versions.length))
  await user.click(decisions.getAllByRole('button', { name: 'Go back to it' }).at(-1)!)
  expect(await only(asked, 'POST')).toEqual({ base: pond.current, number: back.number })
  await screen.findByText(`Version ${back.number} is back, as version ${pond.current + 1}.`)
})

test('roll or machine changed since: what would be derived differently is said, and derived anew on demand', async () => {
  const changed = copyOf(pond)
  changed.filament.filament.label.bed = { min: 40, max: 45 }
  const { user, asked } = await open({
    [`GET pairs/${pond.id}`]: changed,
    [`POST pairs/${pond.id}/versions`]: next(changed, {}),
  })
  await screen.findByText(/would be derived differently/)
  await user.click(screen.getByRole('button', { name: 'Derive anew' }))
  expect(await only(asked, 'POST')).toMatchObject({ base: pond.current, set: {} })
})

test('start from a relative: what it brings is shown, and choosing it makes a version', async () => {
  const other = pairOf('Fern green')
  const relative = {
    pairId: other.id,
    name: 'Fern green',
    machineName: 'Potting shed',
    nearness: 0.8,
    family: 'pla',
    shared: ['machine'],
    differs: [{ key: 'nozzle', theirs: 240, own: 208 }],
    brings: { flow: { value: 96, reason: said('measured') } },
  }
  const { user, asked } = await open({
    [`GET pairs/relatives?machineId=${pond.machineId}&filamentId=${pond.filamentId}`]: [relative],
    [`POST pairs/${pond.id}/versions`]: next(pond, { flow: 96 }),
  })
  await user.click(screen.getByRole('button', { name: 'Start from a relative' }))
  await screen.findByText('Fern green on Potting shed')
  expect(screen.getByText(/→ 96/)).toBeTruthy()
  expect(screen.getByText('PLA, same machine')).toBeTruthy()
  expect(screen.getByText(/240.* there, 208.* here/)).toBeTruthy()
  await user.click(screen.getByRole('button', { name: 'Start from it' }))
  expect(await only(asked, 'POST')).toMatchObject({ relative: other.id, set: {} })
})

test('handed on in five forms, each of the version and the layer height that is shown', async () => {
  const { user } = await open({}, '/recipes?grade=coarse')
  await user.click(screen.getByRole('button', { name: 'Hand it on' }))
  await waitFor(() => expect(document.querySelectorAll('a[download]').length).toBe(5))
  for (const a of document.querySelectorAll('a[download]'))
    expect(a.getAttribute('href')).toMatch(
      new RegExp(`^/api/pairs/${pond.id}/versions/${pond.current}/recipe\\.\\w+\\?grade=coarse$`),
    )
})

const FILE = new File(['{"format":"verimend-recipe"}'], 'pond.json', { type: 'application/json' })
const PREVIEW = {
  number: 4,
  written: '2026-01-10T10:00:00Z',
  reason: 'Box of four walls.',
  filament: { name: 'Pond blue', id: pond.filamentId, removed: false },
  machine: { name: 'Greenhouse', id: pond.machineId, same: true },
  pair: { current: pond.current },
  differences: [
    { key: 'flow', grade: 'standard', from: 100, to: 98, reason: said('measured') },
    { key: 'nozzle', grade: 'standard', from: 245, to: 240, reason: said('label') },
  ],
  ignored: ['magic'],
  missing: ['fan'],
}
/** Gives a file to the field that takes recipes in. */
const give = (file: File) =>
  fireEvent.change(screen.getByLabelText('Recipe file'), { target: { files: [file] } })
Object.defineProperty(File.prototype, 'text', { value: () => Promise.resolve('{}') })

test('a recipe file is read first: what differs is shown, some of it left, and it can be taken back', async () => {
  const done = {
    pairId: pond.id,
    version: pond.current + 1,
    before: pond.current,
    shelved: false,
    machineMade: false,
    filamentId: pond.filamentId,
    machineId: pond.machineId,
  }
  const { user, asked } = await open({
    'POST recipes/read': PREVIEW,
    'POST recipes/import': done,
    [`POST pairs/${pond.id}/restore`]: pond.version,
  })
  give(FILE)
  await screen.findByText('Pond blue on Greenhouse')
  expect(document.body.textContent).toContain('Left aside, unknown here: magic.')
  expect(document.body.textContent).toContain('1 settings are not in the file')
  await user.click(screen.getByRole('checkbox', { name: /Nozzle/ }))
  await user.click(screen.getByRole('button', { name: `Take in as version ${pond.current + 1}` }))
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(2))
  expect(sent(asked, 'POST')[1].body).toMatchObject({
    base: pond.current,
    take: [{ key: 'flow', grade: 'standard' }],
  })
  await undo(/is taken in as version/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(3))
  expect(sent(asked, 'POST')[2].body).toEqual({ base: done.version, number: done.before })
})

test('a file that cannot be taken in says why, one that is too large is not even sent', async () => {
  const { asked, user } = await open({ 'POST recipes/read': problem(400, 'This is not a recipe file.') })
  give(FILE)
  await screen.findByText('This is not a recipe file.')
  await user.click(screen.getByRole('button', { name: 'Leave it' }))
  const large = new File([''], 'large.json')
  Object.defineProperty(large, 'size', { value: 2_000_000 })
  give(large)
  await screen.findByText(/larger than a recipe can be/)
  expect(sent(asked, 'POST')).toHaveLength(1)
})
