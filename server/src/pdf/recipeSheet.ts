import {
  GROUPS,
  SETTING_KEYS,
  featureLoads,
  settingApplies,
  settingOf,
  valuesOf,
  type Exported,
  type Grade,
  type SettingKey,
} from '@verimend/core/recipe'
import { SOURCE_NAMES, bareText, say, settingLabel } from '@verimend/core/words'
import { cardOf, dryingOf } from '@verimend/core/material'
import { figure } from '@verimend/core/quantity'
import { FAINT, INK, RULE, fitted, page } from './page'

/** What pins above a machine: the settings a person sets by hand come first and large. */
const LARGE: SettingKey[] = ['nozzle', 'bed', 'fan', 'retractLength', 'flow', 'layerHeight']

/**
 * The recipe on one A4 page, to pin above the machine.
 * @returns the PDF's bytes
 */
export function recipeSheet(e: Exported, grade: Grade): Promise<Buffer> {
  const values = valuesOf(e.recipe, grade)
  const { machine, filament } = e
  const { doc, done } = page(`${filament.name} on ${machine.name}`, 36)
  const width = doc.page.width - 72
  doc.rect(36, 36, 26, 26).fillAndStroke(filament.colour, INK)
  doc
    .fillColor(INK)
    .font('bold')
    .fontSize(19)
    .text(fitted(filament.name, 46), 72, 34, { width: width - 36, lineBreak: false })
  doc
    .font('text')
    .fontSize(9.5)
    .fillColor(FAINT)
    .text(
      fitted(
        `${cardOf(filament.family).name}${filament.maker ? `, ${filament.maker}` : ''} on ${machine.name}, ${figure(machine.nozzle.diameter)} mm nozzle · ${grade} · version ${e.number}, ${e.written.slice(0, 10)}`,
        110,
      ),
      72,
      56,
      { width: width - 36, lineBreak: false },
    )
  // the few that are set at the machine
  let x = 36
  const box = width / LARGE.length
  for (const key of LARGE) {
    const s = settingOf(key)
    const off = !settingApplies(key, values, machine)
    const shown = off ? 'off' : bareText(key, values[key].value)
    doc
      .font('text')
      .fontSize(7.5)
      .fillColor(FAINT)
      .text(s.label, x, 84, { width: box - 6, lineBreak: false })
    doc.font('figure').fontSize(17).fillColor(INK).text(shown, x, 94, { lineBreak: false })
    const end = x + doc.widthOfString(shown) + 3
    if (!off && s.kind === 'number')
      doc.font('text').fontSize(8.5).fillColor(FAINT).text(s.unit, end, 104, { lineBreak: false })
    x += box
  }
  doc
    .moveTo(36, 122)
    .lineTo(36 + width, 122)
    .lineWidth(0.7)
    .stroke(RULE)
  // everything else in two columns
  const column = (width - 20) / 2
  const rows = GROUPS.flatMap((g) => {
    const keys = SETTING_KEYS.filter((k) => settingOf(k).group === g.id && settingApplies(k, values, machine))
    return keys.length ? [{ head: g.label, keys }] : []
  })
  const lines = rows.reduce((n, r) => n + r.keys.length + 1.6, 0)
  const room = doc.page.height - 36 - 34 - 130
  const line = Math.min(13, room / Math.ceil(lines / 2 + 2))
  const size = Math.min(8.6, line * 0.68)
  let cx = 36
  let y = 130
  const bottom = doc.page.height - 36 - 34
  for (const r of rows) {
    if (y + line * 3 > bottom && cx === 36) {
      cx += column + 20
      y = 130
    }
    doc
      .font('bold')
      .fontSize(size + 0.6)
      .fillColor(INK)
      .text(r.head, cx, y, { lineBreak: false })
    y += line * 1.1
    for (const k of r.keys) {
      if (y + line > bottom && cx === 36) {
        cx += column + 20
        y = 130
      }
      const s = settingOf(k)
      const v = values[k]
      const put = (face: string, colour: string, text: string, at: number, right = false) => {
        doc.font(face).fontSize(size).fillColor(colour)
        const x = cx + column * at - (right ? doc.widthOfString(text) : 0)
        doc.text(text, x, y + (face === 'figure' ? size * 0.1 : 0), { lineBreak: false })
      }
      put('text', INK, s.label, 0)
      // a choice is a word: it may run into the unit's column, which it leaves empty
      if (s.kind === 'choice') put('text', INK, bareText(k, v.value), 0.74, true)
      else put('figure', INK, bareText(k, v.value), 0.6, true)
      if (s.kind === 'number') put('text', FAINT, s.unit, 0.62)
      put(
        'text',
        FAINT,
        v.plusMinus ? `± ${figure(v.plusMinus, 3)}, ${SOURCE_NAMES[v.source]}` : SOURCE_NAMES[v.source],
        1,
        true,
      )
      y += line
    }
    y += line * 0.5
  }
  const loads = featureLoads(values)
  const top = loads.reduce((a, b) => (b.rate > a.rate ? b : a))
  const dry = dryingOf(filament)
  doc
    .moveTo(36, bottom + 4)
    .lineTo(36 + width, bottom + 4)
    .stroke(RULE)
  doc
    .font('text')
    .fontSize(8)
    .fillColor(FAINT)
    .text(
      `Most melted: ${figure(top.rate, 1)} of ${figure(values.meltCap.value, 1)} mm³/s (${settingLabel(top.key).toLowerCase()}). Dry at ${dry.temperature} °C for ${dry.hours} h. Within this machine's limits: ${machine.limits.nozzle} °C, ${machine.limits.bed} °C, ${machine.limits.speed} mm/s.`,
      36,
      bottom + 10,
      { width, lineBreak: false },
    )
    .text(fitted(say(e.reason), 130), 36, bottom + 22, { width, lineBreak: false })
  doc.end()
  return done
}
