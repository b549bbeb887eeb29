import { Input, Segmented, Select } from 'antd'
import type { PairDetail } from '@verimend/contract'
import { quantity } from '@verimend/core/quantity'
import { GRADES, valuesOf, type GradedRecipe } from '@verimend/core/recipe'
import { capital, say } from '@verimend/core/words'
import { usePairs, useVersions } from '../api/queries'
import { usePairOf } from '../pairs/usePairOf'
import type { RecipeView } from './useRecipeView'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** What of the recipe is shown: which layer height, held against what, which settings. */
export function RecipeTools({
  pair,
  live,
  view,
  onView,
  comparing,
  onlyApart,
  onOnlyApart,
}: {
  pair: PairDetail
  live: GradedRecipe
  view: RecipeView
  onView: (change: Partial<RecipeView>) => void
  comparing: boolean
  onlyApart: boolean
  onOnlyApart: (only: boolean) => void
}) {
  return (
    <div className={clsx(ui.row, ui.toolrow)}>
      <Segmented
        value={view.grade}
        onChange={(grade) => onView({ grade })}
        options={GRADES.map((g) => ({
          value: g,
          label: `${capital(g)} ${quantity(valuesOf(live, g).layerHeight.value, 'mm', 3)}`,
        }))}
      />
      <Against pair={pair} value={view.against} onChange={(against) => onView({ against })} />
      {comparing && (
        <Segmented
          value={onlyApart ? 'apart' : 'all'}
          onChange={(v) => onOnlyApart(v === 'apart')}
          options={[
            { value: 'all', label: 'All' },
            { value: 'apart', label: 'Only what differs' },
          ]}
        />
      )}
      <span className={ui.grow} />
      <Input
        allowClear
        placeholder="Find a setting"
        aria-label="Find a setting"
        value={view.find}
        onChange={(e) => onView({ find: e.target.value })}
        style={{ width: 190 }}
      />
    </div>
  )
}

/** Chooses what the recipe is held against. */
function Against({
  pair,
  value,
  onChange,
}: {
  pair: PairDetail
  value: string
  onChange: (against: string) => void
}) {
  const versions = useVersions(pair.id)
  const pairs = usePairs()
  const pairOf = usePairOf()
  return (
    <Select
      value={value || null}
      placeholder="Compare with"
      aria-label="Compare with"
      allowClear
      onChange={(v: string | undefined) => onChange(v ?? '')}
      style={{ width: 230 }}
      options={[
        { value: 'start', label: 'the derived start' },
        {
          label: 'Versions',
          options: (versions.data ?? [])
            .filter((v) => v.number !== pair.current)
            .map((v) => ({ value: `v${v.number}`, label: `version ${v.number}: ${say(v.reason)}` })),
        },
        {
          label: 'Other pairs',
          options: (pairs.data ?? [])
            .filter((p) => p.id !== pair.id)
            .map((p) => ({ value: `p${p.id}`, label: pairOf(p.id)?.label ?? '' })),
        },
      ].filter((o) => o.options === undefined || o.options.length > 0)}
    />
  )
}
