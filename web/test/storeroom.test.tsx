import { screen, waitFor, within } from '@testing-library/react'
import type { KeptBackup, KeptBackups, RemovedThing } from '@verimend/contract'
import { Gate } from '../src/access/Gate'
import { access } from '../src/access/access'
import { onSignInNeeded } from '../src/api/http'
import CaseList from '../src/cases/CaseList'
import Storeroom from '../src/storeroom/Storeroom'
import { demoServer, problem, rows, sent } from './demo'
import { show } from './show'

const backup = (day: string, why: 'daily' | 'asked', bytes = 2_400_000): KeptBackup => ({
  name: `verimend-${day}-101112-${why}.tar.gz`,
  bytes,
  madeAt: `${day}T10:11:12.000Z`,
})
const day = (n: number) => new Date(Date.now() + n * 86_400_000).toISOString()
const THINGS: RemovedThing[] = [
  { kind: 'case', id: 'c1', name: 'Old peg', removedAt: day(-2), goesAt: day(28), bytes: 0 },
  { kind: 'filament', id: 'f1', name: 'Fern green', removedAt: day(-3), goesAt: null, bytes: 0 },
  { kind: 'photo', id: 'p1', name: 'Bracket', removedAt: day(-29), goesAt: day(1), bytes: 812_000 },
]
const kept = (list: KeptBackup[], more: Partial<KeptBackups> = {}): KeptBackups => ({
  daily: true,
  failed: null,
  list,
  ...more,
})

describe('the storeroom', () => {
  test('backups: those that are there, one now, and each day or not', async () => {
    let now = kept([backup('2026-03-02', 'daily')])
    const asked = demoServer({
      'GET removed': [],
      'GET backups': () => now,
      'POST backups': () => {
        const made = backup('2026-03-03', 'asked', 2_500_000)
        now = kept([made, ...now.list])
        return made
      },
      'PUT backups/daily': () => (now = { ...now, daily: false }),
    })
    const { user } = show(<Storeroom />)
    await waitFor(() => expect(rows('backup')).toHaveLength(1))
    expect(rows('backup')[0].textContent).toMatch(/2\.4.MB/)
    const copy = within(rows('backup')[0]).getByRole('link', { name: 'Save a copy' })
    expect(copy.getAttribute('href')).toBe(`/api/backups/${now.list[0].name}`)
    await user.click(screen.getByRole('button', { name: 'Make one now' }))
    await waitFor(() => expect(rows('backup')).toHaveLength(2))
    expect(await screen.findByText(/4\.9.MB in all/)).toBeTruthy()
    const daily = screen.getByRole('switch', { name: 'A backup each day' })
    expect(daily.getAttribute('aria-checked')).toBe('true')
    await user.click(daily)
    await waitFor(() => expect(daily.getAttribute('aria-checked')).toBe('false'))
    expect(sent(asked, 'PUT')[0].body).toEqual({ daily: false })
  })

  test('one that could not be made says why, and so does the one of today', async () => {
    demoServer({
      'GET removed': [],
      'GET backups': kept([], { failed: 'No space left on device' }),
      'POST backups': problem(507, 'The disk is full. Make room, then try again.'),
    })
    const { user } = show(<Storeroom />)
    expect(await screen.findByText(/could not be made: No space left/)).toBeTruthy()
    await user.click(screen.getByRole('button', { name: 'Make one now' }))
    expect((await screen.findByRole('alert')).textContent).toContain('The disk is full')
  })

  test('what was put away comes back; for good it goes at the second word only', async () => {
    let left = THINGS
    const asked = demoServer({
      'GET backups': kept([]),
      'GET removed': () => left,
      'POST removed/case/c1/restore': () => (left = left.filter((t) => t.id !== 'c1')),
      'DELETE removed/photo/p1': () => {
        left = left.filter((t) => t.id !== 'p1')
        return { bytes: 812_000 }
      },
    })
    const { user } = show(<Storeroom />)
    await waitFor(() => expect(rows('removed')).toHaveLength(3))
    const [peg, roll, photo] = rows('removed')
    expect(peg.textContent).toContain('in 28 days')
    // what cases tell of can only be brought back
    expect(roll.textContent).toContain('stays while cases or trials tell of it')
    expect(within(roll).queryByText('Delete for good')).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Bring Old peg back' }))
    await waitFor(() => expect(rows('removed')).toHaveLength(2))
    await user.click(within(photo).getByRole('button', { name: 'Delete Bracket for good' }))
    expect(sent(asked, 'DELETE')).toEqual([])
    await user.click(within(photo).getByRole('button', { name: 'Gone for good' }))
    await waitFor(() => expect(rows('removed')).toHaveLength(1))
    expect(await screen.findByText(/It is gone; 812.*kB are free again\./)).toBeTruthy()
  })
})

describe('who is signed in', () => {
  const at = new Date(Date.now() - 3 * 86_400_000).toISOString()
  const DEVICES = [
    { id: 'd1', kind: 'computer', own: true, since: at, used: at },
    { id: 'd2', kind: 'phone', own: false, since: at, used: at },
  ]
  const storeroom = (needed: boolean) => {
    demoServer({
      'GET removed': [],
      'GET backups': kept([]),
      'GET session': { needed, signedIn: true },
      'GET session/devices': DEVICES,
      'DELETE session/devices/d2': [DEVICES[0]],
    })
    return show(<Storeroom />)
  }
  test('everybody is signed out at once, after a second question', async () => {
    const leave = jest.spyOn(access, 'leave').mockResolvedValue()
    const { user } = storeroom(true)
    await user.click(await screen.findByRole('button', { name: 'Sign out everywhere' }))
    expect(leave).not.toHaveBeenCalled()
    const sure = await screen.findByRole('tooltip')
    await user.click(within(sure).getByRole('button', { name: 'Sign out everywhere' }))
    await waitFor(() => expect(leave).toHaveBeenCalledWith(true))
    leave.mockRestore()
  })
  test('one device is signed out, not the one that asks', async () => {
    const { user } = storeroom(true)
    const [own, phone] = await screen.findAllByTestId('device')
    expect(own.textContent).toContain('A computer, this one')
    expect(within(own).queryByRole('button')).toBeNull()
    expect(phone.textContent).toMatch(/A phone signed in 3 days ago/)
    await user.click(within(phone).getByRole('button', { name: 'Sign out' }))
    await waitFor(() => expect(screen.getAllByTestId('device')).toHaveLength(1))
  })
  test('where no passphrase is asked for there is nothing to sign out of', async () => {
    storeroom(false)
    await screen.findByText(/Nothing. What is removed/)
    expect(screen.queryByRole('button', { name: 'Sign out everywhere' })).toBeNull()
  })
})

describe('the way in', () => {
  afterEach(() => onSignInNeeded(() => undefined))

  test('a refusal asks for the passphrase over everything, and what was typed below is still there after it', async () => {
    let inside = false
    const signIn = problem(401, 'Verimend asks for its passphrase first.')
    const asked = demoServer({
      'GET cases': () => (inside ? { cases: [], total: 0 } : signIn),
      'GET session': () => ({ needed: true, signedIn: inside }),
      'POST session': (body: unknown) => {
        inside = (body as { passphrase: string }).passphrase === 'tuvo-kemi'
        return inside ? { needed: true, signedIn: true } : problem(401, 'That is not the passphrase.')
      },
    })
    access.begin()
    const { user } = show(
      <Gate>
        <input aria-label="typed" />
        <CaseList />
      </Gate>,
    )
    await user.type(screen.getByLabelText('typed'), 'half a word')
    const field = await screen.findByLabelText('Passphrase')
    await user.type(field, ' nonsense')
    await user.keyboard('{Enter}')
    expect(await screen.findByText('That is not the passphrase.')).toBeTruthy()
    await user.clear(field)
    // spaces that came with it from a message are no part of it
    await user.type(field, ' tuvo-kemi ')
    await user.keyboard('{Enter}')
    await waitFor(() => expect(screen.queryByLabelText('Passphrase')).toBeNull())
    expect(screen.getByLabelText<HTMLInputElement>('typed').value).toBe('half a word')
    expect(sent(asked, 'POST').at(-1)!.body).toEqual({ passphrase: 'tuvo-kemi' })
  })
})
