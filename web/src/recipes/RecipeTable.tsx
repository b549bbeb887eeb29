import type { PairDetail } from '@verimend/contract'
import {
  GROUPS,
  SETTING_KEYS,
  settingApplies,
  settingOf,
  valuesOf,
  type GradedRecipe,
  type RecipeValues,
  type SettingKey,
  type Warning,
} from '@verimend/core/recipe'
import { settingMatches, shareText } from '@verimend/core/words'
import { Fragment, memo, useMemo } from 'react'
import { Empty } from '../components/states'
import { SettingRow, type RowActions } from './SettingRow'
import { editFault, type Draft } from './useDraft'
import type { Other } from './useOther'
import type { RecipeView } from './useRecipeView'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import tableStyles from './table.module.css'

/** All settings by group, each with its value, what it is a share of, and why it is so. */
export const RecipeTable = memo(function RecipeTable({
  pair,
  values,
  stood,
  draft,
  view: { find, grade },
  graded,
  warnings,
  other,
  onlyApart,
  actions,
}: {
  pair: PairDetail
  /** As they would be with the draft. */
  values: RecipeValues
  /** As it is kept. */
  stood: GradedRecipe
  draft: Draft
  view: RecipeView
  /** Settings that change with the layer height. */
  graded: readonly SettingKey[]
  /** Warnings that are not acknowledged. */
  warnings: readonly Warning[]
  other: Other | null
  onlyApart: boolean
  actions: RowActions
}) {
  const { machine } = pair.machine
  const edits = draft.edits[grade]
  const before = useMemo(() => valuesOf(stood, grade), [stood, grade])
  const shown = SETTING_KEYS.filter((key) => {
    if (grade !== 'standard' && !graded.includes(key)) return false
    if (!settingMatches(key, find)) return false
    return !onlyApart || !other || values[key].value !== other.values[key]?.value || key in edits
  })
  return (
    <div className={clsx(ui.sheet, ui.tablewrap)}>
      <table className={clsx(ui.plain, tableStyles.recipe)} data-comparing={other !== null || undefined}>
        <thead>
          <tr>
            <th>Setting</th>
            <th className={ui.num}>Value</th>
            {other && <th className={clsx(ui.num, ui.wrap)}>{other.label}</th>}
            <th className={tableStyles.unitcol}>Unit, share</th>
            <th className={tableStyles.whycol}>Why</th>
          </tr>
        </thead>
        <tbody>
          {GROUPS.map((group) => {
            const own = shown.filter((k) => settingOf(k).group === group.id)
            if (!own.length) return null
            return (
              <Fragment key={group.id}>
                <tr>
                  <th colSpan={other ? 5 : 4} scope="rowgroup" className={tableStyles.group}>
                    {group.label}
                  </th>
                </tr>
                {own.map((k) => (
                  <SettingRow
                    key={k}
                    name={k}
                    resolved={values[k]}
                    before={before[k].value}
                    share={shareText(k, values, pair.nozzle)}
                    off={!settingApplies(k, values, machine)}
                    typed={edits[k]}
                    plusMinus={grade === 'standard' ? draft.measured[k] : undefined}
                    fault={editFault(k, edits[k], machine)}
                    warning={warnings.find((w) => w.keys.includes(k))}
                    other={other?.values[k]}
                    comparing={!!other}
                    canMeasure={grade === 'standard'}
                    actions={actions}
                  />
                ))}
              </Fragment>
            )
          })}
        </tbody>
      </table>
      {!shown.length && <Empty>{find ? 'No setting of that name.' : 'Nothing differs.'}</Empty>}
    </div>
  )
})
