import { GcodeWriter } from '../../gcode/writer'
import { cardOf } from '../../material/cards'
import { figure } from '../../quantity/format'
import { settingApplies } from '../../recipe/applies'
import { printSettingsOf, valuesOf, type Grade, type RecipeValues } from '../../recipe/derive'
import type { Exported } from '../../recipe/exchange'
import { GROUPS, SETTING_KEYS, settingOf, type GroupId, type SettingKey } from '../../recipe/settings'
import { SOURCE_NAMES } from '../labels'
import { bareText } from '../names'
import { say } from '../say'
import { plainText } from './markdown'

const unitText = (key: SettingKey) => {
  const s = settingOf(key)
  return s.kind === 'number' ? s.unit : ''
}
/** The settings of a group that matter for a recipe. */
const keysIn = (group: GroupId, values: RecipeValues, { machine }: Exported) =>
  SETTING_KEYS.filter((k) => settingOf(k).group === group && settingApplies(k, values, machine))

/** One row a setting, for CSV: group, key, setting, value, unit, percentage of, ±, from, reason, whether it applies. */
export function recipeRows(e: Exported, grade: Grade = 'standard'): (string | number)[][] {
  const values = valuesOf(e.recipe, grade)
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
        unitText(k),
        s.kind === 'number' ? (s.percentOf ?? '') : '',
        r.plusMinus ?? '',
        SOURCE_NAMES[r.source],
        say(r.reason),
        settingApplies(k, values, e.machine) ? 'yes' : 'no',
      ]
    }),
  ]
}

/** The recipe as Markdown, a table for each group; settings that do not matter are left out. */
export function recipeMarkdown(e: Exported, grade: Grade = 'standard'): string {
  const values = valuesOf(e.recipe, grade)
  const { machine, filament } = e
  const lines = [
    `# ${plainText(filament.name)} on ${plainText(machine.name)}`,
    '',
    `${cardOf(filament.family).name}${filament.maker ? `, ${plainText(filament.maker)}` : ''} · ${figure(machine.nozzle.diameter)} mm nozzle · ${grade} · version ${e.number} · ${e.written.slice(0, 10)}`,
    '',
    plainText(say(e.reason)),
  ]
  for (const g of GROUPS) {
    const keys = keysIn(g.id, values, e)
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
      const unit = s.kind === 'number' && s.percentOf ? `% of ${s.percentOf}` : unitText(k)
      lines.push(
        `| ${s.label} | ${bareText(k, r.value)}${r.plusMinus ? ` ± ${figure(r.plusMinus, 3)}` : ''} | ${unit} | ${SOURCE_NAMES[r.source]} | ${plainText(say(r.reason))} |`,
      )
    }
  }
  return lines.join('\n') + '\n'
}

/**
 * The heat-up and settings of a recipe as G-code lines with remarks, for the head of a file prepared elsewhere, in the
 * machine's own commands. Nothing moves but homing. Heats and accelerations are held within the machine's limits.
 */
export function recipeGcode(e: Exported, grade: Grade = 'standard'): string {
  const values = valuesOf(e.recipe, grade)
  const settings = printSettingsOf(values)
  const { machine } = e
  const g = new GcodeWriter(machine, settings, true)
  g.begin(`recipe: ${e.filament.name} on ${machine.name}, ${figure(machine.nozzle.diameter)} mm nozzle`)
  g.note(`version ${e.number}, ${grade}, written ${e.written.slice(0, 10)}`)
  g.note(
    settings.retract
      ? `pull back ${figure(settings.retractLength)} mm at ${figure(settings.retractSpeed)} mm/s, lift ${figure(settings.zLift)} mm, restart ${figure(settings.restartExtra, 3)} mm extra`
      : 'retraction is off',
  )
  g.note('from the second layer on:')
  g.remarkOnRest()
  for (const group of GROUPS) {
    g.note('')
    g.note(group.label)
    for (const k of keysIn(group.id, values, e)) {
      const s = settingOf(k)
      const of = s.kind === 'number' && s.percentOf ? ` of ${s.percentOf}` : ''
      g.note(`  ${s.label}: ${`${bareText(k, values[k].value)} ${unitText(k)}${of}`.trim()}`)
    }
  }
  return asciiOf(g.text())
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
/** Text that every controller bears. */
const asciiOf = (text: string) => text.replace(/[^\x20-\x7e\n]/g, (c) => ASCII[c] ?? '?')
