import { screen, waitFor, within } from '@testing-library/react'
import type { FilamentRecord } from '@verimend/contract'
import { cardOf, dryingOf, dryness, partCost, type Filament } from '@verimend/core/material'
import { figure, quantity } from '@verimend/core/quantity'
import Shelf from '../src/shelf/Shelf'
import { RollCare } from '../src/shelf/RollCare'
import Machines from '../src/machines/Machines'
import { today } from '../src/components/format'
import { DEMO_PRINTERS, DEMO_ROLLS, copyOf, demoServer, only, problem, rows, sent, undo } from './demo'
import { show } from './show'

beforeEach(() => localStorage.clear())
const roll = (change: Partial<Filament> = {}): FilamentRecord => {
  const record = copyOf(DEMO_ROLLS.find((r) => r.filament.name === 'Pond blue')!)
  return { ...record, filament: { ...record.filament, ...change } }
}
const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label)

test('each roll with its label, its diameter and what is left', async () => {
  demoServer()
  show(<Shelf />)
  await waitFor(() => expect(rows('roll')).toHaveLength(DEMO_ROLLS.length))
  for (const [i, { filament: f }] of DEMO_ROLLS.entries()) {
    const text = rows('roll')[i].textContent!
    expect(text).toContain(f.name)
    expect(text).toContain(cardOf(f.family).name)
    if (f.label.nozzle) expect(text).toContain(`${f.label.nozzle.min}–${f.label.nozzle.max}`)
    expect(text).toContain(f.measured.length ? 'spread' : 'nominal')
  }
})

test('rolls that want the dryer stand above, and a drying noted takes them off', async () => {
  const due = DEMO_ROLLS.filter((r) => dryness(r.filament, today()) === 'due')
  const wet = due[0] ?? roll({ openedOn: '2020-01-01', dryings: [] })
  let list = [wet]
  const asked = demoServer({
    'GET filaments': () => list,
    [`PUT filaments/${wet.id}`]: (b: unknown) => {
      list = [{ ...wet, rev: wet.rev + 1, filament: (b as { filament: Filament }).filament }]
      return list[0]
    },
  })
  const { user } = show(<Shelf />)
  const above = within(await screen.findByLabelText('Dry before the next print'))
  await user.click(above.getByRole('button', { name: 'Dried today' }))
  await waitFor(() => expect(screen.queryByLabelText('Dry before the next print')).toBeNull())
  const { rev, filament } = await only<{ rev: number; filament: Filament }>(asked, 'PUT')
  expect(rev).toBe(wet.rev)
  const wanted = dryingOf(wet.filament)
  expect(filament.dryings.at(-1)).toEqual({
    on: today(),
    temperature: wanted.temperature,
    hours: wanted.hours,
  })
})

test('a colder dryer takes longer, a far too cold one does not count', async () => {
  demoServer()
  const record = roll()
  const { temperature } = dryingOf(record.filament)
  const { user } = show(<RollCare record={record} />)
  await user.clear(field('Dryer, °C'))
  await user.type(field('Dryer, °C'), String(temperature - 10))
  await screen.findByText(/it takes about/)
  await user.clear(field('Dryer, °C'))
  await user.type(field('Dryer, °C'), '25')
  await screen.findByText(/^Too cold to count/)
  await user.clear(field('Dryer, °C'))
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Dried today' }).disabled).toBe(true)
})

test('weighed with its spool: the spool is taken off, nonsense is said and not sent, and it can be undone', async () => {
  const record = roll({ spoolWeight: 230, rollWeight: 1000, weightLeft: 600 })
  const asked = demoServer({
    [`PUT filaments/${record.id}`]: (b: unknown) => ({ ...record, ...(b as object), rev: 9 }),
  })
  const { user } = show(<RollCare record={record} />)
  const weighed = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Weighed' })
  expect(weighed().disabled).toBe(true)
  await user.type(field('Roll with spool, g'), '200')
  await screen.findByText('That is less than the empty spool weighs.')
  expect(weighed().disabled).toBe(true)
  await user.clear(field('Roll with spool, g'))
  await user.type(field('Roll with spool, g'), '1500')
  await screen.findByText(/more than a full roll holds/)
  await user.clear(field('Roll with spool, g'))
  await user.type(field('Roll with spool, g'), '705')
  await user.click(weighed())
  const { filament } = await only<{ filament: Filament }>(asked, 'PUT')
  expect(filament.weightLeft).toBe(475)
  await undo(/475 g are left/)
  await waitFor(() => expect(sent(asked, 'PUT')).toHaveLength(2))
  expect(sent(asked, 'PUT')[1].body).toMatchObject({ rev: 9, filament: { weightLeft: 600 } })
})

test('a spool that nobody weighed counts as nothing, and that is said', async () => {
  demoServer()
  const { user } = show(<RollCare record={roll({ spoolWeight: null })} />)
  expect(screen.queryByText(/taken as 0 g/)).toBeNull()
  await user.type(field('Roll with spool, g'), '500')
  await screen.findByText(/taken as 0 g/)
})

test('more than there is cannot be taken off', async () => {
  const record = roll({ weightLeft: 50 })
  const asked = demoServer({ [`PUT filaments/${record.id}`]: record })
  const { user } = show(<RollCare record={record} />)
  const off = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Take off' })
  await user.type(field('Used up, g'), '51')
  expect(off().disabled).toBe(true)
  await user.clear(field('Used up, g'))
  await user.type(field('Used up, g'), '50')
  await user.click(off())
  expect((await only<{ filament: Filament }>(asked, 'PUT')).filament.weightLeft).toBe(0)
})

test('does the next part fit: yes, only just, no, and nobody knows; with its price', async () => {
  demoServer()
  const record = roll({ weightLeft: 100, rollWeight: 1000, price: { amount: 20, currency: '€' } })
  const { user, unmount } = show(<RollCare record={record} />)
  const says = async (grams: string) => {
    await user.clear(field('Grams of the part'))
    await user.type(field('Grams of the part'), grams)
    return within(screen.getByLabelText('Does the next part fit?')).findByRole('status')
  }
  expect((await says('40')).textContent).toBe(`It fits; ${quantity(60, 'g', 0)} stay on the roll.`)
  expect(screen.getByText(`${figure(partCost(record.filament, 40)!.amount, 2)} €`)).toBeTruthy()
  expect((await says('99')).textContent).toContain(`Only just: ${quantity(1, 'g', 0)}`)
  expect((await says('150')).textContent).toMatch(/are missing: .* about 67 %/)
  expect(screen.getByText('How to join a roll').getAttribute('href')).toBe('/handbook/procedures#join-roll')
  unmount()
  const unknown = show(<RollCare record={roll({ weightLeft: null })} />)
  await unknown.user.type(field('Grams of the part'), '10')
  await screen.findByText(/Nobody has weighed this roll/)
})

test('a change that another window was quicker with is said, nothing is lost', async () => {
  const record = roll()
  demoServer({ [`PUT filaments/${record.id}`]: problem(409, 'This roll was changed meanwhile.') })
  const { user } = show(<RollCare record={record} />)
  await user.click(screen.getByRole('button', { name: 'Dried today' }))
  await screen.findByText('This roll was changed meanwhile.')
})

test('a roll off the shelf comes back; an empty shelf says what a roll is for', async () => {
  const gone = DEMO_ROLLS[2]
  const asked = demoServer({
    [`DELETE filaments/${gone.id}`]: gone,
    [`POST filaments/${gone.id}/restore`]: gone,
  })
  const { user, unmount } = show(<Shelf />)
  await user.click(await screen.findByRole('button', { name: `Remove ${gone.filament.name}` }))
  await undo(/is off the shelf. Its recipes are kept/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(1))
  unmount()
  demoServer({ 'GET filaments': [] })
  show(<Shelf />)
  await screen.findByText(/The shelf is empty/)
})

test('machines stand side by side with the same properties; one put away comes back', async () => {
  const [gone] = DEMO_PRINTERS
  const asked = demoServer({
    [`DELETE machines/${gone.id}`]: gone,
    [`POST machines/${gone.id}/restore`]: gone,
  })
  const { user } = show(<Machines />)
  await waitFor(() => expect(rows('machine')).toHaveLength(DEMO_PRINTERS.length))
  const properties = rows('machine').map((m) =>
    [...m.querySelectorAll('tr')].map((r) => r.firstElementChild!.textContent),
  )
  expect(properties.every((p) => p.join() === properties[0].join())).toBe(true)
  for (const [i, { machine: m }] of DEMO_PRINTERS.entries()) {
    const text = rows('machine')[i].textContent!
    expect(text).toContain(`${m.limits.nozzle} °C nozzle`)
    expect(text).toContain(`${m.limits.speed} mm/s`)
    expect(text).toContain(m.limits.corner.kind === 'instant-change' ? 'at once' : 'junction deviation')
  }
  await user.click(screen.getByRole('button', { name: `Remove ${gone.machine.name}` }))
  await undo(/is put away. Its recipes are kept/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(1))
})

test('no machine yet', async () => {
  demoServer({ 'GET machines': [] })
  const { user, where } = show(<Machines />)
  await user.click(await screen.findByRole('button', { name: 'Add the first machine' }))
  expect(where()).toBe('/machines/new')
})
