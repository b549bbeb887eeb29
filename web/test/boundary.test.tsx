import { fireEvent, render, screen, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { Boundary } from '../src/components/Boundary'
import { later } from '../src/components/later'
import { Renewed } from '../src/frame/Renewed'
import { renewal } from '../src/frame/renewal'

const unfetched = new TypeError('Failed to fetch dynamically imported module: http://127.0.0.1/assets/a.js')
/** What React says of an error that is caught is meant to be. */
beforeEach(() => {
  jest.spyOn(console, 'error').mockImplementation(() => undefined)
})
afterEach(() => jest.restoreAllMocks())

test('a part that fails is said in its place; the rest stays, and it can be tried again', () => {
  let broken = true
  const Part = () => {
    if (broken) throw new Error('no such colour')
    return <p>the part</p>
  }
  render(
    <>
      <input aria-label="typed" defaultValue="a note" />
      <Boundary what="The chart">
        <Part />
      </Boundary>
    </>,
  )
  fireEvent.change(screen.getByLabelText('typed'), { target: { value: 'a longer note' } })
  expect(screen.getByRole('alert').textContent).toContain('The chart has failed. Everything else stays')
  expect(screen.getByRole('alert').textContent).toContain('no such colour')
  broken = false
  fireEvent.click(screen.getByRole('button', { name: 'Try again' }))
  expect(screen.getByText('the part')).toBeTruthy()
  expect((screen.getByLabelText('typed') as HTMLInputElement).value).toBe('a longer note')
})

test('code that cannot be fetched is asked for again; one that lies over the screen can be left', async () => {
  const load = jest
    .fn<Promise<{ default: () => ReactNode }>, []>()
    .mockRejectedValueOnce(unfetched)
    .mockResolvedValue({ default: () => <p>the list</p> })
  const List = later(load, { what: 'The list', over: true })
  const { unmount } = render(<List />)
  expect((await screen.findByRole('alert')).textContent).toContain('The list could not be fetched.')
  fireEvent.click(screen.getByRole('button', { name: 'Try again' }))
  expect(await screen.findByText('the list')).toBeTruthy()
  expect(load).toHaveBeenCalledTimes(2)
  unmount()

  const Gone = later(() => Promise.reject<{ default: () => ReactNode }>(unfetched), {
    what: 'The list',
    over: true,
  })
  render(<Gone />)
  await screen.findByRole('alert')
  fireEvent.click(screen.getByRole('button', { name: 'Leave it' }))
  expect(screen.queryByRole('alert')).toBeNull()
})

test('pages that were built anew meanwhile are told; the same ones, and a server that is away, are not', async () => {
  const script = document.createElement('script')
  Object.assign(script, { type: 'module', src: '/assets/index-old.js' })
  script.setAttribute('src', '/assets/index-old.js')
  document.head.append(script)
  const serves = (name: string) =>
    (globalThis.fetch = jest.fn(() =>
      Promise.resolve({
        ok: true,
        text: () => Promise.resolve(`<script type="module" src="/assets/${name}"></script>`),
      }),
    ) as unknown as typeof fetch)
  let now = 10_000
  jest.spyOn(performance, 'now').mockImplementation(() => (now += 10_000))
  render(<Renewed />)
  serves('index-old.js')
  await renewal.look()
  expect(renewal.is()).toBe(false)
  globalThis.fetch = jest.fn(() => Promise.reject(new TypeError('away')))
  await renewal.look()
  expect(renewal.is()).toBe(false)
  expect(screen.queryByRole('button')).toBeNull()
  serves('index-new.js')
  await renewal.look()
  await waitFor(() =>
    expect(screen.getByRole('button', { name: 'Verimend was renewed: load again' })).toBeTruthy(),
  )
})
