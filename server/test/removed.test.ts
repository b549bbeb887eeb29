import { createHash, randomBytes } from 'node:crypto'
import { existsSync, readdirSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Writable } from 'node:stream'
import type { CaseDetail, PairSummary, PartRecord, RemovedThing, Trial } from '@verimend/contract'
import { DEMO_MACHINES } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import { readPath } from '@verimend/core/toolpath'
import sharp from 'sharp'
import { writeBackup } from '../src/backup/archive'
import { BlobsService } from '../src/blobs/blobs.service'
import { blobsInUse } from '../src/blobs/inUse'
import { BlobSweeper } from '../src/blobs/sweeper.service'
import { Database } from '../src/database/database.module'
import { dumpSql } from '../src/database/dump'
import { AttemptRow, CaseRow, FileRow, PairRow, PhotoRow, PrintRow } from '../src/database/models'
import { RemovedService } from '../src/removed/removed.service'
import { TestApp } from './harness'

const app = new TestApp('removed', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

/** A short path file, read. */
const READING = readPath(
  readGcode(Buffer.from('G21\nG90\nM83\nG1 Z0.2 F600\nG1 X10 Y0 E0.4 F1200\nG1 X10 Y10 E0.4\n')),
  {
    filamentDiameter: 1.75,
    density: 1.24,
    nozzleDiameter: 0.4,
    limits: DEMO_MACHINES.greenhouse.limits,
  },
)
const HOUR = 3600_000
const DAY = 24 * HOUR
const list = async () => (await app.get('removed')).body as RemovedThing[]
const thing = async (kind: string, name: string) =>
  (await list()).find((t) => t.kind === kind && t.name === name)
const removed = () => app.app.get(RemovedService)
const sweeper = () => app.app.get(BlobSweeper)
const blobs = () => app.app.get(BlobsService)
const place = (sha: string) => join(app.files, sha.slice(0, 2), sha)
const aged = (path: string, ms: number) => {
  const then = new Date(Date.now() - ms)
  utimesSync(path, then, then)
}
const pair = async () => ((await app.get('pairs')).body as PairSummary[])[0]
async function photo(caseId: string): Promise<string> {
  const bytes = await sharp(randomBytes(60 * 60 * 3), { raw: { width: 60, height: 60, channels: 3 } })
    .jpeg()
    .toBuffer()
  const response = await fetch(`http://127.0.0.1:${app.port}/api/cases/${caseId}/photos`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: new Uint8Array(bytes),
  })
  return ((await response.json()) as CaseDetail).photos.at(-1)!.id
}

test('put away, each kind is listed by its name with the day it goes, and comes back whole', async () => {
  const { id: pairId } = await pair()
  const { id } = (await app.post('cases', { pairId, part: 'Old peg' })).body
  await app.put(`cases/${id}/signs/strings-thin`, { state: 'present' })
  const before = (await app.get(`cases/${id}`)).body as CaseDetail
  await app.remove(`cases/${id}`)
  const put = (await thing('case', 'Old peg'))!
  expect(new Date(put.goesAt!).getTime() - new Date(put.removedAt).getTime()).toBe(30 * DAY)
  const left = (await app.post(`removed/case/${id}/restore`)).body as RemovedThing[]
  expect(left.some((t) => t.id === id)).toBe(false)
  const after = (await app.get(`cases/${id}`)).body as CaseDetail
  expect({ ...after, rev: 0, updatedAt: '' }).toEqual({ ...before, rev: 0, updatedAt: '' })
  expect((await app.post(`removed/case/${id}/restore`)).status).toBe(404)
  expect((await app.post(`removed/spoon/${id}/restore`)).status).toBe(422)
  // what is not put away is not deleted
  expect((await app.remove(`removed/case/${id}`)).status).toBe(404)
  expect((await app.get(`cases/${id}`)).status).toBe(200)
})

test('nothing new is made on what was put away, and the way to bring it back is said', async () => {
  const machine = (await app.get('machines')).body[0] as { id: string; machine: { name: string } }
  const roll = (
    await app.post('filaments', {
      filament: { ...(await app.get('filaments')).body[0].filament, name: 'Reed' },
    })
  ).body as { id: string; rev: number }
  const made = (await app.post('pairs', { machineId: machine.id, filamentId: roll.id })).body
  const kase = (await app.post('cases', { pairId: made.id, part: 'Hook' })).body
  const news = () =>
    Promise.all([
      app.post('cases', { pairId: made.id, part: 'Peg' }),
      app.post(`pairs/${made.id}/versions`, { base: 1, set: { nozzle: 209 }, reason: '' }),
      app.post('trials', {
        pairId: made.id,
        plan: { piece: 'temperature-tower', steps: { key: 'nozzle', from: 200, to: 220, count: 3 } },
      }),
      app.post('prints', { pairId: made.id, what: { kind: 'practice' } }),
      app.post('measurements', {
        machineId: machine.id,
        pairId: made.id,
        caseId: null,
        measured: { kind: 'feed', asked: 100, fed: [], steps: null },
      }),
    ])
  await app.remove(`filaments/${roll.id}`)
  for (const { status, body } of await news()) {
    expect([status, body.code]).toEqual([422, 'put-away'])
    expect(body.detail).toBe('“Reed” was put away. Bring it back in the storeroom, then go on.')
  }
  await app.post(`removed/filament/${roll.id}/restore`)
  for (const { status } of await news()) expect(status).toBeLessThan(300)
  await app.remove(`cases/${kase.id}`)
  const sign = await app.put(`cases/${kase.id}/signs/strings-thin`, { state: 'present' })
  expect(sign.body.detail).toContain('“Hook” was put away.')
})

test('deleted for good while its recipe is changed: one of the two comes first, and neither is a fault', async () => {
  const machine = (await app.get('machines')).body[0] as { id: string }
  const { filament } = (await app.get('filaments')).body[0]
  const statuses = new Set<number>()
  for (let i = 0; i < 12; i++) {
    const roll = (await app.post('filaments', { filament: { ...filament, name: `Race ${i}` } })).body
    const made = (await app.post('pairs', { machineId: machine.id, filamentId: roll.id })).body
    await app.remove(`filaments/${roll.id}`)
    const answers = await Promise.all([
      app.post(`removed/filament/${roll.id}/restore`),
      app.remove(`removed/filament/${roll.id}`),
      app.post(`pairs/${made.id}/versions`, { base: 1, set: { nozzle: 209 }, reason: '' }),
      app.post('cases', { pairId: made.id, part: 'Peg' }),
      app.post(`pairs/${made.id}/versions`, { base: 1, set: { nozzle: 211 }, reason: '' }),
    ])
    for (const { status } of answers) statuses.add(status)
  }
  expect([...statuses].filter((s) => s >= 500)).toEqual([])
})

test('a photo is deleted for good at once, with its file, and only that', async () => {
  const { id: pairId } = await pair()
  const { id } = (await app.post('cases', { pairId, part: 'Photographed' })).body
  const [one, two] = [await photo(id), await photo(id)]
  const row = (await PhotoRow.findByPk(one))!
  const other = (await PhotoRow.findByPk(two))!
  await app.remove(`photos/${one}`)
  const put = (await thing('photo', 'Photographed'))!
  expect(put.bytes).toBe(blobs().bytesOf([row.sha256, row.thumb]))
  expect((await app.remove(`removed/photo/${one}`)).body).toEqual({ bytes: put.bytes })
  expect(await PhotoRow.findByPk(one)).toBeNull()
  expect([existsSync(place(row.sha256)), existsSync(place(row.thumb))]).toEqual([false, false])
  expect([existsSync(place(other.sha256)), existsSync(place(other.thumb))]).toEqual([true, true])
  // the same picture put in again an instant later is there again
  expect((await fetch(`http://127.0.0.1:${app.port}/api/photos/${two}.jpg`)).status).toBe(200)
})

test('after thirty days things go with all that hangs on them; before, nothing does', async () => {
  const { id: pairId, filamentId } = await pair()
  const { id } = (await app.post('cases', { pairId, part: 'Forgotten' })).body
  await app.put(`cases/${id}/signs/strings-thin`, { state: 'present' })
  await photo(id)
  await app.remove(`cases/${id}`)
  // a roll that cases tell of stays with them, however long it is put away
  await app.remove(`filaments/${filamentId}`)
  const roll = (await list()).find((t) => t.id === filamentId)!
  expect(roll.goesAt).toBeNull()
  expect((await app.remove(`removed/filament/${filamentId}`)).status).toBe(409)
  const fresh = (
    await app.post('filaments', { filament: (await app.get(`filaments/${filamentId}`)).body.filament })
  ).body
  const { machineId } = await pair()
  await app.post('pairs', { machineId, filamentId: fresh.id })
  await app.remove(`filaments/${fresh.id}`)

  // a clock that leaps ten years ahead is believed a day at a time, one that is set back at once
  await removed().tidy()
  for (const years of [10, 10, -3]) expect(await removed().tidy(Date.now() + years * 365 * DAY)).toBe(0)
  expect(await removed().purgeOld(Date.now() + 29 * DAY)).toBe(0)
  expect(await removed().purgeOld(Date.now() + 30 * DAY + HOUR)).toBeGreaterThanOrEqual(2)
  expect(await CaseRow.findByPk(id)).toBeNull()
  for (const model of [AttemptRow, FileRow, PhotoRow])
    expect(await (model as typeof FileRow).count({ where: { caseId: id } })).toBe(0)
  expect(await PairRow.count({ where: { filamentId: fresh.id } })).toBe(0)
  expect((await app.get(`filaments/${filamentId}`)).status).toBe(200)
  await app.post(`filaments/${filamentId}/restore`)
})

test('a trial and a measurement are deleted for good once they are put away, with their photos', async () => {
  const { id: pairId, machineId } = await pair()
  const plan = { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } }
  const trial = (await app.post('trials', { pairId, plan })).body as Trial
  const bytes = await sharp({ create: { width: 40, height: 40, channels: 3, background: '#456' } })
    .jpeg()
    .toBuffer()
  const taken = await fetch(
    `http://127.0.0.1:${app.port}/api/trials/${trial.id}/cells/${trial.cells[0].id}/photos`,
    { method: 'POST', headers: { 'content-type': 'application/octet-stream' }, body: new Uint8Array(bytes) },
  )
  expect(taken.status).toBe(201)
  const measured = { kind: 'feed', asked: 100, fed: [99], steps: null }
  const { id: measurement } = (
    await app.post('measurements', { machineId, pairId: null, caseId: null, measured })
  ).body
  for (const [kind, noun, id] of [
    ['trial', 'trials', trial.id],
    ['measurement', 'measurements', measurement],
  ] as const) {
    // what is in use is not deleted
    expect((await app.remove(`removed/${kind}/${id}`)).status).toBe(404)
    await app.remove(`${noun}/${id}`)
    expect((await list()).map((t) => [t.kind, t.id])).toContainEqual([kind, id])
    expect((await app.remove(`removed/${kind}/${id}`)).status).toBe(200)
    expect((await list()).map((t) => t.id)).not.toContain(id)
    expect((await app.get(`${noun}/${id}`)).status).toBe(404)
    expect((await app.post(`removed/${kind}/${id}/restore`)).status).toBe(404)
  }
  expect(await PhotoRow.count({ where: { trialId: trial.id } })).toBe(0)
})

describe('kept files that nobody names', () => {
  const keep = (of = randomBytes(300)) => blobs().keep(of)

  test('go after a day and an hour, and not before; what a record names never does', async () => {
    const orphan = await keep()
    const named = await keep()
    const [{ id: pairId, machineId }] = [await pair()]
    await PrintRow.create({
      id: crypto.randomUUID(),
      machineId,
      pairId,
      kind: 'file',
      name: 'x.gcode',
      trialId: null,
      caseId: null,
      afterAttempt: null,
      version: 1,
      link: 'download',
      sha256: named,
      state: 'handed-over',
      reason: null,
      told: {} as never,
      grams: 0,
      enteredAt: null,
      endedAt: null,
    })
    await sweeper().sweep()
    expect(existsSync(place(orphan))).toBe(true)
    for (const sha of [orphan, named]) aged(place(sha), 2 * DAY)
    await sweeper().sweep()
    expect([existsSync(place(orphan)), existsSync(place(named))]).toEqual([false, true])
    // asked for within the hour it is back
    expect(blobs().has(orphan)).toBe(true)
    aged(place(orphan), 2 * DAY)
    await sweeper().sweep()
    aged(join(app.files, 'leaving', orphan), 2 * HOUR)
    expect((await sweeper().sweep()).files).toBe(1)
    expect(blobs().has(orphan)).toBe(false)
  })

  test('every fingerprint that stands anywhere in the database is of a file in use', async () => {
    const { id: partId } = ((await app.get('parts')).body as { id: string; name: string }[]).find(
      (p) => p.name === 'Vent hinge',
    )!
    const part = (await app.get(`parts/${partId}`)).body as PartRecord
    const { sha256, unit } = part.versions[0]
    const [{ pairId }] = part.cases
    const onPart = {
      partId,
      name: part.name,
      version: 1,
      sha256,
      unit,
      layout: part.layout,
      own: {},
      from: 0.5,
      to: 8.4,
    }
    const trial = await app.post('trials', {
      pairId,
      plan: { piece: 'temperature-tower', steps: { key: 'nozzle', from: 225, to: 205, count: 5 }, onPart },
    })
    expect(trial.status).toBe(201)
    // the part is put away and gone; its trial can still be written
    await app.remove(`parts/${partId}`)
    await app.remove(`removed/part/${partId}`)
    const piece = await fetch(`http://127.0.0.1:${app.port}/api/trials/${trial.body.id}/piece.gcode`)
    expect(piece.status).toBe(200)
    // one in a finished file: of one that is not here, and of one that a case keeps and lets go
    const inFile = async (of: string, count = 4) => {
      const steps = { key: 'nozzle', from: 220, to: 205, count }
      const onFile = { name: 'x.gcode', sha256: of, from: 1, to: 9 }
      return app.post('trials', { pairId, plan: { piece: 'temperature-tower', steps, onFile } })
    }
    expect((await inFile('0'.repeat(64))).status).toBe(404)
    const [file] = await (await FileRow.findAll()).filter((f) => app.app.get(BlobsService).has(f.sha256))
    const stepped = await inFile(file.sha256)
    expect([stepped.status, (stepped.body as Trial).cells.length]).toEqual([201, 4])
    await app.remove(`cases/${file.caseId}`)
    await app.remove(`removed/case/${file.caseId}`)
    const written = await fetch(`http://127.0.0.1:${app.port}/api/trials/${stepped.body.id}/piece.gcode`)
    expect([...(await written.text()).matchAll(/^M104 S(\d+)/gm)].map(([, heat]) => Number(heat))).toEqual(
      expect.arrayContaining([220, 215, 210, 205]),
    )

    const chunks: Buffer[] = []
    await dumpSql(
      app.access,
      new Writable({ write: (chunk: Buffer, _, done) => (chunks.push(chunk), done()) }),
    )
    const rows = Buffer.concat(chunks)
      .toString()
      .split('INSERT INTO `')
      .filter((table) => !table.startsWith('sessions`'))
    const named = new Set(rows.flatMap((line) => line.match(/(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])/g) ?? []))
    const { all } = await blobsInUse(app.app.get(Database).sequelize)
    expect(named.size).toBeGreaterThan(4)
    expect([...named].filter((n) => !all.has(n))).toEqual([])
  })

  test('are never cleared away under somebody who takes one into use meanwhile', async () => {
    const [{ id: pairId }] = [await pair()]
    const { id: caseId } = (await app.post('cases', { pairId, part: 'Busy' })).body
    let stop = false
    const lost: string[] = []
    let deleted = 0
    const sweep = async () => {
      // whatever nobody names this moment is set aside, and goes two seconds later
      while (!stop) deleted += (await sweeper().sweep(-1, 2000)).files
    }
    const users = [0, 1, 2].map(async (who) => {
      for (let n = 0; n < 30; n++) {
        // the same few files come and go: each was swept a moment ago, or is being swept now
        const bytes = Buffer.from(`file ${who} ${n % 4 ? n % 3 : `of ${n}`} `.repeat(40))
        const sha256 = createHash('sha256').update(bytes).digest('hex')
        await blobs().keep(bytes)
        const { body } = await app.post(`cases/${caseId}/files`, {
          name: `${who}-${n}.gcode`,
          bytes: bytes.length,
          sha256,
          reading: READING,
        })
        if (!blobs().has(sha256)) lost.push(sha256)
        const own = (body as CaseDetail).files?.find((f) => f.sha256 === sha256)
        if (own) await app.remove(`cases/${caseId}/files/${own.id}`)
      }
    })
    const sweeping = sweep()
    await Promise.all(users)
    await new Promise((r) => setTimeout(r, 2200))
    stop = true
    await sweeping
    expect(lost).toEqual([])
    // and it was no idle sweep
    expect(deleted).toBeGreaterThan(5)
  })

  test('stay while a backup is being made; a ruined one is laid aside, told, and can be sent again', async () => {
    const { id: pairId } = await pair()
    const { id } = (await app.post('cases', { pairId, part: 'Ruined' })).body
    const own = (await PhotoRow.findByPk(await photo(id)))!
    writeFileSync(place(own.sha256), 'not what it was')
    const orphan = await keep()
    aged(place(orphan), 2 * DAY)
    const sequelize = app.app.get(Database).sequelize
    const file = join(app.files, '..', 'b.tar.gz')
    let during = true
    const [made] = await Promise.all([
      writeBackup(app.config, sequelize, file).finally(() => (during = false)),
      (async () => {
        await new Promise((r) => setTimeout(r, 60))
        if (during) await sweeper().sweep()
      })(),
    ])
    expect(made.missing).toEqual([own.sha256])
    expect(readdirSync(join(app.files, 'ruined'))).toEqual([own.sha256])
    expect(existsSync(place(own.sha256))).toBe(false)
    expect((await fetch(`http://127.0.0.1:${app.port}/api/photos/${own.id}.jpg`)).status).toBe(404)
  })
})

test('a picture of too many pixels is refused by its head alone', async () => {
  const { id: pairId } = await pair()
  const { id } = (await app.post('cases', { pairId, part: 'Large' })).body
  // 90 million pixels in a few kilobytes
  const bytes = await sharp({ create: { width: 10_000, height: 9_000, channels: 3, background: '#777' } })
    .png({ compressionLevel: 9 })
    .toBuffer()
  const memory = process.memoryUsage().rss
  const response = await fetch(`http://127.0.0.1:${app.port}/api/cases/${id}/photos`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: new Uint8Array(bytes),
  })
  expect([response.status, ((await response.json()) as { detail: string }).detail]).toEqual([
    422,
    'This picture has 90 million pixels; 60 are the most that are taken. Make it smaller first.',
  ])
  expect(process.memoryUsage().rss - memory).toBeLessThan(150e6)
})
