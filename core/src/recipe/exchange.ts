import { solidSpacing } from '../extrusion/bead'
import type { Filament } from '../materials/filament'
import { cardOf } from '../materials/cards'
import type { Machine } from '../materials/machine'
import { figure, quantity } from '../units/format'
import {
  SOURCE_NAMES,
  featureLoads,
  plainValues,
  valuesOf,
  type GradedRecipe,
  type Grade,
  type Pins,
  type Resolved,
} from './derive'
import { GROUPS, SETTING_KEYS, digitsOf, settingOf, type SettingKey, type SettingValue } from './settings'

/** Mark and number of the recipe file. A reader of version n reads every file whose `reader` is at most n. */
export const RECIPE_FORMAT = 'verimend-recipe'
export const RECIPE_FORMAT_VERSION = 1

export type FiledSetting = Resolved & {
  /** As in the registry; empty for switches and choices. */ unit: string
}
/** A recipe as it is handed on: complete, with its pair and the reason of every value. */
export interface RecipeFile {
  format: typeof RECIPE_FORMAT
  version: number
  /** Lowest reader that understands the file. */
  reader: number
  /** ISO time. */
  written: string
  /** Number of the version that was written out, and why it was made. */
  number: number
  reason: string
  machine: Machine
  filament: Filament
  settings: Record<string, FiledSetting>
  variants: Record<'fine' | 'coarse', { pins: Pins; settings: Record<string, FiledSetting> }>
}

const unitOf = (key: SettingKey) => {
  const s = settingOf(key)
  return s.kind === 'number' ? s.unit : ''
}
const filed = (values: Partial<Record<SettingKey, Resolved>>) =>
  Object.fromEntries(
    SETTING_KEYS.flatMap((k) => (values[k] ? [[k, { ...values[k], unit: unitOf(k) }]] : [])),
  ) as Record<string, FiledSetting>
const unfiled = (settings: Record<string, FiledSetting>) =>
  Object.fromEntries(
    SETTING_KEYS.flatMap((k) => {
      if (!Object.hasOwn(settings, k)) return []
      const { unit: _, ...resolved } = settings[k]
      return [[k, resolved]]
    }),
  ) as Partial<Record<SettingKey, Resolved>>

export interface Exported {
  machine: Machine
  filament: Filament
  recipe: GradedRecipe
  number: number
  reason: string
  /** ISO time. */
  written: string
}

/** The file of a recipe version. */
export function recipeFile({ machine, filament, recipe, number, reason, written }: Exported): RecipeFile {
  const variant = (v: 'fine' | 'coarse') => ({
    pins: recipe.variants[v].pins,
    settings: filed(recipe.variants[v].values),
  })
  return {
    format: RECIPE_FORMAT,
    version: RECIPE_FORMAT_VERSION,
    reader: 1,
    written,
    number,
    reason,
    machine,
    filament,
    settings: filed(recipe.values),
    variants: { fine: variant('fine'), coarse: variant('coarse') },
  }
}

/** The recipe inside a file; settings the file does not hold are missing. The inverse of {@link recipeFile}. */
export function recipeIn(file: RecipeFile): {
  values: Partial<Record<SettingKey, Resolved>>
  variants: GradedRecipe['variants']
} {
  const variant = (v: 'fine' | 'coarse') => ({
    pins: file.variants[v].pins,
    values: unfiled(file.variants[v].settings),
  })
  return {
    values: unfiled(file.settings),
    variants: { fine: variant('fine'), coarse: variant('coarse') },
  }
}

/** A value without its unit, as tables show it. */
export function bareText(key: SettingKey, value: SettingValue): string {
  const s = settingOf(key)
  if (s.kind === 'switch') return value ? 'on' : 'off'
  if (s.kind === 'choice') return s.choices.find((c) => c.value === value)?.label ?? String(value)
  return figure(Number(value), Math.max(digitsOf(s), 3))
}

/** Whether a setting matters with the others as they are. */
export function settingApplies(
  key: SettingKey,
  values: Record<SettingKey, { value: SettingValue }>,
  machine?: Machine,
): boolean {
  const rule = machine?.limits.corner.kind
  if (rule && key === 'cornerChange') return rule === 'instant-change'
  if (rule && key === 'junctionDeviation') return rule === 'junction-deviation'
  const { when } = settingOf(key)
  if (!when) return true
  const v = values[when.key as SettingKey].value
  return when.is === 'above-zero' ? Number(v) > 0 : v === when.is
}

/** What a value is a share of, in words: "120 % of the nozzle"; empty where it is none. */
export function shareText(
  key: SettingKey,
  values: Record<SettingKey, { value: SettingValue }>,
  nozzle: number,
): string {
  const s = settingOf(key)
  if (s.kind !== 'number') return ''
  const value = Number(values[key].value)
  if (s.percentOf) {
    const of = percentBase(key, values)
    return of ? `= ${of}` : ''
  }
  if (!s.shareOf) return ''
  const base = s.shareOf === 'nozzle-diameter' ? nozzle : Number(values[s.shareOf as SettingKey]?.value)
  if (!(base > 0)) return ''
  const name =
    s.shareOf === 'nozzle-diameter' ? 'nozzle' : settingOf(s.shareOf as SettingKey).label.toLowerCase()
  return `${figure((value / base) * 100, 0)} % of ${name}`
}

/**
 * What a percentage comes to: flow as mm³ for each mm of line, a density as the distance of its lines, fan duty as
 * the command's 0–255. A scale is shown against the drawn size alone: the part decides what it comes to.
 */
function percentBase(key: SettingKey, values: Record<SettingKey, { value: SettingValue }>): string {
  const n = (k: SettingKey) => Number(values[k].value)
  if (key === 'fan' || key === 'fanOverhang' || key === 'fanBridge')
    return `${Math.round((n(key) / 100) * 255)} of 255`
  // a density comes to a distance between lines
  if (key === 'sparseDensity' || key === 'raftTopDensity' || key === 'raftDensity') {
    if (!(n(key) > 0)) return ''
    const [width, height]: [SettingKey, SettingKey] =
      key === 'sparseDensity'
        ? ['fillWidth', 'layerHeight']
        : key === 'raftDensity'
          ? ['raftBottomWidth', 'firstHeight']
          : ['raftTopWidth', 'layerHeight']
    return `lines ${quantity(solidSpacing(n(width), n(height)) / (n(key) / 100), 'mm', 2)} apart`
  }
  const load = featureLoads(values).find((f) => f.key === FLOW_OF[key])
  if (!load) return ''
  // bridges and the layer on a raft are laid with these lines, at a flow of their own
  const own = key === 'flowBridge' || key === 'flowOverRaft'
  const share = own ? (n('flow') / 100) * (n(key) / 100) * load.area : load.rate / load.speed
  return `${quantity(share, 'mm³', 4)} a mm`
}
const FLOW_OF: Partial<Record<SettingKey, SettingKey>> = {
  flow: 'outerSpeed',
  flowFirst: 'firstSpeed',
  flowOuter: 'outerSpeed',
  flowInner: 'innerSpeed',
  flowSolid: 'solidSpeed',
  flowSparse: 'sparseSpeed',
  flowBridge: 'outerSpeed',
  flowOverRaft: 'firstSpeed',
}

/** One row a setting, for CSV: group, key, setting, value, unit, percentage of, ±, from, reason. */
export function recipeRows({ machine, recipe }: Exported, grade: Grade = 'standard'): (string | number)[][] {
  const values = valuesOf(recipe, grade)
  return [
    ['group', 'key', 'setting', 'value', 'unit', 'percentage of', 'plus-minus', 'from', 'reason', 'applies'],
    ...SETTING_KEYS.map((k) => {
      const s = settingOf(k)
      const r = values[k]
      return [
        GROUPS.find((g) => g.id === s.group)!.label,
        k,
        s.label,
        typeof r.value === 'boolean' ? (r.value ? 'on' : 'off') : r.value,
        unitOf(k),
        s.kind === 'number' ? (s.percentOf ?? '') : '',
        r.plusMinus ?? '',
        SOURCE_NAMES[r.source],
        r.words,
        settingApplies(k, values, machine) ? 'yes' : 'no',
      ]
    }),
  ]
}

const cell = (text: string) =>
  text
    .replace(/\|/g, '\\|')
    .replace(/[\r\n]+/g, ' ')
    .replace(/</g, '&lt;')

/** The recipe as Markdown, a table for each group; settings that do not matter are left out. */
export function recipeMarkdown(e: Exported, grade: Grade = 'standard'): string {
  const values = valuesOf(e.recipe, grade)
  const { machine, filament } = e
  const lines = [
    `# ${cell(filament.name)} on ${cell(machine.name)}`,
    '',
    `${cardOf(filament.family).name}${filament.maker ? `, ${cell(filament.maker)}` : ''} · ${figure(machine.nozzle.diameter)} mm nozzle · ${grade} · version ${e.number} · ${e.written.slice(0, 10)}`,
    '',
    cell(e.reason),
  ]
  for (const g of GROUPS) {
    const keys = SETTING_KEYS.filter((k) => settingOf(k).group === g.id && settingApplies(k, values, machine))
    if (!keys.length) continue
    lines.push(
      '',
      `## ${g.label}`,
      '',
      '| Setting | Value | Unit | From | Why |',
      '| --- | ---: | --- | --- | --- |',
    )
    for (const k of keys) {
      const s = settingOf(k)
      const r = values[k]
      const unit = s.kind === 'number' ? (s.percentOf ? `% of ${s.percentOf}` : s.unit) : ''
      lines.push(
        `| ${s.label} | ${bareText(k, r.value)}${r.plusMinus ? ` ± ${figure(r.plusMinus, 3)}` : ''} | ${unit} | ${SOURCE_NAMES[r.source]} | ${cell(r.words)} |`,
      )
    }
  }
  return lines.join('\n') + '\n'
}

/**
 * The heat-up and settings of a recipe as G-code lines with comments, for the head of a file prepared elsewhere.
 * Nothing moves but homing. Heats and accelerations are held within the machine's limits.
 */
export function recipeGcode(e: Exported, grade: Grade = 'standard'): string {
  const v = plainValues(valuesOf(e.recipe, grade))
  const n = (k: SettingKey) => Number(v[k])
  const { limits, fan } = e.machine
  const out: string[] = []
  const note = (text: string) => out.push(`; ${text.replace(/[^\x20-\x7e]/g, (c) => ASCII[c] ?? '?')}`)
  const put = (code: string, text: string) => out.push(`${code.padEnd(24)} ; ${text}`)
  const heat = (k: SettingKey, most: number) => Math.round(Math.min(n(k), most))
  note(
    `Verimend recipe: ${e.filament.name} on ${e.machine.name}, ${figure(e.machine.nozzle.diameter)} mm nozzle`,
  )
  note(`version ${e.number}, ${grade}, written ${e.written.slice(0, 10)}`)
  note(
    `held within the machine: nozzle ${limits.nozzle} C, bed ${limits.bed} C, ${limits.acceleration} mm/s2`,
  )
  put('G21', 'millimetres')
  put('G90', 'absolute places')
  put('M83', 'relative feed')
  put('M107', `fan off for ${n('fanOffLayers')} layers`)
  put(`M140 S${heat('bedFirst', limits.bed)}`, 'bed, first layer')
  put(`M104 S${heat('nozzleFirst', limits.nozzle)}`, 'nozzle, first layer')
  put('G28', 'home')
  put(`M190 S${heat('bedFirst', limits.bed)}`, 'wait for the bed')
  put(`M109 S${heat('nozzleFirst', limits.nozzle)}`, 'wait for the nozzle')
  put(
    `M204 P${Math.round(Math.min(n('outerAcceleration'), limits.acceleration))} T${Math.round(Math.min(n('travelAcceleration'), limits.travelAcceleration))}`,
    'acceleration: printing, travel',
  )
  if (limits.corner.kind === 'instant-change')
    put(
      `M205 X${figure(Math.min(n('cornerChange'), limits.corner.limit))} Y${figure(Math.min(n('cornerChange'), limits.corner.limit))}`,
      'corner change, mm/s',
    )
  else
    put(
      `M205 J${figure(Math.min(n('junctionDeviation'), limits.corner.deviation), 4)}`,
      'junction deviation, mm',
    )
  put(`M900 K${figure(n('pressureCompensation'), 4)}`, 'pressure compensation, s (0: off)')
  if (v.retract === true) {
    put(
      `M207 S${figure(n('retractLength'))} F${Math.round(n('retractSpeed') * 60)} Z${figure(n('zLift'))}`,
      'retraction for G10',
    )
    put(
      `M208 S${figure(n('restartExtra'), 3).replace('\u2212', '-')} F${Math.round(n('retractSpeed') * 60)}`,
      'restart extra for G11',
    )
  } else note('retraction is off')
  note('from the second layer on:')
  note(`  M104 S${heat('nozzle', limits.nozzle)}   nozzle`)
  note(`  M140 S${heat('bed', limits.bed)}   bed`)
  if (fan.present)
    note(
      `  M106 S${Math.round((n('fan') / 100) * 255)}   fan ${n('fan')} % from layer ${n('fanOffLayers') + 1}`,
    )
  for (const g of GROUPS) {
    note('')
    note(g.label)
    for (const k of SETTING_KEYS) {
      const s = settingOf(k)
      if (s.group !== g.id || !settingApplies(k, valuesOf(e.recipe, grade), e.machine)) continue
      note(
        `  ${s.label}: ${bareText(k, v[k])}${s.kind === 'number' ? ` ${s.unit}${s.percentOf ? ` of ${s.percentOf}` : ''}` : ''}`,
      )
    }
  }
  return out.join('\n') + '\n'
}
const ASCII: Record<string, string> = {
  '°': 'deg ',
  '\u2212': '-',
  '–': '-',
  '\u2009': ' ',
  '²': '2',
  '³': '3',
  '’': "'",
  '±': '+-',
  ä: 'ae',
  ö: 'oe',
  ü: 'ue',
  é: 'e',
}
