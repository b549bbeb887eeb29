import { act, screen, waitFor } from '@testing-library/react'
import { Link, useLocation } from 'react-router'
import { Jobs, jobs, useJob, wasEnded, type Ended } from '../src/work/jobs'
import { WorkTray } from '../src/work/WorkTray'
import { show } from './show'

const about = { slot: 'paths 1', kind: 'reading', name: 'clip.gcode', to: '/paths' } as const
/** Work that goes on until it is told to end. */
const held = () => {
  let end: { resolve: (v: string) => void; reject: (e: unknown) => void; share: (s: number) => void }
  const work = (share: (s: number) => void, signal: AbortSignal) =>
    new Promise<string>((resolve, reject) => {
      end = { resolve, reject, share }
      signal.addEventListener('abort', () => reject(signal.reason as Error))
    })
  return { work, end: () => end }
}

describe('jobs', () => {
  test('one slot, one job: a later one ends the one before, and only the later one is told of', async () => {
    const all = new Jobs()
    const ended: Ended[] = []
    all.onEnd((e) => ended.push(e))
    const [first, second] = [held(), held()]
    const one = all.run(about, first.work)
    const two = all.run({ ...about, name: 'other.gcode' }, second.work)
    await one.catch((e: unknown) => expect(wasEnded(e)).toBe(true))
    expect(all.all().map((j) => j.name)).toEqual(['other.gcode'])
    second.end().share(0.42)
    expect(all.all()[0].share).toBe(0.42)
    second.end().resolve('read')
    expect(await two).toBe('read')
    expect(all.all()).toEqual([])
    expect(ended.map((e) => [e.job.name, e.fault])).toEqual([['other.gcode', null]])
  })

  test('of a job whose screen is open nothing is told when it ends; of one that is left it is, with what went wrong', async () => {
    const all = new Jobs()
    const ended: Ended[] = []
    all.onEnd((e) => ended.push(e))
    const leave = all.watch(about.slot)
    const seen = held()
    const a = all.run(about, seen.work)
    seen.end().resolve('')
    await a
    expect(ended).toEqual([])
    const left = held()
    const b = all.run(about, left.work)
    leave()
    left.end().reject(new Error('The file ends in the middle.'))
    await expect(b).rejects.toThrow('in the middle')
    expect(ended).toMatchObject([
      { job: { to: '/paths' }, fault: { message: 'The file ends in the middle.' } },
    ])
  })
})

function Own() {
  const job = useJob(about.slot)
  return <p>{job ? `here ${Math.round(100 * job.share)}` : 'nothing here'}</p>
}
function Screens() {
  const { pathname } = useLocation()
  return (
    <>
      <WorkTray />
      {pathname === '/paths' ? <Own /> : <Link to="/paths">to it</Link>}
      {pathname === '/paths' && <Link to="/other">away</Link>}
    </>
  )
}

test('what is left goes on in the tray, can be ended there, and says when it is done', async () => {
  const { user } = show(<Screens />, { at: '/paths', route: '*' })
  const work = held()
  act(() => void jobs.run(about, work.work).catch(() => undefined))
  act(() => work.end().share(0.3))
  expect(screen.getByText('here 30')).toBeTruthy()
  expect(screen.queryByTestId('work-tray')).toBeNull()
  await user.click(screen.getByText('away'))
  const tray = await screen.findByTestId('work-tray')
  expect(tray.textContent).toBe('Reading, 30 %')
  await user.click(screen.getByText('to it'))
  expect(screen.getByText('here 30')).toBeTruthy()
  await user.click(screen.getByText('away'))
  await act(async () => work.end().resolve('done'))
  expect(await screen.findByText('clip.gcode is read.')).toBeTruthy()
  await user.click(screen.getByRole('button', { name: 'See it' }))
  expect(screen.getByText('nothing here')).toBeTruthy()
  await user.click(screen.getByText('away'))
  const again = held()
  act(() => void jobs.run(about, again.work).catch(() => undefined))
  await user.click(await screen.findByTestId('work-tray'))
  await user.click(await screen.findByRole('button', { name: 'Cancel' }))
  await waitFor(() => expect(screen.queryByTestId('work-tray')).toBeNull())
})
