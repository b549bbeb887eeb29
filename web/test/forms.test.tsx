import { cleanup, screen, waitFor } from '@testing-library/react'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { useState } from 'react'
import { DayField } from '../src/components/DayField'
import { today } from '../src/components/format'
import MachineForm from '../src/machines/MachineForm'
import FilamentForm from '../src/shelf/FilamentForm'
import { server, show } from './show'

const id = '0190d8a4-7d1c-7000-8000-000000000002'
const fern = demoFilaments('2026-01-01').fern
beforeEach(() => sessionStorage.clear())

/** The sentence shown under a field. */
const faultAt = (label: string) =>
  screen.getByLabelText(label).closest('.ant-form-item')?.querySelector('.ant-form-item-explain-error')
    ?.textContent
const newRoll = () => show(<FilamentForm />, { at: '/shelf/new', route: '/shelf/:id' })

test('a roll without a name is not sent, the field says why, and what was typed stays', async () => {
  const asked = server({})
  const { user } = newRoll()
  await user.type(screen.getByLabelText('Maker'), 'Millrace')
  await user.click(screen.getByRole('button', { name: 'Put on the shelf' }))
  await waitFor(() => expect(faultAt('Name')).toBe('The name needs 1 to 80 characters.'))
  expect(asked.filter((a) => a.method === 'POST')).toEqual([])
  expect(screen.getByLabelText<HTMLInputElement>('Maker').value).toBe('Millrace')
})

test('half a range, or a range the wrong way round, is said at the range', async () => {
  server({})
  const { user } = newRoll()
  await user.type(screen.getByLabelText('Name'), 'Clover')
  await user.type(screen.getByLabelText('Nozzle, from'), '230')
  await user.click(screen.getByRole('button', { name: 'Put on the shelf' }))
  await waitFor(() => expect(faultAt('Nozzle, from')).toMatch(/upper end, is a number from 150 to 400/))
  await user.type(screen.getByLabelText('Nozzle, to'), '200')
  await user.click(screen.getByRole('button', { name: 'Put on the shelf' }))
  await waitFor(() => expect(faultAt('Nozzle, from')).toMatch(/lower end is above the upper end/))
})

test('diameters typed in a row: a comma will do, a word is a fault at the field', async () => {
  const asked = server({ 'POST filaments': (b: unknown) => ({ id, rev: 1, ...(b as object) }) })
  const { user, where } = newRoll()
  await user.type(screen.getByLabelText('Name'), 'Clover')
  const field = screen.getByLabelText<HTMLInputElement>('Measured diameters')
  await user.type(field, '1.74/1.76 thick')
  await user.click(screen.getByRole('button', { name: 'Put on the shelf' }))
  await waitFor(() => expect(faultAt('Measured diameters')).toMatch(/is a number from 1 to 3.2 mm/))
  expect(field.value).toBe('1.74/1.76 thick')
  await user.clear(field)
  await user.type(field, '1.74/1.76  1,75')
  await user.click(screen.getByRole('button', { name: 'Put on the shelf' }))
  // the first roll of an empty shelf leads on to the machine
  await waitFor(() => expect(where()).toBe('/machines/new'))
  const sent = asked.find((a) => a.method === 'POST')!.body as { filament: { measured: unknown } }
  expect(sent.filament.measured).toEqual([
    { a: 1.74, b: 1.76 },
    { a: 1.75, b: null },
  ])
})

test('a label read in one go fills the ranges; nothing in it is said', async () => {
  server({})
  const { user } = newRoll()
  await user.type(screen.getByLabelText('The label as printed'), '195-225 °C, bed 50-60 °C, 750 g{Enter}')
  expect(screen.getByRole('status').textContent).toMatch(/^Read: nozzle, bed, weight/)
  expect(screen.getByLabelText<HTMLInputElement>('Nozzle, from').value).toBe('195')
  expect(screen.getByLabelText<HTMLInputElement>('Bed, to').value).toBe('60')
  await user.clear(screen.getByLabelText('The label as printed'))
  await user.type(screen.getByLabelText('The label as printed'), 'keep dry{Enter}')
  expect(screen.getByRole('status').textContent).toMatch(/^Nothing of it was understood/)
})

test('a draft outlives the page; leaving without saving forgets it', async () => {
  server({})
  const first = newRoll()
  await first.user.type(screen.getByLabelText('Name'), 'Clover')
  cleanup()
  const again = newRoll()
  await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe('Clover'))
  await again.user.click(screen.getByRole('button', { name: 'Leave without saving' }))
  cleanup()
  newRoll()
  expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe('')
})

test('what the server finds wrong goes to its field; no answer leaves everything where it is', async () => {
  const record = { id, rev: 3, updatedAt: '2026-01-01T00:00:00Z', filament: { ...fern, name: 'Fern' } }
  const answers: Record<string, unknown> = {
    'GET filaments': [record],
    [`PUT filaments/${id}`]: {
      type: 'about:blank',
      title: 'Wrong',
      status: 400,
      code: 'invalid',
      detail: 'Some fields are wrong.',
      fields: [{ path: 'filament.name', message: 'There is a roll of that name already.' }],
    },
  }
  server(answers)
  const { user } = show(<FilamentForm />, { at: `/shelf/${id}`, route: '/shelf/:id' })
  await user.click(await screen.findByRole('button', { name: 'Save' }))
  await waitFor(() => expect(faultAt('Name')).toBe('There is a roll of that name already.'))
  answers[`PUT filaments/${id}`] = 'away'
  await user.click(screen.getByRole('button', { name: 'Save' }))
  expect((await screen.findByText(/Verimend does not answer/)).textContent).toContain('is kept here')
  expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe('Fern')
})

test('a machine: a tube-fed one needs its tube, a limit out of bounds is named, and it is sent as it stands', async () => {
  const record = { id, rev: 7, updatedAt: '2026-01-01T00:00:00Z', machine: DEMO_MACHINES.shed }
  const asked = server({ 'GET machines': [record], [`PUT machines/${id}`]: () => record })
  const { user, where } = show(<MachineForm />, { at: `/machines/${id}`, route: '/machines/:id' })
  const tube = await screen.findByLabelText(/tube/i, { selector: 'input[role="spinbutton"]' })
  await user.clear(tube)
  await user.type(tube, '0')
  await user.click(screen.getByRole('button', { name: 'Save' }))
  await waitFor(() =>
    expect(tube.closest('.ant-form-item')?.querySelector('.ant-form-item-explain-error')?.textContent).toBe(
      'A tube-fed machine needs the length of its tube.',
    ),
  )
  expect(asked.filter((a) => a.method === 'PUT')).toEqual([])
  await user.clear(tube)
  await user.type(tube, '410')
  await user.click(screen.getByRole('button', { name: 'Save' }))
  await waitFor(() => expect(where()).toBe('/machines'))
  const sent = asked.find((a) => a.method === 'PUT')!.body as { rev: number; machine: object }
  expect(sent.rev).toBe(7)
  expect(sent.machine).toMatchObject(JSON.parse(JSON.stringify(DEMO_MACHINES.shed)) as object)
})

test('a day is typed in more than one way, shown by the month’s name, and never later than today', async () => {
  const days: (string | null)[] = []
  function Held() {
    const [day, setDay] = useState<string | null>('2026-02-03')
    days.push(day)
    return <DayField id="day" value={day} onChange={setDay} />
  }
  const { user } = show(
    <>
      <label htmlFor="day">Day</label>
      <Held />
    </>,
  )
  const field = screen.getByLabelText<HTMLInputElement>('Day')
  // the third of February, not the second of March
  expect(field.value).toBe('3 Feb 2026')
  for (const [typed, iso] of [
    ['2026-03-05', '2026-03-05'],
    ['5.4.2026', '2026-04-05'],
    ['6 May 2026', '2026-05-06'],
  ]) {
    await user.clear(field)
    await user.type(field, `${typed}{Enter}`)
    await waitFor(() => expect(days.at(-1)).toBe(iso))
  }
  await user.clear(field)
  await user.type(field, '1 Jan 2199{Enter}')
  await user.tab()
  expect(days.at(-1)).toBe('2026-05-06')
  await user.click(screen.getByRole('button', { name: 'Today' }))
  expect(days.at(-1)).toBe(today())
})
