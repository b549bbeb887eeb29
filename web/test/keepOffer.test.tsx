import { screen, waitFor } from '@testing-library/react'
import type { BlobState } from '@verimend/contract'
import { KeepOffer } from '../src/cases/CaseFileEntry'
import { problem } from './demo'
import { show } from './show'

const SHA = 'b'.repeat(64)
const file = new File(['G1 X1 E1\n'], 'clip.gcode')

/** Answers for kept files; `answer` decides what becomes of the part. */
function keeping(answer: () => Promise<{ status: number; body: unknown }>) {
  const asked: string[] = []
  const state = (have: number, done = false) => ({ have, done }) as BlobState
  globalThis.fetch = (async (url: string, init: { method?: string; signal?: AbortSignal } = {}) => {
    if (!String(url).includes('blobs')) return { ok: true, status: 200, json: async () => [] }
    asked.push(`${init.method} ${String(url).split('/api/')[1].split('?')[0]}`)
    const given =
      init.method === 'PUT'
        ? await answer()
        : { status: 200, body: String(url).endsWith('finish') ? state(file.size, true) : state(0) }
    init.signal?.throwIfAborted()
    return { ok: given.status < 400, status: given.status, json: async () => given.body }
  }) as unknown as typeof fetch
  return asked
}
const offer = () => {
  let kept = 0
  const view = show(<KeepOffer file={file} sha256={SHA} to="/cases/1" onKept={() => kept++} />)
  return { ...view, kept: () => kept }
}
const keep = () => screen.getByRole('button', { name: 'Keep the file too' })

test('nothing is sent before it is asked for; then the whole file is, and it is told', async () => {
  const asked = keeping(async () => ({ status: 200, body: { have: file.size, done: false } }))
  const { user, kept } = offer()
  expect(asked).toEqual([])
  expect(document.body.textContent).toContain('Only the reading of clip.gcode is kept')
  await user.click(keep())
  await waitFor(() => expect(kept()).toBe(1))
  expect(asked).toEqual(['POST blobs', `PUT blobs/${SHA}`, 'POST blobs/finish'])
})

test('called off, the offer stands again and nothing is said to be wrong', async () => {
  let go: () => void = () => undefined
  keeping(() => new Promise((resolve) => (go = () => resolve({ status: 200, body: { have: file.size } }))))
  const { user, kept } = offer()
  await user.click(keep())
  await user.click(await screen.findByRole('button', { name: 'Cancel' }))
  go()
  await waitFor(() => expect(keep()).toBeTruthy())
  expect(screen.queryByRole('alert')).toBeNull()
  expect(kept()).toBe(0)
})

test('refused, it says why, and can be tried again', async () => {
  let full = true
  keeping(async () =>
    full
      ? { status: 413, body: problem(413, 'There is no room for this file.') }
      : { status: 200, body: { have: file.size, done: false } },
  )
  const { user, kept } = offer()
  await user.click(keep())
  expect((await screen.findByRole('alert')).textContent).toContain('There is no room for this file.')
  full = false
  await user.click(screen.getByRole('button', { name: 'Try again' }))
  await waitFor(() => expect(kept()).toBe(1))
})
