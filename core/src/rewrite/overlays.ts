import { MoveKind } from '../gcode/program'
import { joinOverlays, type Inserted, type Overlay } from '../gcode/rewrite/overlay'
import type { Kernel } from '../geometry/kernel'
import { commandsOf } from '../machine/commands'
import type { Machine } from '../machine/machine'
import { Feature } from '../toolpath/features'
import { ChangeError, type FileChange, type Lines } from './change'
import type { FileAsRead } from './file'
import { layerTime } from './layerTime'
import { earlyStop, wipe } from './loopEnds'
import { seam } from './seam'
import { grip, laysRound } from './grip'
import { feedAgain, pullsIn, usualPulls } from './pulls'
import { pause } from './pause'
import { pressureOf, steps } from './steps'

type Of<K extends FileChange['kind']> = Extract<FileChange, { kind: K }>

/** The last layer that is laid as a first layer. */
const firstLayerOf = ({ reading, analysis }: FileAsRead) => reading.firstLayer?.layer ?? analysis.raftLayers

function heat(file: FileAsRead, { kind, where, value }: Of<'nozzle' | 'bed'>): Overlay {
  const { index } = file.analysis
  const first = firstLayerOf(file)
  const usual = where === 'first' ? (file.reading.firstLayer?.[kind] ?? null) : file.reading.rest[kind]
  if (usual === null) throw new ChangeError('change-not-told')
  return {
    states: {
      [kind]: (i: number, have: number | null) =>
        have === usual && index.layerOf[i] <= first === (where === 'first') ? value : undefined,
    },
  }
}

/** The fan duty that most is laid with on the layers of a print, and on each one. */
function duties({ analysis }: FileAsRead) {
  const { program, index } = analysis
  const { kind, state, states, count } = program
  const byLayer: Map<number, number>[] = index.z.map(() => new Map())
  const all = new Map<number, number>()
  const most = (m: Map<number, number>) => [...m].reduce((best, p) => (p[1] > best[1] ? p : best), [0, 0])[0]
  for (let i = 0; i < count; i++) {
    const l = index.layerOf[i]
    if (kind[i] !== MoveKind.Extrude || l < 0) continue
    const duty = states[state[i]].fan
    const seconds = analysis.timeline.seconds[i]
    byLayer[l].set(duty, (byLayer[l].get(duty) ?? 0) + seconds)
    if (l > 0) all.set(duty, (all.get(duty) ?? 0) + seconds)
  }
  const layers = byLayer.map(most)
  const running = new Map([...all].filter(([duty]) => duty > 0))
  return { layers, usual: most(running.size ? running : all) }
}

function fan(file: FileAsRead, { where, value }: Of<'fan'>): Overlay {
  const { index, featureOf, raftLayers } = file.analysis
  if (where === 'bridge') {
    if (!file.reading.features[Feature.Bridge].length) throw new ChangeError('change-does-nothing')
    return {
      states: {
        fan: (i) => (featureOf[i] === Feature.Bridge && index.layerOf[i] > raftLayers ? value : undefined),
      },
    }
  }
  const { layers, usual } = duties(file)
  const full = layers.findIndex((d) => d >= 0.9 * usual)
  return {
    states: {
      fan: (i, have) => {
        const l = index.layerOf[i]
        if (have === null || l < 1) return undefined
        if (Math.abs(have - usual) < 0.004) return value
        // the way up to the usual duty keeps its shape
        return usual > 0 && have > 0 && have < usual && l < full ? (have / usual) * value : undefined
      },
    },
  }
}

function fanOff(file: FileAsRead, { value }: Of<'fan-off-layers'>): Overlay {
  const { index } = file.analysis
  const { layers, usual } = duties(file)
  const old = (file.reading.fanFromLayer ?? 0) - 1
  if (old < 0) throw new ChangeError('change-does-nothing')
  const by = old - value
  const duty = (l: number) => layers[Math.min(layers.length - 1, Math.max(0, l + by))] ?? usual
  return {
    states: {
      fan: (i, have) => {
        const l = index.layerOf[i]
        if (l < 0) return undefined
        if (l < value) return 0
        if (by > 0 && l < old + by) return Math.max(have ?? 0, Math.min(usual, duty(l)))
        // what rises to the usual duty rises later
        return by < 0 && duty(l) < usual ? Math.min(have ?? 0, duty(l)) : undefined
      },
    },
  }
}

/** Whether a move belongs to some lines. */
function inLines({ analysis }: FileAsRead, first: number, where: Lines): (i: number) => boolean {
  const { program, index, featureOf } = analysis
  const laid = (i: number) => program.kind[i] === MoveKind.Extrude && index.layerOf[i] >= 0
  if (where === 'all') return laid
  if (where === 'first') return (i) => laid(i) && index.layerOf[i] <= first
  return (i) => laid(i) && index.layerOf[i] > first && featureOf[i] === where
}

function flow(file: FileAsRead, { where, ratio }: Of<'flow'>): Overlay {
  const concerned = inLines(file, firstLayerOf(file), where)
  return { feed: (i, e) => (concerned(i) ? e * ratio : e) }
}

function firstSpeed(file: FileAsRead, value: number): Overlay {
  const was = file.reading.firstLayer?.speed
  if (!was) throw new ChangeError('change-not-told')
  const concerned = inLines(file, firstLayerOf(file), 'first')
  return { speed: (i, speed) => (concerned(i) ? (speed * value) / was : speed) }
}

/** A speed with the usual one put elsewhere: what was slower stays so, and what was faster. */
const moved = (speed: number, usual: number, value: number) =>
  Math.abs(speed - usual) < 0.06 ? value : speed < usual ? Math.min(speed, value) : Math.max(speed, value)

function speed(file: FileAsRead, change: Of<'speed'>): Overlay {
  const { where, value } = change
  if (where === 'first') return firstSpeed(file, value)
  const { program } = file.analysis
  if (where === 'travel') {
    const usual = file.reading.travel.speed
    if (usual === null) throw new ChangeError('change-not-told')
    return {
      speed: (i, v) => (program.kind[i] === MoveKind.Travel && Math.abs(v - usual) < 0.06 ? value : v),
    }
  }
  const { usual } = file.reading.features[where]
  if (usual === null) throw new ChangeError('change-does-nothing')
  const concerned = inLines(file, file.analysis.raftLayers, where)
  return { speed: (i, v) => (concerned(i) ? moved(v, usual, value) : v) }
}

function slowZone(file: FileAsRead, change: Of<'slow-zone'>): Overlay {
  const { program, index } = file.analysis
  return {
    speed: (i, v) =>
      program.kind[i] === MoveKind.Extrude && index.layerOf[i] >= 0 && program.z[i] <= change.height + 1e-4
        ? Math.min(v, change.speed)
        : v,
  }
}

function acceleration(file: FileAsRead, { where, value }: Of<'acceleration'>): Overlay {
  const { analysis, reading } = file
  const { index, featureOf, raftLayers } = analysis
  const { features, build } = reading
  const usual = {
    first: build.firstAcceleration,
    outer: features[Feature.Outer].acceleration,
    rest: features[Feature.Inner].acceleration ?? features[Feature.Infill].acceleration,
    travel: build.travelAcceleration,
  }[where]
  if (usual === null) throw new ChangeError('change-not-told')
  const here = (i: number) => {
    const l = index.layerOf[i]
    if (where === 'first') return l >= 0 && l <= raftLayers
    if (l <= raftLayers) return false
    return where === 'travel' || (featureOf[i] === Feature.Outer) === (where === 'outer')
  }
  return {
    states: {
      [where === 'travel' ? 'travelAcceleration' : 'printAcceleration']: (i: number, have: number | null) =>
        have === usual && here(i) ? value : undefined,
    },
  }
}

/** Filament by move; what is not named stays. */
const feedOf = (by: ReadonlyMap<number, number>): Overlay => ({ feed: (i, e) => by.get(i) ?? e })
const speedOf = (by: ReadonlyMap<number, number>): Overlay => ({ speed: (i, v) => by.get(i) ?? v })

function retractLength(file: FileAsRead, { value }: { value: number }): Overlay {
  if (file.reading.retraction.kind === 'firmware') return { firmwareLength: value }
  const { e } = file.analysis.program
  const fed = new Map<number, number>()
  for (const p of usualPulls(file)) {
    for (const i of p.back) fed.set(i, (e[i] * value) / p.pulled)
    feedAgain(file, p, value - p.pulled, fed)
  }
  return feedOf(fed)
}

function retractOff(file: FileAsRead): Overlay {
  if (file.reading.retraction.kind === 'firmware') return { firmwareLength: 0 }
  const fed = new Map<number, number>()
  for (const p of usualPulls(file)) for (const i of [...p.back, ...p.forth]) fed.set(i, 0)
  return feedOf(fed)
}

function retractSpeed(file: FileAsRead, { value }: { value: number }): Overlay {
  if (file.reading.retraction.kind === 'firmware') throw new ChangeError('change-on-machine')
  const { program } = file.analysis
  const speeds = new Map<number, number>()
  for (const p of usualPulls(file))
    for (const i of p.back) if (program.kind[i] === MoveKind.Retract) speeds.set(i, value)
  return speedOf(speeds)
}

function restartExtra(file: FileAsRead, { value }: { value: number }): Overlay {
  if (file.reading.retraction.kind === 'firmware') throw new ChangeError('change-on-machine')
  const fed = new Map<number, number>()
  for (const p of usualPulls(file)) feedAgain(file, p, value - p.extra, fed)
  return feedOf(fed)
}

/** Pull-backs where the head crosses the open without one. */
function retractOn(file: FileAsRead, change: Of<'retract-on'>): Overlay {
  const { program, travels } = file.analysis
  const steps = new Map<number, Inserted[]>()
  let done = -1
  for (const t of travels) {
    if (t.retracted || t.from <= done) continue
    let to = t.to + 1
    while (to < program.count && !(program.e[to] > 0)) to++
    if (to >= program.count) continue
    // what is pulled back already stays as it is
    let pulls = false
    for (let i = t.from; i < to; i++) pulls ||= program.e[i] < 0
    if (pulls) continue
    steps.set(t.from, [{ e: -change.length, speed: change.speed }])
    steps.set(to, [{ e: change.length + change.extra, speed: change.speed }])
    done = to
  }
  if (!steps.size) throw new ChangeError('change-does-nothing')
  return { before: (i) => steps.get(i) }
}

/** How fast the head rises where the file does not say it, mm/s. Common practice, no source. */
const RISE = 10

function zLift(file: FileAsRead, { value }: { value: number }): Overlay {
  const { program } = file.analysis
  const { z, speed: speeds, kind } = program
  const usual = file.reading.retraction.zLift ?? 0
  const steps = new Map<number, Inserted[]>()
  const shift = new Map<number, number>()
  const firmware = file.reading.retraction.kind === 'firmware'
  const pulls = firmware ? pullsIn(file.analysis) : usualPulls(file)
  for (const p of pulls) {
    const lift = p.top - p.base
    if (Math.abs(lift - usual) > 0.03) continue
    const top = p.base + value
    if (lift > 0.005) {
      for (let i = p.from; i < p.to; i++) if (Math.abs(z[i] - p.top) < 0.005) shift.set(i, top - z[i])
      continue
    }
    if (value < 0.005) continue
    let rises = false
    for (let i = p.from; i < p.to; i++)
      if (kind[i] === MoveKind.Travel) {
        rises = true
        if (Math.abs(top - z[i]) > 1e-6) shift.set(i, top - z[i])
      }
    if (!rises) continue
    const rate = Math.min(RISE, speeds[p.from] || RISE)
    steps.set(p.from, [{ z: top, speed: rate }])
    steps.set(p.to, [{ z: z[p.to], speed: rate }])
  }
  return { shift: { z: (i) => shift.get(i) ?? 0 }, before: (i) => steps.get(i) }
}

function move(file: FileAsRead, change: Of<'move'>): Overlay {
  const { program, index } = file.analysis
  const { kind } = program
  const height = file.reading.firstLayer?.height ?? 0
  if (change.z < 0 && height + change.z < 0.04)
    throw new ChangeError('change-into-bed', { height: height + change.z })
  let first = 0
  while (!(kind[first] === MoveKind.Extrude && index.layerOf[first] >= 0)) first++
  const to = kind.lastIndexOf(MoveKind.Extrude)
  // from the move on that goes to where the first line begins, along each axis
  const by = (axis: 'x' | 'y' | 'z') => {
    const d = change[axis]
    if (!d) return undefined
    const places = program[axis]
    let from = first
    while (from > 0 && kind[from - 1] !== MoveKind.Jump && places[from - 1] === places[first - 1]) from--
    return (i: number) => (i >= from && i <= to ? d : 0)
  }
  return { shift: { x: by('x'), y: by('y'), z: by('z') } }
}

/**
 * What a change does to the moves of a file, for the writer.
 * @throws ChangeError where the file does not take it
 */
function overlayOf(file: FileAsRead, change: FileChange, machine: Machine): Overlay {
  switch (change.kind) {
    case 'nozzle':
    case 'bed':
      return heat(file, change)
    case 'fan':
      return fan(file, change)
    case 'fan-off-layers':
      return fanOff(file, change)
    case 'flow':
      return flow(file, change)
    case 'retract-length':
      return change.value > 0 ? retractLength(file, change) : retractOff(file)
    case 'retract-speed':
      return retractSpeed(file, change)
    case 'restart-extra':
      return restartExtra(file, change)
    case 'z-lift':
      return zLift(file, change)
    case 'retract-off':
      return retractOff(file)
    case 'retract-on':
      return retractOn(file, change)
    case 'speed':
      return speed(file, change)
    case 'slow-zone':
      return slowZone(file, change)
    case 'acceleration':
      return acceleration(file, change)
    case 'pressure':
      return pressureOf(file, () => change.value, commandsOf(machine))
    case 'seam':
      return seam(file, change)
    case 'early-stop':
      return earlyStop(file, change.volume)
    case 'wipe':
      return wipe(file, change.length)
    case 'layer-time':
      return layerTime(file, change.seconds, change.floor)
    case 'steps':
      return steps(file, change, commandsOf(machine))
    case 'pause':
      return pause(file, change.height, change.command, machine.height)
    case 'move':
      return move(file, change)
    case 'brim':
    case 'skirt':
    case 'tabs':
    case 'draught-wall':
      // laid all at once, as each goes round the other
      return {}
  }
}

/** The most that a machine allows of a change; null where it sets no limit. */
function limitOf(change: FileChange, { limits, fan }: Machine): [limit: number, unit: string] | null {
  switch (change.kind) {
    case 'nozzle':
      return [limits.nozzle, '°C']
    case 'bed':
      return [limits.bed, '°C']
    case 'fan':
      return [fan.present ? 1 : 0, '']
    case 'speed':
      return [limits.speed, 'mm/s']
    case 'acceleration':
      return change.where === 'travel' ? [limits.travelAcceleration, 'mm/s²'] : [limits.acceleration, 'mm/s²']
    case 'steps':
      return {
        nozzle: [limits.nozzle, '°C'] as [number, string],
        fan: [fan.present ? 1 : 0, ''] as [number, string],
        speed: [limits.speed, 'mm/s'] as [number, string],
        acceleration: [limits.acceleration, 'mm/s²'] as [number, string],
        'retract-length': null,
        pressure: null,
      }[change.of]
    default:
      return null
  }
}

/** The highest value that a change sets. */
const highest = (change: FileChange): number =>
  'values' in change ? Math.max(...change.values) : 'value' in change ? change.value : -Infinity

/** What is put in goes where the whole print is moved to. */
function movedAlong(whole: Overlay, moves: readonly Overlay[]): Overlay {
  const { before } = whole
  if (!before || !moves.length) return whole
  const { shift } = moves.reduce(joinOverlays, {})
  const by = (i: number, axis: 'x' | 'y' | 'z', v: number | undefined) =>
    v === undefined ? {} : { [axis]: v + (shift?.[axis]?.(i) ?? 0) }
  return {
    ...whole,
    before: (i) =>
      before(i)?.map((s) => ({ ...s, ...by(i, 'x', s.x), ...by(i, 'y', s.y), ...by(i, 'z', s.z) })),
  }
}

/**
 * What several changes do together; nothing is made faster than the machine allows.
 * @param kernel where lines are laid round the part
 * @throws ChangeError where the file does not take one of them, or the machine does not
 */
export function overlaysOf(
  file: FileAsRead,
  changes: readonly FileChange[],
  machine: Machine,
  kernel?: Kernel,
): Overlay {
  for (const change of changes) {
    const limit = limitOf(change, machine)
    if (limit && highest(change) > limit[0] + 1e-9)
      throw new ChangeError('change-beyond-machine', { limit: limit[0], unit: limit[1] })
  }
  const round = changes.filter(laysRound)
  if (round.length && !kernel) throw new Error('lines round a part take the library for areas')
  const each = changes.map((c) => overlayOf(file, c, machine))
  if (round.length) each.push(grip(file, round, machine, kernel!))
  const whole = movedAlong(
    each.reduce(joinOverlays, {}),
    each.filter((_, k) => changes[k]?.kind === 'move'),
  )
  const { speed: asked } = whole
  if (!asked) return whole
  const most = machine.limits.speed
  return {
    ...whole,
    speed: (i, v) => {
      const next = asked(i, v)
      return next > v ? Math.max(v, Math.min(next, most)) : next
    },
  }
}
