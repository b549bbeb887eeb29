import { createHash } from 'node:crypto'
import { connect } from 'node:net'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { said } from '@verimend/core/quantity'
import { deriveRecipe, layOver, printSettingsOf } from '@verimend/core/recipe'
import { readGcode } from '@verimend/core/gcode'
import { readPath } from '@verimend/core/toolpath'
import { writePart } from '@verimend/core/planner'
import { say } from '@verimend/core/words'
import { TestApp } from './harness'

const app = new TestApp('blobs', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

const machine = DEMO_MACHINES.greenhouse
const file = () => {
  const filament = demoFilaments('2026-01-01').dew
  const pins = layOver({}, { minLayerTime: 30, speedFloor: 8 }, { source: 'hand', reason: said('') })
  return Buffer.from(
    writePart(machine, printSettingsOf(deriveRecipe({ machine, filament, pins })), {
      shape: 'box',
      width: 30,
      height: 10,
      steps: [{ from: 6, inset: 9 }],
      slowDown: true,
    }),
  )
}
const sha = (b: Buffer) => createHash('sha256').update(b).digest('hex')
const put = async (sha256: string, from: number, part: Buffer) => {
  const r = await fetch(`http://127.0.0.1:${app.port}/api/blobs/${sha256}?from=${from}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream' },
    body: new Uint8Array(part),
  })
  return { status: r.status, body: (await r.json()) as { have: number; current: { have: number } } }
}

test('a file arrives in parts, goes on where it was cut off, and comes back byte for byte', async () => {
  const bytes = file()
  const sha256 = sha(bytes)
  const half = Math.floor(bytes.length / 2)
  expect((await app.post('blobs', { sha256, bytes: bytes.length })).body).toEqual({
    sha256,
    have: 0,
    done: false,
  })
  expect((await put(sha256, 0, bytes.subarray(0, half))).body.have).toBe(half)
  // the same part again, and one that leaves a hole: told where to go on, nothing is spoilt
  const again = await put(sha256, 0, bytes.subarray(0, half))
  expect(again.status).toBe(409)
  expect(again.body.current.have).toBe(half)
  expect((await put(sha256, half + 5, bytes.subarray(half))).status).toBe(409)
  expect((await app.post('blobs/finish', { sha256, bytes: bytes.length })).status).toBe(409)
  expect((await app.post('blobs', { sha256, bytes: bytes.length })).body.have).toBe(half)
  await put(sha256, half, bytes.subarray(half))
  expect((await app.post('blobs/finish', { sha256, bytes: bytes.length })).body.done).toBe(true)
  const back = await fetch(`http://127.0.0.1:${app.port}/api/blobs/${sha256}`)
  expect(sha(Buffer.from(await back.arrayBuffer()))).toBe(sha256)
  // once there, it is not sent twice
  expect((await app.post('blobs', { sha256, bytes: bytes.length })).body.done).toBe(true)
})

/** Sends the beginning of a part and stops there. */
const stalls = async (sha256: string, part: Buffer, sent: number) => {
  const socket = connect(app.port, '127.0.0.1')
  socket.on('error', () => undefined)
  socket.write(
    `PUT /api/blobs/${sha256}?from=0 HTTP/1.1\r\nHost: 127.0.0.1:${app.port}\r\nContent-Type: application/octet-stream\r\nContent-Length: ${part.length}\r\n\r\n`,
  )
  socket.write(part.subarray(0, sent))
  await new Promise((r) => setTimeout(r, 300))
  return socket
}

test('who stalls gives way to the next sender, who goes on from the byte that is there; who sends does not', async () => {
  const bytes = Buffer.from(Uint8Array.from({ length: 50_000 }, (_, i) => (i * 40503) >>> 7))
  const sha256 = sha(bytes)
  const socket = await stalls(sha256, bytes, 20_000)
  expect((await app.post('blobs', { sha256, bytes: bytes.length })).body.have).toBe(20_000)
  // it may still be sending
  expect((await put(sha256, 20_000, bytes.subarray(20_000))).status).toBe(409)
  await new Promise((r) => setTimeout(r, 1600))
  expect((await put(sha256, 20_000, bytes.subarray(20_000))).status).toBe(200)
  expect((await app.post('blobs/finish', { sha256, bytes: bytes.length })).body.done).toBe(true)
  socket.destroy()
})

test('what arrived of a part that was cut off stays', async () => {
  const bytes = Buffer.from(Uint8Array.from({ length: 50_000 }, (_, i) => (i * 30103) >>> 5))
  const sha256 = sha(bytes)
  ;(await stalls(sha256, bytes, 30_000)).destroy()
  await new Promise((r) => setTimeout(r, 200))
  expect((await app.post('blobs', { sha256, bytes: bytes.length })).body.have).toBe(30_000)
  await put(sha256, 30_000, bytes.subarray(30_000))
  expect((await app.post('blobs/finish', { sha256, bytes: bytes.length })).body.done).toBe(true)
})

test('what is not what it says is thrown away; fingerprints and sizes are checked', async () => {
  const sha256 = 'a'.repeat(64)
  await put(sha256, 0, Buffer.from('something else'))
  const said = await app.post('blobs/finish', { sha256, bytes: 14 })
  expect(said.status).toBe(422)
  expect(said.body.detail).toMatch(/not the file that was sent/)
  expect((await app.post('blobs', { sha256, bytes: 14 })).body.have).toBe(0)
  for (const bad of ['../../etc/passwd', 'A'.repeat(64), 'ab'])
    expect((await app.post('blobs', { sha256: bad, bytes: 5 })).status).toBe(422)
  expect((await app.post('blobs', { sha256, bytes: 400_000_000 })).status).toBe(422)
  expect((await put(sha256, 0, Buffer.alloc(4_000_001))).status).toBe(422)
  expect((await app.post('blobs', { sha256, bytes: 14 })).body.have).toBe(0)
  expect((await app.get(`blobs/${'b'.repeat(64)}`)).status).toBe(404)
})

test('heights marked on the part become evidence in the case only when something changes there', async () => {
  const bytes = file()
  const pairs = (await app.get('pairs')).body as { id: string }[]
  const made = (await app.post('cases', { pairId: pairs[0].id, part: 'Cap' })).body
  const reading = readPath(readGcode(bytes), {
    filamentDiameter: 1.75,
    density: 1.24,
    nozzleDiameter: 0.4,
    limits: machine.limits,
  })
  const withFile = await app.post(`cases/${made.id}/files`, {
    name: 'cap.gcode',
    bytes: bytes.length,
    sha256: sha(bytes),
    reading,
  })
  expect(withFile.status).toBe(201)
  const f = withFile.body.files[0]
  expect(f.kept).toBe(true) // its content came with the first test
  const heightRanges = [{ from: 6.2, to: 9.4 }]
  const marked = await app.post(`cases/${made.id}/marks`, {
    fileId: f.id,
    heightRanges,
    quantity: 'outerAsked',
  })
  expect(say(marked.body.marks[0].reason)).toMatch(/^Outer walls drop/)
  const none = await app.post(`cases/${made.id}/marks`, { fileId: f.id, heightRanges, quantity: 'bed' })
  expect(none.status).toBe(422)
  expect(
    (await app.post(`cases/${made.id}/marks`, { fileId: f.id, heightRanges: [], quantity: 'fan' })).status,
  ).toBe(422)
  const gone = await app.remove(`cases/${made.id}/marks/${marked.body.marks[0].id}`)
  expect(gone.body.marks).toEqual([])
})
