import { readdirSync } from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'
import sharp from 'sharp'
import { TestApp, type Answer } from './harness'

const app = new TestApp('photos', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

const send = async (path: string, body: Buffer) => {
  const r = await fetch(`http://127.0.0.1:${app.port}/api/${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: new Uint8Array(body),
  })
  return { status: r.status, body: (await r.json()) as Answer['body'] }
}
/** Left half red, right half blue, 80 × 40. */
const halves = () =>
  sharp({ create: { width: 80, height: 40, channels: 3, background: '#d02020' } }).composite([
    {
      input: { create: { width: 40, height: 40, channels: 3, background: '#2020d0' } },
      left: 40,
      top: 0,
    },
  ])
const newCase = async () => {
  const [pair] = (await app.get('pairs')).body as { id: string }[]
  return (await app.post('cases', { pairId: pair.id, part: 'Peg', place: 'base' })).body
}
const bytes = async (path: string) => {
  const r = await fetch(`http://127.0.0.1:${app.port}/api/${path}`)
  return { type: r.headers.get('content-type'), body: Buffer.from(await r.arrayBuffer()) }
}

test('a photo is turned upright and loses what the camera wrote; its thumbnail is small', async () => {
  const made = await newCase()
  expect(made.place).toBe('base')
  // orientation 6: the picture has to be turned a quarter to the right (Exif 2.32, tag 0x0112)
  const camera = await halves()
    .jpeg({ quality: 95 })
    .withExif({ IFD0: { Make: 'Somebody' }, IFD3: { GPSLatitude: '51/1 30/1 0/1', GPSLatitudeRef: 'N' } })
    .withMetadata({ orientation: 6 })
    .toBuffer()
  expect((await sharp(camera).metadata()).exif).toBeDefined()
  const { status, body } = await send(`cases/${made.id}/photos`, camera)
  expect(status).toBe(201)
  expect(body.photos).toMatchObject([{ width: 40, height: 80, afterAttempt: 0, marks: [], scale: null }])
  const kept = await bytes(`photos/${body.photos[0].id}.jpg`)
  expect(kept.type).toBe('image/jpeg')
  const facts = await sharp(kept.body).metadata()
  expect([facts.width, facts.height, facts.exif, facts.orientation]).toEqual([40, 80, undefined, undefined])
  const { data } = await sharp(kept.body).raw().toBuffer({ resolveWithObject: true })
  const top = data.subarray((10 * 40 + 20) * 3, (10 * 40 + 20) * 3 + 3)
  const low = data.subarray((70 * 40 + 20) * 3, (70 * 40 + 20) * 3 + 3)
  expect(top[0]).toBeGreaterThan(top[2]) // left of the sensor came to the top
  expect(low[2]).toBeGreaterThan(low[0])
  const large = await send(`cases/${made.id}/photos`, await halves().resize(4000, 2000).png().toBuffer())
  expect(large.body.photos[1]).toMatchObject({ width: 2400, height: 1200 })
  const small = await bytes(`photos/${large.body.photos[1].id}/small.jpg`)
  expect((await sharp(small.body).metadata()).width).toBe(360)
})

test('marks, scale and note are kept; a photo is taken out and put back; the report holds it', async () => {
  const made = await newCase()
  const { body } = await send(`cases/${made.id}/photos`, await halves().png().toBuffer())
  const id = body.photos[0].id as string
  const change = {
    note: 'Flared foot',
    marks: [
      { kind: 'ring', x: 20, y: 20, r: 8 },
      { kind: 'length', x1: 0, y1: 0, x2: 80, y2: 0 },
    ],
    scale: 0.4,
    afterAttempt: 0,
  }
  expect((await app.put(`photos/${id}`, change)).body.photos[0]).toMatchObject(change)
  const bad = await app.put(`photos/${id}`, { ...change, marks: [{ kind: 'ring', x: -5, y: 1, r: 8 }] })
  expect(bad.status).toBe(422)
  expect((await app.remove(`photos/${id}`)).body.photos).toEqual([])
  expect((await app.post(`photos/${id}/restore`)).body.photos).toHaveLength(1)
  const pdf = await bytes(`cases/${made.id}/summary.pdf`)
  expect(pdf.type).toBe('application/pdf')
  expect(pdf.body.subarray(0, 5).toString()).toBe('%PDF-')
  expect(pdf.body.includes('/Subtype /Image')).toBe(true)
})

test.each([
  ['text', Buffer.from('no picture at all')],
  ['an SVG, which could call for other files', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>')],
  ['nothing', Buffer.alloc(0)],
])('%s is refused with a sentence, and nothing is kept', async (_, body) => {
  const made = await newCase()
  const said = await send(`cases/${made.id}/photos`, body)
  expect(said.status).toBe(422)
  expect(said.body.detail).toMatch(/no picture that can be read/)
  expect((await app.get(`cases/${made.id}`)).body.photos).toEqual([])
})

test('a cut-off photo and one for a case that is not there are refused', async () => {
  const made = await newCase()
  const whole = await halves().resize(800, 400).jpeg().toBuffer()
  expect((await send(`cases/${made.id}/photos`, whole.subarray(0, 300))).status).toBe(422)
  expect((await send('cases/7b9e1d2c-0000-4000-8000-000000000000/photos', whole)).status).toBe(404)
})

test('a place of a test piece has photos of its own', async () => {
  const [pair] = (await app.get('pairs')).body as { id: string }[]
  const plan = { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } }
  const trial = (await app.post('trials', { pairId: pair.id, plan })).body
  const photo = await halves().png().toBuffer()
  const sent = await send(`trials/${trial.id}/cells/gap/photos`, photo)
  expect(sent.body).toMatchObject([{ cell: 'gap' }])
  expect((await send(`trials/${trial.id}/cells/roof/photos`, photo)).status).toBe(404)
  const id = sent.body[0].id as string
  expect((await bytes(`photos/${id}.jpg`)).type).toBe('image/jpeg')
  expect((await app.put(`photos/${id}`, { note: '', marks: [], scale: null, afterAttempt: 0 })).status).toBe(
    404,
  )
  expect((await app.remove(`trials/${trial.id}/photos/${id}`)).body).toEqual([])
  expect((await app.post(`trials/${trial.id}/photos/${id}/restore`)).body).toHaveLength(1)
})

test('a side effect that was looked for and did not come is noted as not there', async () => {
  const [pair] = (await app.get('pairs')).body as { id: string; current: number }[]
  const made = await newCase()
  await app.put(`cases/${made.id}/signs/strings-thin`, { state: 'present' })
  await app.post(`cases/${made.id}/attempts`, {
    base: pair.current,
    mends: [{ proposal: 'nozzle-too-hot/0', to: 199 }],
  })
  const after = await app.post(`cases/${made.id}/attempts/1/outcome`, {
    results: { 'strings-thin': 'gone' },
    newSigns: [],
    notThere: ['weak-layers'],
    note: '',
  })
  expect(after.body.signs).toEqual({ 'strings-thin': 'absent', 'weak-layers': 'absent' })
})

test('a photo that is sent twice under one id, at once or later, is one photo', async () => {
  const made = await newCase()
  const id = '0c0c0c0c-0000-4000-8000-000000000001'
  const photo = await halves().jpeg().toBuffer()
  const path = `cases/${made.id}/photos?id=${id}`
  const both = await Promise.all([send(path, photo), send(path, photo)])
  expect(both.map(({ status }) => status)).toEqual([201, 201])
  expect((await send(path, photo)).body.photos).toMatchObject([{ id }])
  // without an id each is one of its own
  expect((await send(`cases/${made.id}/photos`, photo)).body.photos).toHaveLength(2)
  expect((await send(`cases/${made.id}/photos?id=1`, photo)).status).toBe(422)
})

test('what its sender gave up is not kept, and leaves nothing behind', async () => {
  const made = await newCase()
  const noise = Buffer.from(Uint8Array.from({ length: 3000 * 2000 * 3 }, (_, i) => (i * 2654435761) >>> 13))
  const photo = await sharp(noise, { raw: { width: 3000, height: 2000, channels: 3 } })
    .jpeg()
    .toBuffer()
  const url = `http://127.0.0.1:${app.port}/api/cases/${made.id}/photos`
  const ended = new AbortController()
  const sent = Array.from({ length: 6 }, () =>
    fetch(url, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: new Uint8Array(photo),
      signal: ended.signal,
    }).catch(() => null),
  )
  await new Promise((r) => setTimeout(r, 150))
  ended.abort()
  await Promise.all(sent)
  // the next one has its turn after them
  const { body } = await send(`cases/${made.id}/photos`, await halves().jpeg().toBuffer())
  expect(body.photos.length).toBeLessThan(6)
  expect(body.photos.at(-1)).toMatchObject({ width: 80 })
  const left = () => readdirSync(join(app.files, 'incoming'))
  for (let i = 0; left().length && i < 200; i++) await new Promise((r) => setTimeout(r, 100))
  expect(left()).toEqual([])
})

test('one that stops half way keeps none of the others waiting', async () => {
  const made = await newCase()
  const whole = await halves().jpeg().toBuffer()
  const stalled = connect(app.port, '127.0.0.1')
  stalled.on('error', () => undefined)
  stalled.write(
    `POST /api/cases/${made.id}/photos HTTP/1.1\r\nHost: 127.0.0.1:${app.port}\r\nContent-Type: application/octet-stream\r\nContent-Length: ${whole.length}\r\n\r\n`,
  )
  stalled.write(whole.subarray(0, 100))
  await new Promise((r) => setTimeout(r, 100))
  expect((await send(`cases/${made.id}/photos`, whole)).body.photos).toHaveLength(1)
  stalled.destroy()
})
