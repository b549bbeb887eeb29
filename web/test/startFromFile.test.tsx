import { fireEvent, screen, waitFor } from '@testing-library/react'
import type { FilamentRecord, MachineRecord } from '@verimend/contract'
import { writePractice } from '@verimend/core/casework'
import { MACHINE_KINDS, type Machine } from '@verimend/core/machine'
import type { FamilyId } from '@verimend/core/material'
import { deriveRecipe } from '@verimend/core/recipe'
import StartFromFile from '../src/bench/StartFromFile'
import { NEW_ROLL } from '../src/shelf/newRoll'
import { caseOf, DEMO_PRINTERS, DEMO_ROLLS, demoServer, pairOf, pick, problem, sent } from './demo'
import { given } from './part'
import { show, type Answers } from './show'
import { withWorkers } from './worker'

withWorkers()
beforeEach(() => localStorage.clear())

const tube: Machine = { ...MACHINE_KINDS['open-tube'].body, name: 'A machine', notes: '' }
const fileFor = (family: FamilyId, change: (gcode: string) => string = (g) => g): File => {
  const filament = { ...NEW_ROLL, family, name: 'A roll' }
  const gcode = change(writePractice(tube, deriveRecipe({ machine: tube, filament })))
  return given(gcode, 'gate latch v2.gcode')
}
const pair = pairOf('Morning dew')
const kase = caseOf('Vent hinge')

/** A path file is dropped where nothing is known, or where some rolls and machines are. */
async function dropped(
  file: File,
  {
    rolls = [],
    machines = [],
    answers = {},
  }: { rolls?: FilamentRecord[]; machines?: MachineRecord[]; answers?: Answers } = {},
) {
  const asked = demoServer({
    'POST filaments': DEMO_ROLLS[0],
    'POST machines': DEMO_PRINTERS[0],
    'POST pairs': pair,
    'POST cases': kase,
    [`POST cases/${kase.id}/files`]: kase,
    ...answers,
  })
  const view = show(<StartFromFile rolls={rolls} machines={machines} />)
  fireEvent.change(screen.getByLabelText('G-code file'), { target: { files: [file] } })
  await screen.findByTestId('start-from-file')
  return { asked, ...view }
}
const begin = () => screen.getByRole('button', { name: /Begin the case/ })
const posts = (asked: Parameters<typeof sent>[0]) => sent(asked, 'POST').map((a) => a.path)

test('a file alone becomes roll, machine, pair, case and the case’s file, in that order', async () => {
  const { asked, user, where } = await dropped(fileFor('abs'))
  expect(screen.getByLabelText<HTMLInputElement>('The part').value).toBe('gate latch v2')
  await user.click(begin())
  await waitFor(() => expect(where()).toBe(`/cases/${kase.id}`))
  expect(posts(asked)).toEqual(['filaments', 'machines', 'pairs', 'cases', `cases/${kase.id}/files`])
  const [roll, machine, , begun, file] = sent(asked, 'POST').map((a) => a.body as never)
  expect(roll).toMatchObject({ filament: { family: 'abs' } })
  // what it takes from its kind is marked as assumed
  expect(machine).toMatchObject({ machine: { drive: { kind: 'tube' } } })
  expect((machine as { machine: Machine }).machine.assumed?.length).toBeGreaterThan(3)
  expect(begun).toMatchObject({ part: 'gate latch v2', pairId: pair.id })
  expect(file).toMatchObject({ name: 'gate latch v2.gcode' })
  expect(localStorage.getItem('verimend.pair')).toBe(pair.id)
})

test('what fails half way is said, and beginning again makes nothing twice', async () => {
  let times = 0
  const { asked, user, where } = await dropped(fileFor('petg'), {
    answers: {
      'POST pairs': () => (++times === 1 ? problem(503, 'The database is not there just now.') : pair),
    },
  })
  await user.click(begin())
  await screen.findByText(/database is not there just now/)
  // what was typed is still there
  expect(screen.getByLabelText<HTMLInputElement>('The part').value).toBe('gate latch v2')
  await user.click(begin())
  await waitFor(() => expect(where()).toBe(`/cases/${kase.id}`))
  expect(posts(asked)).toEqual([
    ...['filaments', 'machines', 'pairs'],
    ...['pairs', 'cases', `cases/${kase.id}/files`],
  ])
})

test('where rolls and machines are there, they are taken; another family or kind can be chosen', async () => {
  const [roll, machine] = [DEMO_ROLLS[0], DEMO_PRINTERS[0]]
  const { asked, user, where } = await dropped(fileFor('pla'), { rolls: [roll], machines: [machine] })
  await pick('The machine', MACHINE_KINDS['enclosed-fast'].label)
  await user.clear(screen.getByLabelText('The part'))
  await user.click(begin())
  await waitFor(() => expect(where()).toBe(`/cases/${kase.id}`))
  expect(posts(asked)).toEqual(['machines', 'pairs', 'cases', `cases/${kase.id}/files`])
  const [made, opened, begun] = sent(asked, 'POST').map((a) => a.body as never)
  expect(made).toMatchObject({ machine: { drive: { kind: 'direct' } } })
  expect(opened).toMatchObject({ filamentId: roll.id })
  // a name that was cleared is the file's again
  expect(begun).toMatchObject({ part: 'gate latch v2' })
})

test('a file that asks for more heat than a hot end bears makes no machine that bears it', async () => {
  const hot = fileFor('petg', (gcode) =>
    gcode.replace(/M109 S\d+/, 'M109 S480').replace(/M104 S\d+/, 'M104 S480'),
  )
  const { asked, user } = await dropped(hot)
  expect(screen.getByTestId('start-from-file').textContent).toMatch(/limit stays at 300/)
  await user.click(begin())
  await waitFor(() => expect(posts(asked)).toContain('machines'))
  const made = sent(asked, 'POST').find((a) => a.path === 'machines')!.body as { machine: Machine }
  expect(made.machine.limits.nozzle).toBe(300)
})
