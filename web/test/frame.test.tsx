import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import PairChooser from '../src/pairs/PairChooser'
import { Frame } from '../src/frame/Frame'
import KeyList from '../src/frame/KeyList'
import NotFound from '../src/frame/NotFound'
import { isTyping, OTHER_KEYS } from '../src/frame/keys'
import { SCREENS } from '../src/screens'
import { ModeProvider } from '../src/theme/mode'
import { DEMO_PAIRS, DEMO_PRINTERS, DEMO_ROLLS, demoServer, only, pairOf, problem, sent } from './demo'
import { show } from './show'

beforeEach(() => localStorage.clear())
const frame = () =>
  show(
    <ModeProvider>
      <Frame />
    </ModeProvider>,
    { at: '/' },
  )

test('g and a letter goes to each screen; a letter alone, or late, does not', async () => {
  demoServer()
  const { user, where } = frame()
  await screen.findByLabelText('Current pair')
  for (const { key, path } of SCREENS) {
    await user.keyboard(`g${key}`)
    expect(where()).toBe(path)
  }
  await user.keyboard('c')
  expect(where()).toBe(SCREENS.at(-1)!.path)
  const now = jest.spyOn(Date, 'now')
  await user.keyboard('g')
  now.mockReturnValue(Date.now() + 5000)
  await user.keyboard('c')
  expect(where()).toBe(SCREENS.at(-1)!.path)
  now.mockRestore()
})

test('n begins a case, ? lists the keys, Ctrl K searches; with Alt, or in a field, none of them does', async () => {
  demoServer()
  const { user, where } = frame()
  await screen.findByLabelText('Current pair')
  await user.keyboard('{Alt>}n{/Alt}')
  expect(where()).toBe('/')
  await user.keyboard('n')
  expect(where()).toBe('/cases/new')
  await user.keyboard('?')
  await screen.findByText('This list')
  await user.keyboard('{Control>}k{/Control}')
  const field = await screen.findByRole('combobox')
  fireEvent.keyDown(field, { key: 'g' })
  fireEvent.keyDown(field, { key: 'b' })
  expect(where()).toBe('/cases/new')
})

test('the list of keys holds every screen and every other key', () => {
  show(<KeyList onClose={() => undefined} />)
  const text = document.body.textContent
  for (const { key, label } of SCREENS) expect(text).toContain(`g ${key}${label}`)
  for (const { what } of OTHER_KEYS) expect(text).toContain(what)
  // no letter stands for two screens
  expect(new Set(SCREENS.map((s) => s.key)).size).toBe(SCREENS.length)
})

test.each([
  ['input', true],
  ['textarea', true],
  ['select', true],
  ['button', false],
  ['div', false],
])('a key pressed in a %s belongs to it: %s', (tag, typing) => {
  expect(isTyping(document.createElement(tag))).toBe(typing)
})

test('light and dark: chosen by hand it stays so', async () => {
  demoServer()
  const { user, unmount } = frame()
  await user.click(screen.getByRole('button', { name: 'Dark theme' }))
  expect(document.documentElement.dataset.mode ?? document.documentElement.className).toContain('dark')
  unmount()
  frame()
  await user.click(screen.getByRole('button', { name: 'Light theme' }))
  expect(screen.getByRole('button', { name: 'Dark theme' })).toBeTruthy()
})

test('the strip names the pair, and leads to its roll and machine', async () => {
  demoServer()
  frame()
  const strip = within(await screen.findByLabelText('Current pair'))
  const [first] = DEMO_PAIRS
  const roll = DEMO_ROLLS.find((r) => r.id === first.filamentId)!
  const machine = DEMO_PRINTERS.find((m) => m.id === first.machineId)!
  const link = async (name: string) => (await strip.findByText(name)).closest('a')!.getAttribute('href')
  expect(await link(roll.filament.name)).toBe(`/shelf/${roll.id}`)
  expect(await link(machine.machine.name)).toBe(`/machines/${machine.id}`)
})

test('no pair yet: the strip says so, and the choice leads to a roll and a machine', async () => {
  demoServer({ 'GET pairs': [], 'GET filaments': [], 'GET machines': [] })
  const { user } = frame()
  await screen.findByText('No pair chosen yet')
  await user.click(screen.getByRole('button', { name: 'Choose a pair' }))
  expect((await screen.findByText('Add a roll')).getAttribute('href')).toBe('/shelf/new')
  expect(screen.getByText('Add a machine').getAttribute('href')).toBe('/machines/new')
})

test('a pair is a roll and a machine: it is opened, chosen and told', async () => {
  const slate = pairOf('Slate')
  const asked = demoServer({ 'POST pairs': slate })
  const chosen: string[] = []
  let closed = 0
  const { user } = show(<PairChooser onClose={() => closed++} onChosen={(id) => chosen.push(id)} />)
  await user.click(await screen.findByText('Slate'))
  await user.click(screen.getByText(slate.machine.machine.name))
  await user.click(screen.getByRole('button', { name: 'Work with this pair' }))
  expect(await only(asked, 'POST')).toEqual({
    machineId: slate.machineId,
    filamentId: slate.filamentId,
  })
  await waitFor(() => expect(chosen).toEqual([slate.id]))
  expect(closed).toBe(1)
  expect(localStorage.getItem('verimend.pair')).toBe(slate.id)
})

test('a pair that cannot be opened keeps the choice open', async () => {
  const asked = demoServer({ 'POST pairs': problem(503, 'Too much at once: try again in a second.') })
  let closed = 0
  const { user } = show(<PairChooser onClose={() => closed++} />)
  await user.click(await screen.findByText('Slate'))
  await user.click(screen.getByText(DEMO_PRINTERS[0].machine.name))
  await user.click(screen.getByRole('button', { name: 'Work with this pair' }))
  await screen.findByText(/try again in a second/)
  expect(closed).toBe(0)
  expect(sent(asked, 'POST')).toHaveLength(1)
})

test('an address that leads nowhere leads back', () => {
  demoServer()
  show(<NotFound />, { at: '/nowhere' })
  expect(document.querySelector('a')!.getAttribute('href')).toBe('/')
})
