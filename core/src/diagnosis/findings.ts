import type { SuspectId } from '../knowledge/suspects'
import { cardOf } from '../materials/cards'
import type { Filament } from '../materials/filament'
import { fullStep, type Machine } from '../materials/machine'
import { median } from '../statistics/summary'
import { duration, figure, quantity } from '../units/format'
import { Feature, FEATURE_NAMES } from '../paths/features'
import type { PathReading } from '../paths/reading'

/** Something a path file does that bears on a flaw. */
export interface PathFinding {
  kind: FindingKind
  severity: 'fault' | 'caution' | 'note' | 'good'
  /** Heights it is at, mm; null for the whole print. */
  from: number | null
  to: number | null
  /** How large it is, as a share of what would be right, or in the unit of the text. */
  size: number
  text: string
  why: string
  raises: SuspectId[]
  clears: SuspectId[]
}

export interface FindingContext {
  machine: Machine
  filament: Filament
  /** mm³/s; what the hot end melts for this pair. */
  meltCap: number
  /** s; shortest layer that cools, for the usual outer wall. */
  coolingTime: number
  /** A case is about blobs or a seam: then a missing wipe and early stop matter more. */
  blobs?: boolean
}

interface Found {
  severity: PathFinding['severity']
  text: string
  why: string
  size?: number
  from?: number | null
  to?: number | null
}
interface Kind {
  raises?: SuspectId[]
  clears?: SuspectId[]
  find: (r: PathReading, c: FindingContext & { nozzle: number }) => Found | null
}

/** Runs of layers a test holds for, as heights from the bottom of the first to the top of the last. */
function runs(
  r: PathReading,
  test: (layer: number) => boolean,
  from = 0,
): { from: number; to: number; layers: number[] }[] {
  const out: { from: number; to: number; layers: number[] }[] = []
  for (let l = from; l < r.layerCount; l++) {
    if (!test(l)) continue
    const last = out.at(-1)
    if (last && last.layers.at(-1) === l - 1) {
      last.layers.push(l)
      last.to = r.layers.z[l]
    } else out.push({ from: r.layers.z[l] - r.layers.height[l], to: r.layers.z[l], layers: [l] })
  }
  return out
}
const longest = <T extends { layers: number[] }>(all: T[]) =>
  all.reduce<T | null>((m, x) => (!m || x.layers.length > m.layers.length ? x : m), null)
const heights = (a: number, b: number) => `${figure(a, 1)}–${quantity(b, 'mm', 1)}`
const used = (r: PathReading, f: Feature) => r.features[f].length > 1
/** Layers above the base, where the print runs as a rule. */
const body = (r: PathReading) => Math.min(r.layerCount - 1, (r.base.raftLayers || 0) + 2)
const usual = (values: (number | null)[], from: number) => {
  const known = values.slice(from).filter((v): v is number => v !== null && v > 0)
  return known.length ? median(known) : null
}

/** Thresholds come from card, machine and nozzle; where none is named they are common practice, no source. */
export const FINDING_KINDS = {
  'first-fast': {
    raises: ['first-layer-too-fast'],
    find: (r, c) => {
      const f = r.firstLayer
      if (!f) return null
      const outer = r.rest.outerSpeed
      const card = cardOf(c.filament.family)
      const most = Math.max(card.flexible ? 20 : 40, 0)
      return f.speed > most || (outer && f.speed > 20 && f.speed > 0.8 * outer)
        ? {
            severity: 'fault',
            from: 0,
            to: f.height,
            size: f.speed / most,
            text: `The first layer runs at ${quantity(f.speed, 'mm/s', 0)}.`,
            why: 'Lines that are drawn fast do not take hold.',
          }
        : null
    },
  },
  'first-calm': {
    clears: ['first-layer-too-fast'],
    find: (r, c) =>
      r.firstLayer && r.firstLayer.speed <= (cardOf(c.filament.family).flexible ? 20 : 30)
        ? {
            severity: 'good',
            text: `The first layer is laid at a calm ${quantity(r.firstLayer.speed, 'mm/s', 0)}.`,
            why: 'Speed is not what keeps it from sticking.',
          }
        : null,
  },
  'first-thin': {
    raises: ['first-layer-too-thin'],
    find: (r, c) => {
      const f = r.firstLayer
      const residual = c.machine.bed.residual
      if (!f || r.base.raftLayers) return null
      const thin = residual !== null ? f.height < 2 * residual : f.height < 0.15
      return thin
        ? {
            severity: 'caution',
            from: 0,
            to: f.height,
            text: `The first layer is ${quantity(f.height, 'mm', 2)} thin${residual !== null ? ` over ${quantity(residual, 'mm', 2)} of unevenness` : ''}.`,
            why: 'High spots scrape, low spots hang free.',
          }
        : null
    },
  },
  'first-narrow': {
    raises: ['first-layer-line-too-narrow'],
    find: (r, c) => {
      const f = r.firstLayer
      if (!f?.spacing) return null
      const width = f.spacing + (1 - Math.PI / 4) * f.height
      return width < 1.02 * c.nozzle
        ? {
            severity: 'caution',
            from: 0,
            to: f.height,
            size: width / c.nozzle,
            text: `First-layer lines are ${quantity(width, 'mm', 2)} wide, no wider than the nozzle.`,
            why: 'Narrow lines touch each other and the bed with little.',
          }
        : null
    },
  },
  'first-wide': {
    raises: ['first-layer-line-too-wide'],
    find: (r, c) => {
      const f = r.firstLayer
      if (!f?.spacing) return null
      const width = f.spacing + (1 - Math.PI / 4) * f.height
      return width > 1.6 * c.nozzle
        ? {
            severity: width > 2 * c.nozzle ? 'caution' : 'note',
            from: 0,
            to: f.height,
            size: width / c.nozzle,
            text: `First-layer lines are ${quantity(width, 'mm', 2)} wide, ${figure((width / c.nozzle) * 100, 0)} % of the nozzle.`,
            why: 'Thin features cannot be drawn with them.',
          }
        : null
    },
  },
  'first-overfed': {
    raises: ['first-layer-overfed'],
    find: (r) =>
      r.firstLayer?.flow && r.firstLayer.flow > 106
        ? {
            severity: 'fault',
            from: 0,
            to: r.firstLayer.height,
            size: r.firstLayer.flow / 100,
            text: `The first layer is fed ${quantity(r.firstLayer.flow, '%', 0)} of what fills it.`,
            why: 'The excess is pressed outwards and flares the base.',
          }
        : null,
  },
  'first-underfed': {
    raises: ['flow-too-low'],
    find: (r) =>
      r.firstLayer?.flow && r.firstLayer.flow < 93
        ? {
            severity: 'caution',
            from: 0,
            to: r.firstLayer.height,
            size: r.firstLayer.flow / 100,
            text: `The first layer is fed only ${quantity(r.firstLayer.flow, '%', 0)} of what fills it.`,
            why: 'Lines stand apart.',
          }
        : null,
  },
  'first-gaps': {
    raises: ['first-layer-line-too-narrow'],
    find: (r) =>
      r.firstLayer && r.firstLayer.gaps > 8
        ? {
            severity: 'caution',
            from: 0,
            to: r.firstLayer.height,
            size: r.firstLayer.gaps / 100,
            text: `${quantity(r.firstLayer.gaps, '%', 0)} of the base is left open between the lines.`,
            why: 'It is drawn that way: the bed is not to blame for these gaps.',
          }
        : null,
  },
  'fan-early': {
    raises: ['fan-on-first-layers'],
    find: (r, c) => {
      const duty = Math.max(...r.layers.fan.slice(0, Math.min(2, r.layerCount)))
      const off = cardOf(c.filament.family).fan.offLayers
      return duty > 0.05 && off > 0
        ? {
            severity: 'fault',
            from: 0,
            to: r.layers.z[Math.min(1, r.layerCount - 1)],
            size: duty,
            text: `The fan blows at ${quantity(duty * 100, '%', 0)} on the first two layers.`,
            why: 'Chilled lines let go of the bed.',
          }
        : null
    },
  },
  'fan-late': {
    clears: ['fan-on-first-layers'],
    find: (r) =>
      r.layerCount > 2 && Math.max(...r.layers.fan.slice(0, 2)) < 0.02
        ? {
            severity: 'good',
            text: 'The fan is off while the base is laid.',
            why: 'Moving air does not lift it.',
          }
        : null,
  },
  'no-priming': {
    raises: ['not-primed'],
    find: (r) =>
      !r.primed && r.layerCount > 1
        ? {
            severity: 'fault',
            from: 0,
            to: r.layers.z[0],
            text: 'Nothing primes the nozzle: no skirt, brim or purge line.',
            why: 'The start of the first line comes out empty.',
          }
        : null,
  },
  primed: {
    clears: ['not-primed'],
    find: (r) =>
      r.primed
        ? {
            severity: 'good',
            text: 'The nozzle is primed before the part begins.',
            why: 'The first line starts full.',
          }
        : null,
  },
  'contact-tiny': {
    raises: ['contact-too-small'],
    find: (r) => {
      const f = r.firstLayer
      if (!f || r.base.brim || r.base.raftLayers) return null
      const perHeight = f.contact / Math.max(1, r.height)
      return perHeight < 4 || (f.contact < 60 && r.height > 15)
        ? {
            severity: 'fault',
            from: 0,
            to: f.height,
            size: perHeight,
            text: `${quantity(f.contact, 'mm²', 0)} on the bed carry a print ${quantity(r.height, 'mm', 0)} tall.`,
            why: 'A knock of the nozzle is enough to tip it.',
          }
        : null
    },
  },
  'islands-quick': {
    raises: ['slow-zone-too-short', 'contact-too-small'],
    find: (r) => {
      const f = r.firstLayer
      if (!f || f.islands < 5) return null
      const second = r.layers.outerSpeed[Math.min(f.layer + 2, r.layerCount - 1)]
      return second && second > 1.5 * f.speed && f.smallestIsland < 150
        ? {
            severity: 'caution',
            from: 0,
            to: Math.min(3, r.height),
            size: f.islands,
            text: `${f.islands} islands, the smallest ${quantity(f.smallestIsland, 'mm²', 0)}, and only the first layer is slow.`,
            why: 'Small pieces let go when the next layers are drawn fast.',
          }
        : null
    },
  },
  'slow-down-swings': {
    raises: ['speed-swings'],
    find: (r) => {
      const from = body(r)
      const top = usual(r.layers.outerAsked, from)
      if (!top || r.layerCount < from + 4) return null
      const slow = runs(r, (l) => (r.layers.outerAsked[l] ?? top) < 0.8 * top, from)
      const all = slow.reduce((n, s) => n + s.layers.length, 0)
      const worst = longest(slow)
      if (!worst || all > 0.9 * (r.layerCount - from)) return null
      const least = Math.min(...worst.layers.map((l) => r.layers.outerAsked[l] ?? top))
      return {
        severity: least < 0.6 * top ? 'fault' : 'caution',
        from: worst.from,
        to: worst.to,
        size: least / top,
        text: `Outer walls drop from ${figure(top, 0)} to ${quantity(least, 'mm/s', 0)} at ${heights(worst.from, worst.to)}${slow.length > 1 ? ` and in ${slow.length - 1} more places` : ''}.`,
        why: 'A change of speed shows as a band in gloss and width: usually the minimum layer time.',
      }
    },
  },
  'speed-even': {
    clears: ['speed-swings'],
    find: (r) => {
      const from = body(r)
      const known = r.layers.outerAsked.slice(from).filter((v): v is number => v !== null)
      if (known.length < 5) return null
      const top = median(known)
      return known.every((v) => Math.abs(v - top) < 0.06 * top)
        ? {
            severity: 'good',
            text: `Outer walls keep ${quantity(top, 'mm/s', 0)} on every layer.`,
            why: 'Bands do not come from the slow-down.',
          }
        : null
    },
  },
  'layers-too-quick': {
    raises: ['layer-time-too-short', 'cooling-too-weak'],
    find: (r, c) => {
      const quick = runs(r, (l) => r.layers.seconds[l] < 0.8 * c.coolingTime, body(r))
      const worst = longest(quick)
      if (!worst) return null
      const least = Math.min(...worst.layers.map((l) => r.layers.seconds[l]))
      return {
        severity: least < 0.5 * c.coolingTime ? 'fault' : 'caution',
        from: worst.from,
        to: worst.to,
        size: least / c.coolingTime,
        text: `Layers take only ${quantity(least, 's', 1)} at ${heights(worst.from, worst.to)}; a bead needs ${quantity(c.coolingTime, 's', 1)} to set.`,
        why: 'The next layer presses into soft plastic.',
      }
    },
  },
  'layers-cool': {
    clears: ['layer-time-too-short'],
    find: (r, c) =>
      r.layerCount > 3 && r.layers.seconds.slice(1).every((s) => s > 1.2 * c.coolingTime)
        ? {
            severity: 'good',
            text: `Every layer takes longer than the ${quantity(c.coolingTime, 's', 1)} a bead needs to set.`,
            why: 'Layers are not laid too quickly.',
          }
        : null,
  },
  'over-melt-cap': {
    raises: ['melt-rate-exceeded'],
    find: (r, c) => {
      if (r.meltPeak <= c.meltCap) return null
      const worst = longest(runs(r, (l) => r.layers.meltPeak[l] > c.meltCap))
      const where = r.meltPlace
      return {
        severity: r.meltPeak > 1.15 * c.meltCap ? 'fault' : 'caution',
        from: worst?.from ?? null,
        to: worst?.to ?? null,
        size: r.meltPeak / c.meltCap,
        text: `${where ? cap(FEATURE_NAMES[where.feature]) : 'The print'} asks ${quantity(r.meltPeak, 'mm³/s', 1)}; the hot end melts ${quantity(c.meltCap, 'mm³/s', 1)}.`,
        why: 'Lines come out starved where it moves fastest.',
      }
    },
  },
  'under-melt-cap': {
    clears: ['melt-rate-exceeded'],
    find: (r, c) =>
      r.meltPeak > 0 && r.meltPeak < 0.85 * c.meltCap
        ? {
            severity: 'good',
            text: `At most ${quantity(r.meltPeak, 'mm³/s', 1)} of the ${quantity(c.meltCap, 'mm³/s', 1)} the hot end melts.`,
            why: 'It is not asked for too much.',
          }
        : null,
  },
  'open-air-drag': {
    raises: ['retraction-off', 'retraction-too-short'],
    find: (r) => {
      const { openUnretracted, openCount, longestUnretracted, longestLayer } = r.travel
      if (!openUnretracted || longestUnretracted < 3) return null
      const z = longestLayer === null ? null : r.layers.z[longestLayer]
      return {
        severity: openUnretracted > 0.3 * openCount ? 'fault' : 'caution',
        from: z === null ? null : z - r.layers.height[longestLayer!],
        to: z,
        size: openUnretracted,
        text: `${openUnretracted} of ${openCount} crossings through the air go without a pull-back, the longest ${quantity(longestUnretracted, 'mm', 0)}.`,
        why: 'The nozzle drips on the way and draws a string.',
      }
    },
  },
  'open-air-clean': {
    clears: ['retraction-off'],
    find: (r) =>
      r.travel.openCount > 2 && r.travel.openUnretracted === 0
        ? {
            severity: 'good',
            text: `All ${r.travel.openCount} crossings through the air are made with a pull-back.`,
            why: 'Retraction is carried out.',
          }
        : null,
  },
  'travel-slow': {
    raises: ['travel-too-slow'],
    find: (r, c) =>
      r.travel.speed !== null &&
      r.travel.speed < 90 &&
      c.machine.limits.speed >= 120 &&
      r.travel.openCount > 0
        ? {
            severity: 'caution',
            size: r.travel.speed,
            text: `Travels run at ${quantity(r.travel.speed, 'mm/s', 0)}.`,
            why: 'Slow travels give ooze time.',
          }
        : null,
  },
  'over-pulled': {
    raises: ['retraction-too-long', 'feed-slip'],
    find: (r) => {
      const w = r.ledger.worst
      return w && w.passes > 10
        ? {
            severity: w.passes > 20 ? 'fault' : 'caution',
            from: r.layers.z[w.layer] - r.layers.height[w.layer],
            to: r.layers.z[w.layer],
            size: w.passes,
            text: `The same filament passes the drive gear ${w.passes} times backwards near ${quantity(r.layers.z[w.layer], 'mm', 1)}.`,
            why: 'The gear grinds a notch into it and slips.',
          }
        : null
    },
  },
  'pulls-few': {
    clears: ['retraction-too-long'],
    find: (r) =>
      r.retraction.kind !== 'none' && r.retraction.worstPasses <= 4
        ? {
            severity: 'good',
            text: `No stretch of filament is pulled back more than ${r.retraction.worstPasses} times.`,
            why: 'The gear does not grind it.',
          }
        : null,
  },
  'seam-stacked': {
    raises: ['seam-stacked'],
    clears: ['seam-scattered'],
    find: (r) =>
      r.seam.stacked !== null && r.seam.stacked > 0.8 && r.seam.count > 8
        ? {
            severity: 'note',
            size: r.seam.stacked,
            text: `${quantity(r.seam.stacked * 100, '%', 0)} of the loops start right above the one below${r.seam.outwardCorner > 0.7 ? ', on an outward corner' : r.seam.inwardCorner > 0.7 ? ', in an inward corner' : ''}.`,
            why: 'All their ends make one line, and a line of weakness on a part that flexes.',
          }
        : null,
  },
  'seam-scattered': {
    raises: ['seam-scattered'],
    clears: ['seam-stacked'],
    find: (r) => {
      const objects = r.seam.objects.filter((o) => o.count > 8)
      return r.seam.stacked !== null && r.seam.stacked < 0.4 && objects.some((o) => o.together < 0.6)
        ? {
            severity: 'note',
            size: r.seam.stacked,
            text: 'Loops start all around the part.',
            why: 'Each end is a bump of its own where ooze is not under control.',
          }
        : null
    },
  },
  'ends-untreated': {
    raises: ['loop-end-overfill', 'pressure-not-relieved'],
    find: (r, c) =>
      r.seam.count > 8 && r.seam.early < 0.02 && r.seam.wipe < 0.05 && !r.pressure
        ? {
            severity: c.blobs ? 'fault' : 'note',
            text: 'Outlines end without wipe, early stop or pressure compensation.',
            why: 'What is under pressure in the nozzle comes out where the loop closes.',
          }
        : null,
  },
  'ends-treated': {
    clears: ['loop-end-overfill'],
    find: (r) =>
      r.seam.count > 8 && (r.seam.early >= 0.2 || r.seam.wipe >= 0.2)
        ? {
            severity: 'good',
            text: `Outlines end with ${[r.seam.early >= 0.2 ? `an early stop of ${quantity(r.seam.early, 'mm', 2)}` : '', r.seam.wipe >= 0.2 ? `a wipe of ${quantity(r.seam.wipe, 'mm', 2)}` : ''].filter(Boolean).join(' and ')}.`,
            why: 'The pressure is let off before the loop closes.',
          }
        : null,
  },
  'early-stop-long': {
    raises: ['loop-start-starved'],
    find: (r, c) =>
      r.seam.early > 3 * c.nozzle
        ? {
            severity: 'caution',
            size: r.seam.early,
            text: `Feed stops ${quantity(r.seam.early, 'mm', 2)} before outlines close.`,
            why: 'So long a stop leaves a notch.',
          }
        : null,
  },
  'restart-off': {
    raises: ['loop-start-starved', 'loop-end-overfill'],
    find: (r) => {
      const extra = r.retraction.restartExtra
      return extra !== null && Math.abs(extra) > 0.05
        ? {
            severity: 'caution',
            size: extra,
            text: `Paths restart with ${quantity(extra, 'mm', 2)} ${extra > 0 ? 'more' : 'less'} than was pulled back.`,
            why: extra > 0 ? 'Every start is a small blob.' : 'Every start is a little empty.',
          }
        : null
    },
  },
  'outer-fed-off': {
    raises: ['outer-wall-overfed', 'flow-too-low'],
    find: (r) => {
      const outer = r.features[Feature.Outer]
      const inner = r.features[Feature.Inner]
      if (!outer.length || !inner.length || !outer.width) return null
      const ratio = outer.width / inner.width
      return ratio > 1.08 || ratio < 0.85
        ? {
            severity: 'note',
            size: ratio,
            text: `Outer walls are laid ${quantity(outer.width, 'mm', 2)} wide, inner ones ${quantity(inner.width, 'mm', 2)}.`,
            why: 'Either it is meant, or the flow of one of them is off.',
          }
        : null
    },
  },
  'heat-steps': {
    raises: ['nozzle-too-hot', 'nozzle-too-cold'],
    find: (r) => {
      const from = body(r)
      for (let l = from + 1; l < r.layerCount; l++) {
        const a = r.layers.nozzle[l - 1]
        const b = r.layers.nozzle[l]
        if (a !== null && b !== null && Math.abs(a - b) >= 3)
          return {
            severity: 'caution',
            from: r.layers.z[l] - r.layers.height[l],
            to: r.layers.z[l],
            size: b - a,
            text: `The nozzle goes from ${figure(a, 0)} to ${quantity(b, '°C', 0)} at ${quantity(r.layers.z[l], 'mm', 1)}.`,
            why: 'Gloss and bond change at that height.',
          }
      }
      return null
    },
  },
  'fan-steps': {
    raises: ['cooling-too-strong', 'cooling-too-weak'],
    find: (r) => {
      const from = Math.max(body(r), (r.fanFromLayer ?? 0) + 2)
      for (let l = from + 1; l < r.layerCount; l++) {
        const d = r.layers.fan[l] - r.layers.fan[l - 1]
        if (Math.abs(d) > 0.25)
          return {
            severity: 'note',
            from: r.layers.z[l] - r.layers.height[l],
            to: r.layers.z[l],
            size: d,
            text: `The fan goes from ${figure(r.layers.fan[l - 1] * 100, 0)} to ${quantity(r.layers.fan[l] * 100, '%', 0)} at ${quantity(r.layers.z[l], 'mm', 1)}.`,
            why: 'Gloss changes where cooling does.',
          }
      }
      return null
    },
  },
  'stops-over-part': {
    raises: ['head-parks-on-part'],
    find: (r) => {
      const over = r.stops.filter((s) => s.overPart && s.seconds >= 0.5)
      return over.length
        ? {
            severity: 'fault',
            from: over[0].z - 0.2,
            to: over[0].z,
            size: over.length,
            text: `The head stands still over the part ${over.length === 1 ? 'once' : `${over.length} times`}, up to ${duration(over[0].seconds)}.`,
            why: 'Heat and drips tear soft walls and leave blobs.',
          }
        : null
    },
  },
  'no-stops-over-part': {
    clears: ['head-parks-on-part'],
    find: (r) =>
      r.layerCount > 3 && r.stops.every((s) => !s.overPart || s.seconds < 0.3) && r.style.pauses === 0
        ? {
            severity: 'good',
            text: 'The head never stands still over the part.',
            why: 'No pause leaves its mark.',
          }
        : null,
  },
  'off-full-step': {
    raises: ['layer-height-off-step'],
    find: (r, c) => {
      if (!r.layerHeight || r.spiral) return null
      const step = fullStep(c.machine)
      const steps = r.layerHeight / step
      return Math.abs(steps - Math.round(steps)) > 0.04
        ? {
            severity: 'caution',
            size: r.layerHeight,
            text: `Layers of ${quantity(r.layerHeight, 'mm', 3)} are no multiple of the screw’s full step of ${quantity(step, 'mm', 4)}.`,
            why: 'Between full steps the screw holds less firmly.',
          }
        : null
    },
  },
  'on-full-step': {
    clears: ['layer-height-off-step'],
    find: (r, c) => {
      if (!r.layerHeight || r.spiral) return null
      const steps = r.layerHeight / fullStep(c.machine)
      return Math.abs(steps - Math.round(steps)) <= 0.02
        ? {
            severity: 'good',
            text: `Layers of ${quantity(r.layerHeight, 'mm', 2)} land on full steps of the screw.`,
            why: 'The layer height does not make bands.',
          }
        : null
    },
  },
  'heights-vary': {
    raises: [],
    find: (r) => {
      const from = body(r)
      const own = r.layers.height.slice(from)
      if (own.length < 4 || r.spiral) return null
      const least = Math.min(...own)
      const most = Math.max(...own)
      return most > 1.3 * least && r.objects.length < 2
        ? {
            severity: 'note',
            size: most / least,
            text: `Layer heights vary from ${figure(least, 2)} to ${quantity(most, 'mm', 2)}.`,
            why: 'Bands where they change are drawn, not faults.',
          }
        : null
    },
  },
  'outer-fastest': {
    raises: ['outer-wall-too-fast'],
    find: (r) => {
      const outer = r.features[Feature.Outer].asked
      const inner = r.features[Feature.Inner].asked
      return outer > 0 && inner > 0 && outer > 1.05 * inner
        ? {
            severity: 'caution',
            size: outer / inner,
            text: `Outer walls are asked at ${quantity(outer, 'mm/s', 0)}, inner ones at ${quantity(inner, 'mm/s', 0)}.`,
            why: 'The face is what people see; it wants the slower speed.',
          }
        : null
    },
  },
  'outer-over-card': {
    raises: ['outer-wall-too-fast'],
    find: (r, c) => {
      const card = cardOf(c.filament.family).speed.outer
      const v = r.rest.outerSpeed
      return v !== null && v > 1.5 * card
        ? {
            severity: 'caution',
            size: v / card,
            text: `Outer walls run at ${quantity(v, 'mm/s', 0)}; the card shows a good face at ${quantity(card, 'mm/s', 0)}.`,
            why: 'Faster walls go dull and ring.',
          }
        : null
    },
  },
  'speeds-apart': {
    raises: ['mixed-speeds'],
    find: (r) => {
      const all = [Feature.Outer, Feature.Inner, Feature.Solid, Feature.Sparse]
        .map((f) => r.features[f])
        .filter((f) => f.length > 20 && f.asked > 0)
        .map((f) => f.asked)
      if (all.length < 2 || r.pressure) return null
      const ratio = Math.max(...all) / Math.min(...all)
      return ratio > 2.2
        ? {
            severity: 'note',
            size: ratio,
            text: `The fastest lines are laid ${quantity(ratio, '×', 1)} as fast as the slowest, without pressure compensation.`,
            why: 'The bead swells and starves where speeds meet.',
          }
        : null
    },
  },
  unreachable: {
    raises: [],
    find: (r) => {
      const outer = r.features[Feature.Outer]
      return outer.length > 100 && outer.reached < 0.7 * outer.asked
        ? {
            severity: 'note',
            size: outer.reached / outer.asked,
            text: `Outer walls are asked at ${quantity(outer.asked, 'mm/s', 0)} but average ${quantity(outer.reached, 'mm/s', 0)}.`,
            why: 'Acceleration and corners hold the machine back; asking for more changes nothing.',
          }
        : null
    },
  },
  'more-than-roll': {
    raises: [],
    find: (r, c) => {
      const left = c.filament.weightLeft
      return left !== null && r.filament.mass > left
        ? {
            severity: 'fault',
            from: runOut(r, left),
            to: r.height,
            size: r.filament.mass / Math.max(1, left),
            text: `The print takes ${quantity(r.filament.mass, 'g', 0)}; ${quantity(left, 'g', 0)} are on the roll. It runs out at about ${quantity(runOut(r, left), 'mm', 1)}.`,
            why: 'Have a second roll ready to join mid-print.',
          }
        : null
    },
  },
  'steep-overhang': {
    raises: ['poor-orientation'],
    find: (r) => {
      const worst = r.layers.overhang.reduce((m, v, l) => (v > (r.layers.overhang[m] ?? 0) ? l : m), 0)
      const v = r.layers.overhang[worst]
      return v > 15 && worst > 0
        ? {
            severity: v > 60 ? 'caution' : 'note',
            from: r.layers.z[worst] - r.layers.height[worst],
            to: r.layers.z[worst],
            size: v,
            text: `${quantity(v, 'mm', 0)} of outer wall hang over nothing at ${quantity(r.layers.z[worst], 'mm', 1)}.`,
            why: 'Past 45° walls sag without support.',
          }
        : null
    },
  },
  'bridges-quick': {
    raises: ['cooling-too-weak'],
    find: (r) => {
      const b = r.features[Feature.Bridge]
      const outer = r.features[Feature.Outer]
      return b.length > 20 && outer.asked > 0 && b.asked > 1.2 * outer.asked
        ? {
            severity: 'note',
            size: b.asked / outer.asked,
            text: `Bridges are laid at ${quantity(b.asked, 'mm/s', 0)}, faster than the outer wall.`,
            why: 'Half the outer speed or slower holds a bridge.',
          }
        : null
    },
  },
  'raft-there': {
    raises: [],
    find: (r) =>
      r.base.raftLayers
        ? {
            severity: 'note',
            from: 0,
            to: r.layers.z[r.base.raftLayers - 1],
            text: `The part stands on a raft of ${r.base.raftLayers} layers.`,
            why: 'The bed’s unevenness is out of the picture; the underside is rough.',
          }
        : null,
  },
  'support-there': {
    raises: [],
    find: (r) =>
      r.base.support
        ? {
            severity: 'note',
            size: r.features[Feature.Support].length,
            text: `${quantity(r.features[Feature.Support].length / 1000, 'm', 1)} of support lines.`,
            why: 'They leave scars where they touch.',
          }
        : null,
  },
  'walls-thin': {
    raises: ['flow-too-low'],
    find: (r, c) => {
      const w = r.features[Feature.Outer].width
      return used(r, Feature.Outer) && w > 0 && w < 0.9 * c.nozzle
        ? {
            severity: 'caution',
            size: w / c.nozzle,
            text: `Outer walls are fed for ${quantity(w, 'mm', 2)} from a ${quantity(c.nozzle, 'mm', 2)} nozzle.`,
            why: 'Beads are pulled thin and part from each other.',
          }
        : null
    },
  },
  'pauses-there': {
    raises: ['head-parks-on-part'],
    find: (r) =>
      r.style.pauses > 0
        ? {
            severity: 'note',
            size: r.style.pauses,
            text: `The file pauses the machine ${r.style.pauses === 1 ? 'once' : `${r.style.pauses} times`}.`,
            why: 'Where the head waits decides whether the part is marked.',
          }
        : null,
  },
} satisfies Record<string, Kind>

export type FindingKind = keyof typeof FINDING_KINDS
const ORDER = { fault: 0, caution: 1, note: 2, good: 3 }
const cap = (t: string) => t[0].toUpperCase() + t.slice(1)

/** Height at which so many grams are used up, mm. */
function runOut(r: PathReading, grams: number): number {
  const length = (grams / r.filament.mass) * r.filament.length
  let sum = 0
  for (let l = 0; l < r.layerCount; l++) {
    sum += r.layers.fed[l]
    if (sum > length) return r.layers.z[l]
  }
  return r.height
}

/** What a reading shows that bears on flaws; the worst first. Pure, from the reading alone. */
export function findingsOf(reading: PathReading, context: FindingContext): PathFinding[] {
  if (!reading.layerCount) return []
  const scope = { ...context, nozzle: context.machine.nozzle.diameter }
  const out: PathFinding[] = []
  for (const [kind, k] of Object.entries(FINDING_KINDS) as [FindingKind, Kind][]) {
    const f = k.find(reading, scope)
    if (!f) continue
    out.push({
      kind,
      severity: f.severity,
      from: f.from ?? null,
      to: f.to ?? null,
      size: f.size ?? 1,
      text: f.text,
      why: f.why,
      raises: k.raises ?? [],
      clears: k.clears ?? [],
    })
  }
  return out.sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
}
