import { screen, waitFor } from '@testing-library/react'
import { machineSchema, type MachineRecord } from '@verimend/contract'
import type { Machine } from '@verimend/core/machine'
import MachineForm from '../src/machines/MachineForm'
import { DEMO_PRINTERS, copyOf, demoServer, only, pick, problem, sent, undo } from './demo'
import { show, type Answers } from './show'

beforeEach(() => sessionStorage.clear())
const [record] = DEMO_PRINTERS
const id = record.id
const edit = (answers: Answers = {}, of: MachineRecord = record) => {
  const asked = demoServer({
    'GET machines': [of],
    [`PUT machines/${of.id}`]: (b: unknown) => ({ ...of, ...(b as object), rev: of.rev + 1 }),
    ...answers,
  })
  return { asked, ...show(<MachineForm />, { at: `/machines/${of.id}`, route: '/machines/:id' }) }
}
const add = (answers: Answers = {}) => {
  const asked = demoServer({ 'POST machines': record, ...answers })
  return { asked, ...show(<MachineForm />, { at: '/machines/new', route: '/machines/:id' }) }
}
const field = (label: string | RegExp) => screen.findByLabelText<HTMLInputElement>(label)
const save = (name = 'Save') => screen.getByRole('button', { name })
const saved = async (asked: Parameters<typeof only>[0], method = 'PUT') =>
  (await only<{ machine: Machine }>(asked, method)).machine
const explained = () =>
  [...document.querySelectorAll('.ant-form-item-explain-error')].map((e) => e.textContent)

test('a new machine is whole but for its name: with one it is sent, and holds what the schema wants', async () => {
  const { user, asked, where } = add()
  await user.click(save('Add the machine'))
  await waitFor(() => expect(explained()).toEqual(['The name needs 1 to 80 characters.']))
  await user.type(await field('Name'), 'Orangery')
  await user.click(save('Add the machine'))
  await waitFor(() => expect(where()).toBe('/machines'))
  const machine = await saved(asked, 'POST')
  expect(machineSchema.safeParse(machine).success).toBe(true)
  expect(machine.name).toBe('Orangery')
  // nothing is known yet of a bed that was never printed on
  expect(machine.bed.printsSinceLevel).toBeNull()
  expect(machine.bed.printsSinceWash).toBeNull()
})

test('saved as it stands, nothing of it changes', async () => {
  for (const of of DEMO_PRINTERS) {
    const { user, asked, unmount } = edit({}, of)
    await field('Name')
    await user.click(save())
    const { commands, ...rest } = await saved(asked)
    const { commands: before, ...was } = copyOf(of.machine)
    expect(rest).toEqual(was)
    // commands that were never chosen are written down as they are taken
    if (before) expect(commands).toEqual(before)
    unmount()
  }
})

test('the corner rule is one or the other: of the one that is not chosen nothing is kept', async () => {
  const { user, asked } = edit()
  await field('Name')
  await pick('Corner rule', /^junction deviation/)
  const deviation = await field('Deviation')
  await user.clear(deviation)
  await user.type(deviation, '0.02')
  await user.click(save())
  const { limits } = await saved(asked)
  expect(limits.corner).toEqual({ kind: 'junction-deviation', deviation: 0.02 })
})

test('a drive without a tube has none, whatever its length was', async () => {
  const tube = DEMO_PRINTERS.find((p) => p.machine.drive.kind === 'tube')!
  const { user, asked } = edit({}, tube)
  await field('Length of the tube')
  await pick('Drive', /^direct/)
  await waitFor(() => expect(screen.queryByLabelText('Length of the tube')).toBeNull())
  await user.click(save())
  expect((await saved(asked)).drive).toEqual({ kind: 'direct', tubeLength: 0 })
})

test('how it is spoken to: each choice is what is sent', async () => {
  const { user, asked } = edit()
  await field('Name')
  const chosen = [
    ['Feed', /absolute/, { feed: 'absolute' }],
    ['Fan', /0 to 1$/, { fan: 'fraction' }],
    ['Acceleration', /^not told/, { acceleration: 'none' }],
    ['Pressure compensation', /M572/, { pressure: 's' }],
    ['Levelling before a print', /G29/, { level: 'probe' }],
  ] as const
  for (const [label, option] of chosen) {
    expect(screen.getAllByLabelText(label, { selector: 'input[role="combobox"]' })).toHaveLength(1)
    await pick(label, option)
  }
  await user.click(save())
  expect((await saved(asked)).commands).toMatchObject(Object.assign({}, ...chosen.map(([, , sent]) => sent)))
})

test('what cannot be is said at each field, all at once, and stays typed', async () => {
  const { user, asked } = edit()
  for (const [label, value] of [
    ['Width (X)', '-5'],
    ['Speed, up to', '0'],
    ['Z screw, a turn', '0'],
  ] as const) {
    const input = await field(label)
    await user.clear(input)
    await user.type(input, value)
  }
  await user.click(save())
  await waitFor(() => expect(explained().length).toBe(3))
  for (const said of explained()) expect(said).toMatch(/\d/)
  expect((await field('Width (X)')).value).toBe('-5')
  expect(sent(asked, 'PUT')).toEqual([])
})

test('an empty field of what may be unknown is unknown, not nothing', async () => {
  const known = copyOf(record)
  known.machine.bed.residual = 0.1
  known.machine.chamber = 60
  const { user, asked } = edit({}, known)
  await user.clear(await field('Unevenness left'))
  await user.clear(await field(/Chamber heater/))
  await user.click(save())
  const machine = await saved(asked)
  expect(machine.bed.residual).toBeNull()
  expect(machine.chamber ?? null).toBeNull()
})

test('saved and taken back', async () => {
  const { user, asked } = edit()
  const name = await field('Name')
  await user.clear(name)
  await user.type(name, 'Cold frame')
  await user.click(save())
  await undo(/Cold frame is saved/)
  await waitFor(() => expect(sent(asked, 'PUT')).toHaveLength(2))
  expect(sent(asked, 'PUT')[1].body).toMatchObject({
    rev: record.rev + 1,
    machine: { name: record.machine.name },
  })
})

test('changed in another window meanwhile: it is said, and what was typed stays', async () => {
  const { user } = edit({
    [`PUT machines/${id}`]: problem(409, 'This machine was changed meanwhile.', { current: record }),
  })
  const name = await field('Name')
  await user.clear(name)
  await user.type(name, 'Cold frame')
  await user.click(save())
  await screen.findByText(/changed meanwhile|another window/i)
  expect((await field('Name')).value).toBe('Cold frame')
})

test('one that was put away says so', async () => {
  demoServer({ 'GET machines': [] })
  show(<MachineForm />, { at: '/machines/gone', route: '/machines/:id' })
  await screen.findByText('This machine was put away.')
})

test('what comes from the kind is marked as assumed until it is changed or looked over', async () => {
  const { user, asked } = add()
  await user.type(await field('Name'), 'Loft')
  const speed = await screen.findByLabelText('Speed, up to assumed')
  await user.clear(speed)
  await user.type(speed, '180')
  await screen.findByLabelText('Speed, up to')
  await user.click(save('Add the machine'))
  const machine = await saved(asked, 'POST')
  expect(machine.assumed).toContain('limits.nozzle')
  expect(machine.assumed).not.toContain('limits.speed')
  expect(machine.assumed).not.toContain('name')
})

test('of a machine with assumed values the count is said, and it is taken off when they are right', async () => {
  const of = DEMO_PRINTERS[0]
  const kept = { ...of, machine: { ...of.machine, assumed: ['limits.nozzle', 'height', 'bed.width'] } }
  const { user, asked } = edit({}, kept)
  const said = await screen.findByTestId('assumed')
  expect(said.textContent).toContain('3 values are assumed')
  await user.click(screen.getByRole('button', { name: 'They are right' }))
  await waitFor(() => expect(screen.queryByTestId('assumed')).toBeNull())
  await user.click(save())
  expect((await saved(asked)).assumed ?? []).toEqual([])
})
