import { createHash, randomUUID } from 'node:crypto'
import { createReadStream, existsSync } from 'node:fs'
import { join } from 'node:path'
import type { INestApplication } from '@nestjs/common'
import { diagnoseCase, type SignResults } from '@verimend/core/casework'
import { DEMO_FILES, DEMO_MACHINES, DEMO_PARTS, demoFilaments, type DemoFile } from '@verimend/core/demo'
import { extentOf, meshOf, sizeOf, triangleCount, writeStl } from '@verimend/core/geometry'
import { readGcode } from '@verimend/core/gcode'
import type { SignId } from '@verimend/core/knowledge'
import type { Filament } from '@verimend/core/material'
import { writePart } from '@verimend/core/planner'
import { said } from '@verimend/core/quantity'
import { deriveRecipe, layOver, printSettingsOf, type Changes, type RecipeEdit } from '@verimend/core/recipe'
import { readPath } from '@verimend/core/toolpath'
import { NO_READING } from '@verimend/core/trials'
import { CONFIG, type Config } from '../config'
import { BlobsService } from '../blobs/blobs.service'
import { AttemptsService } from '../cases/attempts.service'
import { loadKernel } from '../compute/kernel'
import { CasesService } from '../cases/cases.service'
import { FilesService } from '../cases/files.service'
import {
  AttemptRow,
  CaseRow,
  FilamentRow,
  FileRow,
  LinkRow,
  MachineRow,
  MarkRow,
  MeasurementRow,
  PairRow,
  PartRow,
  PhotoRow,
  PrintRow,
  TrialRow,
  VersionRow,
} from '../database/models'
import { FilamentsService } from '../filaments/filaments.service'
import { today } from '../http/day'
import { LinksService } from '../links/links.service'
import { MachinesService } from '../machines/machines.service'
import { PairsRepository } from '../pairs/pairs.repository'
import { PairsService } from '../pairs/pairs.service'
import { VersionsRepository } from '../pairs/versions.repository'
import { VersionsService } from '../pairs/versions.service'
import { MeasurementsService } from '../measurements/measurements.service'
import { PartsService } from '../parts/parts.service'
import { PhotosService } from '../photos/photos.service'
import { TrialsService } from '../trials/trials.service'

/** Reads a file that the app writes itself, printed with the given settings on the pair. */
function demoFile({ machine: at, roll, set, name, part }: DemoFile, rolls: Record<string, Filament>) {
  const machine = DEMO_MACHINES[at]
  const filament = rolls[roll]
  const pins = layOver({}, set, { source: 'hand', reason: said('') })
  const settings = printSettingsOf(deriveRecipe({ machine, filament, pins }))
  const bytes = Buffer.from(writePart(machine, settings, part))
  const reading = readPath(readGcode(bytes), {
    filamentDiameter: settings.diameter,
    density: settings.density,
    nozzleDiameter: machine.nozzle.diameter,
    limits: machine.limits,
  })
  return {
    bytes,
    told: { name, bytes: bytes.length, sha256: createHash('sha256').update(bytes).digest('hex'), reading },
  }
}

/**
 * Fills an empty database with the garden's repair table; does nothing where anything is there already. A seeding
 * that was killed half way is begun again: nobody could reach the server before its end.
 */
export async function seedDemo(app: INestApplication): Promise<void> {
  const mark = await MarkRow.findByPk('demo')
  if (mark?.value === 'done') return
  if (mark)
    for (const model of [
      PrintRow,
      LinkRow,
      TrialRow,
      PartRow,
      MeasurementRow,
      PhotoRow,
      FileRow,
      AttemptRow,
      CaseRow,
      VersionRow,
      PairRow,
      FilamentRow,
      MachineRow,
    ])
      await (model as typeof CaseRow).destroy({ where: {} })
  else if ((await MachineRow.count()) + (await FilamentRow.count()) > 0) return
  else await MarkRow.create({ name: 'demo', value: 'begun' })
  await fill(app)
  await MarkRow.update({ value: 'done' }, { where: { name: 'demo' } })
}

async function fill(app: INestApplication): Promise<void> {
  const machines = app.get(MachinesService)
  const filaments = app.get(FilamentsService)
  const pairs = app.get(PairsService)
  const kept = app.get(PairsRepository)
  const versions = app.get(VersionsRepository)
  const versionsService = app.get(VersionsService)
  const cases = app.get(CasesService)
  const attempts = app.get(AttemptsService)
  const files = app.get(FilesService)
  const trials = app.get(TrialsService)
  const measurements = app.get(MeasurementsService)
  const rolls = demoFilaments(today())
  const machineIds: Record<string, string> = {}
  const rollIds: Record<string, string> = {}
  for (const [key, m] of Object.entries(DEMO_MACHINES))
    machineIds[key] = (await machines.create(undefined, m)).id
  for (const [key, f] of Object.entries(rolls)) rollIds[key] = (await filaments.create(undefined, f)).id

  const open = (machine: string, roll: string) => pairs.open(machineIds[machine], rollIds[roll])
  const signs = async (id: string, present: SignId[], absent: SignId[] = []) => {
    for (const s of present) await cases.setSign(id, s, 'present')
    for (const s of absent) await cases.setSign(id, s, 'absent')
  }
  /** Takes the app's own first proposal, as a person would. */
  const takeAdvice = async (id: string, skip: string[] = []) => {
    const c = await cases.detail(id)
    const pair = await kept.load(c.pairId)
    const { machine, filament } = pair
    const { number, recipe } = await versions.current(pair)
    const d = diagnoseCase(c, { machine, filament, recipe: recipe.values, today: today() })
    const p = d.proposals.find((q) => !skip.includes(q.suspect))
    if (!p) return
    await attempts.begin(id, number, [
      p.kind === 'setting' ? { proposal: p.id, to: p.to } : { proposal: p.id, asHandling: p.procedure },
    ])
  }
  const record = async (id: string, results: SignResults, note: string, newSigns: SignId[] = []) => {
    const c = await cases.detail(id)
    await attempts.record(id, c.attempts.length, { results, newSigns, notThere: [], note })
  }

  /** A photo that comes with the pages, where they are served. */
  const photo = async (id: string, name: string) => {
    const { web } = app.get<Config>(CONFIG)
    const file = web && join(web, 'demo', name)
    if (!file || !existsSync(file)) return
    const gone = new AbortController().signal
    await app.get(PhotosService).add(id, { id: randomUUID(), body: createReadStream(file), gone })
  }

  /** Gives a case its path file, kept whole. */
  const tell = async (id: string, file: DemoFile) => {
    const { bytes, told } = demoFile(file, rolls)
    await app.get(BlobsService).keep(bytes)
    await files.add(id, told)
  }

  const change = (
    pairId: string,
    base: number,
    set: Changes,
    reason: string,
    measured?: RecipeEdit['measured'],
  ) => versionsService.change(pairId, base, { set, reason, measured })

  // Drip-line clips: strings between the pegs, the pull-back was left at 2 mm. Open, with its path file.
  const fern = await open('shed', 'fern')
  await change(fern.id, 1, { nozzle: 210, flow: 97.5 }, 'Tower and box, printed in spring.', {
    nozzle: 2.5,
    flow: 0.8,
  })
  await change(fern.id, 2, { retractLength: 2 }, 'Carried over from the old direct drive.')
  const clips = await cases.create({ pairId: fern.id, part: 'Drip-line clips' })
  await signs(clips.id, ['strings-thin', 'blobs-on-wall'], ['popping-or-steam', 'nozzle-drips-idle'])
  await tell(clips.id, DEMO_FILES.clips)

  await photo(clips.id, 'drip-line-clips.webp')

  // Seed-tray labels: the first layer comes loose on the hand-levelled bed. One attempt made, to be looked at.
  const terracotta = await open('shed', 'terracotta')
  const labels = await cases.create({ pairId: terracotta.id, part: 'Seed-tray labels' })
  await signs(labels.id, ['first-layer-not-sticking', 'first-layer-uneven'], ['first-layer-ridges'])
  await takeAdvice(labels.id)

  // Hose couplings: a fat foot, first-layer flow left at 120 %. Solved and closed.
  const pond = await open('greenhouse', 'pond')
  await change(pond.id, 1, { flow: 98, meltCap: 7.8 }, 'Box of four walls; weighed purges.', {
    flow: 0.7,
    meltCap: 0.4,
  })
  await change(pond.id, 2, { flowFirst: 120 }, 'For a raft, last winter.')
  const coupling = await cases.create({ pairId: pond.id, part: 'Hose coupling' })
  await signs(coupling.id, ['base-flare', 'first-layer-ridges'], ['first-layer-uneven'])
  await takeAdvice(coupling.id)
  await record(
    coupling.id,
    { 'base-flare': 'gone', 'first-layer-ridges': 'gone' },
    'Measures 32.0 at the base now.',
  )
  const done = await cases.detail(coupling.id)
  await cases.close(coupling.id, done.rev, (await pairs.detail(pond.id)).current)

  // Sensor hood: corners curl in the open frame. First try without effect.
  const slate = await open('shed', 'slate')
  const hood = await cases.create({ pairId: slate.id, part: 'Sensor hood' })
  await signs(hood.id, ['corners-lift'], ['first-layer-not-sticking'])
  await takeAdvice(hood.id)
  await record(hood.id, { 'corners-lift': 'better' }, 'Three corners stay down, the window side does not.')

  // Tap gasket: the soft roll crackles.
  const moss = await open('greenhouse', 'moss')
  const gasket = await cases.create({ pairId: moss.id, part: 'Tap gasket' })
  await signs(gasket.id, ['popping-or-steam', 'strings-thin', 'rough-foamy-surface'])

  // Vent hinges: gloss changes where the body narrows. A minimum layer time of 30 s was believed. With its file.
  const dew = await open('greenhouse', 'dew')
  await change(dew.id, 1, { minLayerTime: 30, speedFloor: 10 }, 'Somebody said longer is better.')
  const hinge = await cases.create({ pairId: dew.id, part: 'Vent hinge' })
  await signs(hinge.id, ['bands-at-feature-height', 'bands-gloss'], ['ghosting', 'bands-regular'])
  await tell(hinge.id, DEMO_FILES.hinge)

  // and a temperature tower of the same roll, read on the bench, not yet taken over
  const tower = await trials.create({
    pairId: dew.id,
    caseId: null,
    plan: { piece: 'temperature-tower', steps: { key: 'nozzle', from: 225, to: 200, count: 6 } },
  })
  const seen = [
    { strings: 1, bonding: 4, overhang: 1, bridge: 2, surface: 3 },
    { strings: 2, bonding: 4, overhang: 2, bridge: 3, surface: 4 },
    { strings: 3, bonding: 4, overhang: 3, bridge: 3, surface: 4 },
    { strings: 4, bonding: 3, overhang: 4, bridge: 4, surface: 3 },
    { strings: 4, bonding: 2, overhang: 4, bridge: 4, surface: 2 },
    { strings: 4, bonding: 1, overhang: 4, bridge: 4, surface: 1 },
  ]
  for (const [i, grades] of seen.entries())
    await trials.read(tower.id, tower.cells[i].id, { ...NO_READING, grades })

  // A bracket of the stringing roll, measured with calipers: outsides wide, bores narrow.
  const off = (
    axis: 'x' | 'y' | 'z',
    kind: 'outside' | 'inside',
    nominal: number,
    ...measures: number[]
  ) => ({
    id: `${kind}-${axis}-${nominal}`,
    name: `${kind === 'inside' ? 'Bore' : 'Side'} ${nominal}`,
    axis,
    kind,
    place: 'above' as const,
    round: kind === 'inside',
    nominal,
    measures,
  })
  await measurements.create({
    machineId: machineIds.shed,
    pairId: fern.id,
    caseId: null,
    measured: {
      kind: 'sizes',
      instrument: { kind: 'caliper', resolution: 0.01 },
      readings: [
        off('x', 'outside', 12, 12.15, 12.16),
        off('y', 'outside', 12, 12.13, 12.16),
        off('x', 'outside', 40, 40.06, 40.05),
        off('y', 'outside', 40, 40.04, 40.07),
        off('x', 'outside', 80, 79.92, 79.95),
        off('y', 'outside', 80, 79.93, 79.9),
        off('x', 'inside', 8, 7.72, 7.7),
        off('y', 'inside', 8, 7.74, 7.71),
        off('x', 'inside', 20, 19.68, 19.7),
        off('z', 'outside', 10, 10.02, 10.01),
        off('z', 'outside', 25, 25.01, 25.03),
      ],
      wanted: [{ name: 'Bearing seat', nominal: 22, kind: 'inside', axis: 'x' }],
    },
  })

  // Flexible plant tie: it splits along a stacked seam.
  const willow = await open('greenhouse', 'willow')
  const tie = await cases.create({ pairId: willow.id, part: 'Plant tie' })
  await signs(tie.id, ['seam-line', 'crack-along-seam'], ['seam-gap'])
  await tell(tie.id, DEMO_FILES.tie)

  // Snap joint: moving parts come out fused.
  const joint = await cases.create({ pairId: pond.id, part: 'Snap joint' })
  await signs(joint.id, ['moving-parts-fused', 'holes-too-small'], ['joint-too-loose'])
  const parts = await seedParts(app)
  await cases.setPart(hinge.id, parts.get('Vent hinge')!)
  await cases.setPart(hood.id, parts.get('Sensor hood')!)
  await cases.setPart(coupling.id, parts.get('Hose coupling')!)
  await cases.setPart(labels.id, parts.get('Seed-tray label')!)
  // keep the case worked on last at the top
  const row = await CaseRow.findByPk(clips.id)
  if (row) {
    row.changed('updatedAt', true)
    await row.save()
  }
  // both machines are invented: from now on what is sent to them is printed by simulated ones
  for (const id of Object.values(machineIds)) await app.get(LinksService).join(id, 'quick', 0)
}

/** The parts of the table, their meshes kept as files. @returns their ids by name */
async function seedParts(app: INestApplication): Promise<Map<string, string>> {
  const kernel = await loadKernel()
  const ids = new Map<string, string>()
  for (const { name, file, make } of DEMO_PARTS) {
    const solid = make(kernel)
    const mesh = meshOf(solid)
    const volume = solid.volume()
    solid.delete()
    const bytes = Buffer.from(writeStl(mesh, name))
    const sha256 = await app.get(BlobsService).keep(bytes)
    const { id } = await app.get(PartsService).create({
      name,
      mesh: {
        sha256,
        fileName: file,
        bytes: bytes.length,
        unit: 'mm',
        faces: triangleCount(mesh),
        size: sizeOf(extentOf(mesh)!).map((v) => Number(v.toFixed(3))) as [number, number, number],
        volume,
        mended: 0,
      },
    })
    ids.set(name, id)
  }
  return ids
}
