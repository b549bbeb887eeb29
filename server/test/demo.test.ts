import { sayAll } from '@verimend/core/words'
import { MarkRow, MachineRow } from '../src/database/models'
import { TestApp } from './harness'

test('the demo fills an empty database once, and a seeding that was killed is begun again', async () => {
  const app = new TestApp('demo', 'filled')
  await app.start()
  expect((await app.get('machines')).body).toHaveLength(2)
  expect((await app.get('filaments')).body).toHaveLength(9)
  const cases = (await app.get('cases')).body.cases as { part: string; status: string; awaiting: boolean }[]
  expect(cases.map((c) => c.part).sort()).toEqual([
    'Drip-line clips',
    'Hose coupling',
    'Plant tie',
    'Seed-tray labels',
    'Sensor hood',
    'Snap joint',
    'Tap gasket',
    'Vent hinge',
  ])
  // the app's own advice cured the coupling: the left-over flow
  const coupling = cases.find((c) => c.part === 'Hose coupling') as unknown as { id: string }
  expect(sayAll((await app.get(`cases/${coupling.id}`)).body.learnt)).toMatch(
    /First layer overfed: Flow, first layer 120/,
  )
  await MachineRow.update({ rev: 7 }, { where: {} })
  await app.stop()

  const second = new TestApp('demo', 'filled')
  await second.start()
  expect((await second.get('machines')).body[0].rev).toBe(7) // nothing was seeded again
  await MarkRow.update({ value: 'begun' }, { where: { name: 'demo' } })
  await second.stop()

  const third = new TestApp('demo', 'filled')
  await third.start()
  expect((await third.get('machines')).body.map((m: { rev: number }) => m.rev)).toEqual([1, 1])
  expect((await third.get('cases')).body.cases).toHaveLength(8)
  await third.stop()
})
