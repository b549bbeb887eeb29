import { fullStep, type Machine } from '../materials/machine'
import { cardOf, type MaterialCard } from '../materials/cards'
import { daysInAir, dryingOf, dryness, rollFit, type Filament } from '../materials/filament'
import type { ProcedureId } from '../knowledge/procedures'
import { quantity } from '../units/format'
import { featureLoads, type RecipeValues } from './derive'
import { roundTo, settingOf, type NumberSetting, type SettingKey, type SettingValue } from './settings'

export type Severity = 'fault' | 'caution' | 'note'

/** Something in a recipe that has bitten people before. */
export interface Warning {
  rule: RuleId
  severity: Severity
  /** Settings it is about, the first one first. */
  keys: SettingKey[]
  /** What is so, one sentence. */
  text: string
  why: string
  /** Values that put it right; null where the hand has to do it. */
  mend: Partial<Record<SettingKey, SettingValue>> | null
  /** The hand's part, where there is one: a chapter of the handbook. */
  procedure?: ProcedureId
  /** Changes with the values it is about: "I mean it" holds for these values only. */
  print: string
}

export interface RuleContext {
  machine: Machine
  filament: Filament
  values: RecipeValues
  /** ISO date. */
  today: string
  /** The part to be printed, where one is known. */
  part?: { name: string; grams: number } | null
}

interface Found {
  keys: SettingKey[]
  text: string
  why: string
  mend?: Partial<Record<SettingKey, SettingValue>>
  procedure?: ProcedureId
  /** What else the finding hangs on, besides the values of its keys. */
  on?: string | number
}
interface Scope extends RuleContext {
  card: MaterialCard
  n: (key: SettingKey) => number
}
interface Rule {
  severity: Severity
  find: (s: Scope) => Found | null
}

const step = (key: SettingKey, value: number) => roundTo(settingOf(key) as NumberSetting, value)
/** Rounds down to the setting's step: a mend must not land above what it has to stay under. */
const stepDown = (key: SettingKey, value: number) => {
  const s = settingOf(key) as NumberSetting
  return step(key, Math.floor(value / s.step + 1e-9) * s.step)
}
const SPEEDS: SettingKey[] = ['outerSpeed', 'innerSpeed', 'solidSpeed', 'topSpeed', 'sparseSpeed']
const WIDTHS: SettingKey[] = ['outerWidth', 'innerWidth', 'fillWidth']

/** Common practice throughout; no source unless a sentence names one. */
export const RULES_OF_RECIPES = {
  'first-flow-left': {
    severity: 'fault',
    find: ({ n, values }) =>
      n('flowFirst') > 105 && values.flowFirst.source !== 'measured'
        ? {
            keys: ['flowFirst'],
            text: `First-layer flow stands at ${n('flowFirst')} % of the overall flow.`,
            why: 'Overfeeding flares the base. It is often left over from another job.',
            mend: { flowFirst: 100 },
          }
        : null,
  },
  'flow-far': {
    severity: 'caution',
    find: ({ n, values }) =>
      (n('flow') > 105 || n('flow') < 95) && values.flow.source !== 'measured'
        ? {
            keys: ['flow'],
            text: `Overall flow is ${n('flow')} % without a measured wall.`,
            why: 'Flow for everything hides faults of one feature and bends every size.',
            mend: { flow: 100 },
          }
        : null,
  },
  'feature-flow-far': {
    severity: 'note',
    find: ({ n, values }) => {
      const off = (['flowOuter', 'flowInner', 'flowSolid', 'flowSparse'] as SettingKey[]).filter(
        (k) => Math.abs(n(k) - 100) > 8 && values[k].source !== 'measured',
      )
      return off.length
        ? {
            keys: off,
            text: `${off.map((k) => `${settingOf(k).label} ${n(k)} %`).join(', ')}: far from 100 % without a test.`,
            why: 'A few percent mend a feature; more usually covers something else.',
            mend: Object.fromEntries(off.map((k) => [k, 100])),
          }
        : null
    },
  },
  'brim-on-soft': {
    severity: 'fault',
    find: ({ card, n }) =>
      card.flexible && n('brimLines') > 0
        ? {
            keys: ['brimLines'],
            text: `A brim of ${n('brimLines')} lines on ${card.name}.`,
            why: 'It welds on and cannot be trimmed cleanly.',
            mend: { brimLines: 0 },
          }
        : null,
  },
  'raft-on-soft': {
    severity: 'fault',
    find: ({ card, values }) =>
      card.flexible && values.raft.value === true
        ? {
            keys: ['raft'],
            text: `A raft under ${card.name}.`,
            why: 'It welds on and will not come off.',
            mend: { raft: false },
          }
        : null,
  },
  'fan-on-shrinking': {
    severity: 'fault',
    find: ({ card, n }) =>
      card.fan.rest <= 10 && card.wantsEnclosure && n('fan') > card.fan.rest + 10
        ? {
            keys: ['fan'],
            text: `The fan runs at ${n('fan')} % for ${card.name}.`,
            why: 'Cold air splits its layers and lifts its corners.',
            mend: { fan: card.fan.rest },
          }
        : null,
  },
  'fan-early': {
    severity: 'caution',
    find: ({ card, n }) =>
      n('fan') > 0 && n('fanOffLayers') < 1
        ? {
            keys: ['fanOffLayers'],
            text: 'The fan runs from the very first layer.',
            why: 'Lines that cool at once do not take hold of the bed.',
            mend: { fanOffLayers: card.fan.offLayers },
          }
        : null,
  },
  'layer-time-swings': {
    severity: 'fault',
    find: ({ card, n, values }) => {
      const most = card.fan.rest === 0 ? 20 : 12
      return n('minLayerTime') > most && values.minLayerTime.source !== 'computed'
        ? {
            keys: ['minLayerTime', 'speedFloor'],
            text: `A minimum layer time of ${quantity(n('minLayerTime'), 's')} with a floor of ${quantity(n('speedFloor'), 'mm/s')}.`,
            why: 'Some layers are slowed and their neighbours are not: the change of speed shows as a band.',
            mend: { minLayerTime: 5, speedFloor: Math.max(15, n('speedFloor')) },
          }
        : null
    },
  },
  'floor-low': {
    severity: 'caution',
    find: ({ n, card }) =>
      n('speedFloor') < 0.4 * n('outerSpeed') && !card.flexible && n('speedFloor') < 12
        ? {
            keys: ['speedFloor'],
            text: `Short layers may slow to ${quantity(n('speedFloor'), 'mm/s')}.`,
            why: 'So large a change of speed shows in gloss and width.',
            mend: { speedFloor: Math.min(15, Math.round(n('outerSpeed') * 0.6)) },
          }
        : null,
  },
  'layer-too-thick': {
    severity: 'fault',
    find: ({ machine, n }) => {
      const most = 0.75 * machine.nozzle.diameter
      const on = Math.floor(most / fullStep(machine) + 1e-6) * fullStep(machine)
      return n('layerHeight') > most + 1e-6
        ? {
            keys: ['layerHeight'],
            text: `A layer of ${quantity(n('layerHeight'), 'mm')} is more than 75 % of the nozzle.`,
            why: 'The bead is no longer pressed onto the layer below.',
            mend: { layerHeight: step('layerHeight', on >= 0.04 ? on : most) },
            on: machine.nozzle.diameter,
          }
        : null
    },
  },
  'layer-off-step': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const full = fullStep(machine)
      const steps = n('layerHeight') / full
      const near = Math.max(1, Math.round(steps)) * full
      return Math.abs(steps - Math.round(steps)) > 0.02 &&
        Math.abs(step('layerHeight', near) - near) < 1e-9 &&
        near <= 0.75 * machine.nozzle.diameter
        ? {
            keys: ['layerHeight'],
            text: `A layer of ${quantity(n('layerHeight'), 'mm')} is not a multiple of the full step of ${quantity(full, 'mm', 4)}.`,
            why: 'Between full steps the screw holds less firmly; layers come out uneven.',
            mend: { layerHeight: step('layerHeight', near) },
            on: full,
          }
        : null
    },
  },
  'first-height-far': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const { residual } = machine.bed
      if (n('firstHeight') > machine.nozzle.diameter + 1e-9)
        return {
          keys: ['firstHeight'],
          text: `A first layer of ${quantity(n('firstHeight'), 'mm')} is thicker than the nozzle is wide.`,
          why: 'It is laid as a round string and does not take hold.',
          mend: { firstHeight: stepDown('firstHeight', 0.75 * machine.nozzle.diameter) },
        }
      return residual !== null && n('firstHeight') < 2 * residual - 1e-9
        ? {
            keys: ['firstHeight'],
            text: `The bed is uneven by ${quantity(residual, 'mm')}, half the first layer or more.`,
            why: 'The nozzle scrapes on the high spots and hangs free over the low ones.',
            mend: {
              firstHeight: step('firstHeight', Math.min(2 * residual, 0.75 * machine.nozzle.diameter)),
            },
            on: residual,
          }
        : null
    },
  },
  'line-narrow': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const thin = [...WIDTHS, 'firstWidth' as SettingKey].filter(
        (k) => n(k) < machine.nozzle.diameter - 1e-9,
      )
      return thin.length
        ? {
            keys: thin,
            text: `${thin.map((k) => settingOf(k).label).join(', ')}: narrower than the ${quantity(machine.nozzle.diameter, 'mm')} nozzle.`,
            why: 'The bead is pulled thin and its width is a matter of luck.',
            mend: Object.fromEntries(
              thin.map((k) => [k, step(k, machine.nozzle.diameter * (k === 'firstWidth' ? 1.2 : 1.125))]),
            ),
            on: machine.nozzle.diameter,
          }
        : null
    },
  },
  'line-wide': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const wide = [...WIDTHS, 'firstWidth' as SettingKey].filter(
        (k) => n(k) > 2 * machine.nozzle.diameter + 1e-9,
      )
      return wide.length
        ? {
            keys: wide,
            text: `${wide.map((k) => settingOf(k).label).join(', ')}: over twice the ${quantity(machine.nozzle.diameter, 'mm')} nozzle.`,
            why: 'Hollows appear inside the bead.',
            mend: Object.fromEntries(wide.map((k) => [k, stepDown(k, 2 * machine.nozzle.diameter)])),
            on: machine.nozzle.diameter,
          }
        : null
    },
  },
  'machine-too-cool': {
    severity: 'fault',
    find: ({ card, filament, machine }) => {
      const least = (filament.label.nozzle ?? card.nozzle).min
      return machine.limits.nozzle < least
        ? {
            keys: ['nozzle'],
            text: `${machine.name} reaches ${quantity(machine.limits.nozzle, '°C')}; this roll wants ${quantity(least, '°C')} at least.`,
            why: 'Its layers will not weld here. Print it on a hotter machine.',
            on: machine.limits.nozzle,
          }
        : null
    },
  },
  'nozzle-off-label': {
    severity: 'caution',
    find: ({ card, filament, machine, n }) => {
      const r = filament.label.nozzle ?? card.nozzle
      const out = (['nozzle', 'nozzleFirst'] as SettingKey[]).filter(
        (k) => n(k) > r.max || n(k) < Math.min(r.min, machine.limits.nozzle),
      )
      return out.length
        ? {
            keys: out,
            text: `${out.map((k) => settingOf(k).label).join(' and ')} outside the ${filament.label.nozzle ? 'label' : 'card'}’s ${r.min}–${r.max} °C.`,
            why: n(out[0]) > r.max ? 'Plastic browns, strings and drips.' : 'Layers do not weld.',
            mend: Object.fromEntries(
              out.map((k) => [k, Math.min(machine.limits.nozzle, Math.max(r.min, Math.min(r.max, n(k))))]),
            ),
            on: `${r.min}-${r.max}`,
          }
        : null
    },
  },
  'retraction-beyond-drive': {
    severity: 'caution',
    find: ({ card, machine, n, values }) => {
      if (values.retract.value !== true) return null
      const tube = machine.drive.kind === 'tube'
      const usual = tube ? (10 * machine.drive.tubeLength) / 1000 + 1 : card.retraction.direct
      const most = card.flexible ? (tube ? 3 : 0.8) : tube ? Math.max(7, 1.5 * usual) : 2
      return n('retractLength') > most + 1e-9
        ? {
            keys: ['retractLength'],
            text: `${quantity(n('retractLength'), 'mm')} of retraction ${tube ? `on a ${quantity(machine.drive.tubeLength, 'mm')} tube` : 'on a direct drive'}.`,
            why: `More than ${quantity(most, 'mm', 1)} grinds the filament and starves the next line.`,
            mend: { retractLength: step('retractLength', Math.min(most, usual)) },
            on: most,
          }
        : null
    },
  },
  'retraction-short': {
    severity: 'caution',
    find: ({ card, machine, n, values }) => {
      if (values.retract.value !== true || card.flexible || values.retractLength.source === 'measured')
        return null
      const usual =
        machine.drive.kind === 'tube' ? (10 * machine.drive.tubeLength) / 1000 + 1 : card.retraction.direct
      return n('retractLength') < 0.6 * usual
        ? {
            keys: ['retractLength'],
            text: `${quantity(n('retractLength'), 'mm')} of retraction where this drive usually wants ${quantity(usual, 'mm', 1)}.`,
            why: 'Pressure stays in the nozzle and draws strings.',
            mend: { retractLength: step('retractLength', usual) },
            on: usual,
          }
        : null
    },
  },
  'soft-pulled-in-tube': {
    severity: 'fault',
    find: ({ card, machine, values }) =>
      card.flexible && machine.drive.kind === 'tube' && values.retract.value === true
        ? {
            keys: ['retract'],
            text: `Retraction is on for ${card.name} in a tube.`,
            why: 'It folds and squeezes instead of moving; the feed stops mid-print.',
            mend: { retract: false },
          }
        : null,
  },
  'over-melt-cap': {
    severity: 'fault',
    find: ({ values, n }) => {
      const over = featureLoads(values).filter((f) => f.share > 1.001)
      if (!over.length) return null
      const worst = over.reduce((a, b) => (b.rate > a.rate ? b : a))
      return {
        keys: over.map((f) => f.key),
        text: `${worst.label} asks ${quantity(worst.rate, 'mm³/s', 1)}; the hot end melts ${quantity(n('meltCap'), 'mm³/s', 1)}.`,
        why: 'Fast lines come out starved, layers weak, and the drive clicks.',
        mend: Object.fromEntries(over.map((f) => [f.key, Math.max(3, stepDown(f.key, f.cap))])),
        on: over.map((f) => f.rate.toFixed(2)).join(),
      }
    },
  },
  'bed-above-card': {
    severity: 'caution',
    find: ({ card, filament, n }) => {
      const top = Math.max(card.bed.rest, filament.label.bed?.max ?? 0)
      return n('bed') > top
        ? {
            keys: ['bed'],
            text: `The bed stays at ${quantity(n('bed'), '°C')} after the first layer.`,
            why: `Above ${quantity(top, '°C')} the base stays soft and bows under the weight on it.`,
            mend: { bed: card.bed.rest },
            on: top,
          }
        : null
    },
  },
  'bed-first-above-card': {
    severity: 'caution',
    find: ({ card, filament, n }) => {
      const top = Math.max(card.bed.top, filament.label.bed?.max ?? 0)
      return n('bedFirst') > top
        ? {
            keys: ['bedFirst'],
            text: `The bed starts at ${quantity(n('bedFirst'), '°C')}; ${card.name} bears ${quantity(top, '°C')}.`,
            why: 'The base flares and is hard to remove.',
            mend: { bedFirst: card.bed.first },
            on: top,
          }
        : null
    },
  },
  'seam-on-flexing': {
    severity: 'caution',
    find: ({ card, values }) =>
      card.flexible && values.seamPlace.value !== 'scattered'
        ? {
            keys: ['seamPlace'],
            text: `The seam of ${card.name} is ${values.seamPlace.value === 'stacked' ? 'stacked' : 'in one place'}.`,
            why: 'A part that flexes splits along it.',
            mend: { seamPlace: 'scattered' },
          }
        : null,
  },
  'first-too-fast': {
    severity: 'caution',
    find: ({ n }) =>
      n('firstSpeed') > 40 || (n('firstSpeed') > 20 && n('firstSpeed') > 0.75 * n('outerSpeed') + 1e-9)
        ? {
            keys: ['firstSpeed'],
            text: `The first layer runs at ${quantity(n('firstSpeed'), 'mm/s')}.`,
            why: 'Slow lines take hold; a minute is all it costs.',
            mend: { firstSpeed: step('firstSpeed', Math.min(30, Math.max(3, n('outerSpeed') / 2))) },
            on: n('outerSpeed'),
          }
        : null,
  },
  'travel-slow': {
    severity: 'note',
    find: ({ n, machine }) =>
      n('travelSpeed') < 100 && machine.limits.speed >= 120
        ? {
            keys: ['travelSpeed'],
            text: `Travels at ${quantity(n('travelSpeed'), 'mm/s')} give ooze time to string.`,
            why: 'The machine can go faster.',
            mend: { travelSpeed: Math.min(150, machine.limits.speed) },
          }
        : null,
  },
  'speeds-apart': {
    severity: 'note',
    find: ({ n }) => {
      const all = (['outerSpeed', 'innerSpeed', 'sparseSpeed'] as SettingKey[]).map(n)
      const ratio = Math.max(...all) / Math.min(...all)
      return ratio > 2.001 && n('pressureCompensation') === 0
        ? {
            keys: ['outerSpeed', 'innerSpeed', 'sparseSpeed'],
            text: `Speeds differ ${quantity(ratio, '×', 1)} without pressure compensation.`,
            why: 'Where they change, the bead swells and starves.',
            mend: {
              innerSpeed: Math.min(n('innerSpeed'), 2 * n('outerSpeed')),
              sparseSpeed: Math.min(n('sparseSpeed'), 2 * n('outerSpeed')),
            },
          }
        : null
    },
  },
  'outer-fastest': {
    severity: 'caution',
    find: ({ n }) =>
      n('outerSpeed') > n('innerSpeed')
        ? {
            keys: ['outerSpeed', 'innerSpeed'],
            text: 'The outer wall is laid faster than the inner ones.',
            why: 'The face is what people see; it wants the slower speed.',
            mend: { outerSpeed: n('innerSpeed') },
          }
        : null,
  },
  'over-label-speed': {
    severity: 'note',
    find: ({ filament, n }) => {
      const most = filament.label.speed?.max
      const over = most === undefined ? [] : SPEEDS.filter((k) => n(k) > most)
      return over.length
        ? {
            keys: over,
            text: `The label allows ${quantity(most!, 'mm/s')} at most.`,
            why: 'Past it the maker promises nothing.',
            mend: Object.fromEntries(over.map((k) => [k, most!])),
            on: most,
          }
        : null
    },
  },
  'contour-left': {
    severity: 'caution',
    find: ({ n, values }) => {
      const left = (['contourOffset', 'holeOffset'] as SettingKey[]).filter(
        (k) =>
          Math.abs(n(k)) > (k === 'contourOffset' ? 0.05 : 0.15) &&
          values[k].source !== 'measured' &&
          values[k].source !== 'mend',
      )
      return left.length
        ? {
            keys: left,
            text: `${left.map((k) => `${settingOf(k).label} ${quantity(n(k), 'mm', 3)}`).join(', ')} without a measured plate.`,
            why: 'It fits the roll it was found on, and often stays behind for the next.',
            mend: Object.fromEntries(left.map((k) => [k, 0])),
          }
        : null
    },
  },
  'nothing-primes': {
    severity: 'note',
    find: ({ n, values }) =>
      n('skirtLoops') === 0 && n('brimLines') === 0 && values.raft.value !== true
        ? {
            keys: ['skirtLoops'],
            text: 'No skirt, brim or raft primes the nozzle.',
            why: 'The start of the first line is missing.',
            mend: { skirtLoops: 2 },
          }
        : null,
  },
  'early-stop-long': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const usual = machine.nozzle.diameter ** 3
      return n('earlyStop') > 2 * usual
        ? {
            keys: ['earlyStop'],
            text: `An early stop of ${quantity(n('earlyStop'), 'mm³', 3)} is more than twice the nozzle cubed.`,
            why: 'Loops end in a notch.',
            mend: { earlyStop: step('earlyStop', usual) },
            on: usual,
          }
        : null
    },
  },
  'open-and-draughty': {
    severity: 'note',
    find: ({ card, machine, n }) =>
      card.wantsEnclosure && machine.frame === 'open' && n('draughtWall') === 0
        ? {
            keys: ['draughtWall'],
            text: `${card.name} on an open frame without a draught wall.`,
            why: 'Moving air splits tall parts.',
            mend: { draughtWall: 1 },
            procedure: 'cover-frame',
          }
        : null,
  },
  'held-at-limit': {
    severity: 'note',
    find: ({ values }) => {
      const held = (Object.keys(values) as SettingKey[]).filter((k) => values[k].clippedFrom !== undefined)
      return held.length
        ? {
            keys: held,
            text: `${held.map((k) => settingOf(k).label).join(', ')}: held at the machine’s limit.`,
            why: 'The pair would want more than this machine gives.',
          }
        : null
    },
  },
  'wet-roll': {
    severity: 'fault',
    find: ({ filament, today }) => {
      const state = dryness(filament, today)
      const d = dryingOf(filament)
      if (state !== 'due' && !(state === 'unknown' && d.hygroscopic)) return null
      const days = daysInAir(filament, today)
      return {
        keys: [],
        text:
          days === null
            ? `Nobody knows how long this ${cardOf(filament.family).name} has been open.`
            : `This roll has been in the air for ${days} days; ${cardOf(filament.family).name} bears ${d.openDays}.`,
        why: `Dry it at ${quantity(d.temperature, '°C')} for ${quantity(d.hours, 'h')} first: wet plastic hisses, strings and pits.`,
        procedure: 'dry-filament',
        on: filament.dryings.length,
      }
    },
  },
  'roll-too-light': {
    severity: 'fault',
    find: ({ filament, part }) => {
      if (!part) return null
      const fit = rollFit(filament, part.grams)
      return fit.fits === 'no' || fit.fits === 'tight'
        ? {
            keys: [],
            text: `“${part.name}” takes ${quantity(fit.needed, 'g', 0)}; ${quantity(fit.left, 'g', 0)} are left on the roll.`,
            why:
              fit.fits === 'no'
                ? 'Have a second roll ready to join mid-print, or print fewer.'
                : 'Scales and estimates err by that much.',
            procedure: 'join-roll',
            on: `${Math.round(fit.needed)}/${Math.round(fit.left)}`,
          }
        : null
    },
  },
} satisfies Record<string, Rule>

export type RuleId = keyof typeof RULES_OF_RECIPES
const ORDER: Record<Severity, number> = { fault: 0, caution: 1, note: 2 }

/**
 * Holds a recipe against the rules that catch what bites people. Pure; the worst first, then in the order of
 * the rules.
 */
export function checkRecipe(context: RuleContext): Warning[] {
  const { values } = context
  const scope: Scope = {
    ...context,
    card: cardOf(context.filament.family),
    n: (key) => Number(values[key].value),
  }
  const found: Warning[] = []
  for (const [rule, { severity, find }] of Object.entries(RULES_OF_RECIPES) as [RuleId, Rule][]) {
    const f = find(scope)
    if (!f) continue
    const about = f.keys.map((k) => `${k}=${String(values[k].value)}`).join(',')
    found.push({
      rule,
      severity,
      keys: f.keys,
      text: f.text,
      why: f.why,
      mend: f.mend ?? null,
      ...(f.procedure && { procedure: f.procedure }),
      print: `${rule}:${about}${f.on === undefined ? '' : `@${f.on}`}`.slice(0, 180),
    })
  }
  return found.sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
}
