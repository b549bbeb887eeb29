import { waitFor } from '@testing-library/react'
import { useLeadOn } from '../src/bench/useLeadOn'
import { chosenPair } from '../src/pairs/chosenPair'
import { DEMO_PAIRS, DEMO_PRINTERS, DEMO_ROLLS, sent } from './demo'
import { server, show } from './show'

function Saved({ list }: { list: '/shelf' | '/machines' }) {
  const leadOn = useLeadOn()
  return (
    <button type="button" onClick={() => void leadOn(list)}>
      Saved
    </button>
  )
}
/** Where one comes to from a list, with so many rolls, machines and pairs. */
async function cameTo(list: '/shelf' | '/machines', rolls: number, machines: number, pairs = 0) {
  const asked = server({
    'GET pairs': DEMO_PAIRS.slice(0, pairs),
    'GET filaments': DEMO_ROLLS.slice(0, rolls),
    'GET machines': DEMO_PRINTERS.slice(0, machines),
    'POST pairs': { ...DEMO_PAIRS[0], id: 'first-pair' },
  })
  const view = show(<Saved list={list} />, { at: '/here', route: '/here' })
  await view.user.click(view.getByRole('button', { name: 'Saved' }))
  await waitFor(() => expect(view.where()).not.toBe('/here'))
  const where = view.where()
  view.unmount()
  return { where, opened: sent(asked, 'POST').length }
}
beforeEach(() => localStorage.clear())

test.each([
  ['the first roll leads to the machine that is missing', '/shelf', 1, 0, 0, '/machines/new'],
  ['the first machine to the roll that is missing', '/machines', 0, 1, 0, '/shelf/new'],
  [
    'several rolls and the first machine to the bench, where one of them is chosen',
    '/machines',
    3,
    1,
    0,
    '/',
  ],
  ['several machines and the first roll as well', '/shelf', 1, 2, 0, '/'],
  ['later ones lead to their own list', '/shelf', 3, 2, 1, '/shelf'],
  ['of machines too', '/machines', 3, 2, 2, '/machines'],
] as const)('%s', async (_, list, rolls, machines, pairs, to) => {
  expect(await cameTo(list, rolls, machines, pairs)).toEqual({ where: to, opened: 0 })
})

test('one of each is a pair, chosen, and its first case begins', async () => {
  expect(await cameTo('/machines', 1, 1)).toEqual({ where: '/cases/new', opened: 1 })
  expect(chosenPair.read()).toBe('first-pair')
})
