import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Select } from 'antd'
import type { PairDetail, PairSummary } from '@verimend/contract'
import type { Layout } from '@verimend/core/planner'
import type { Changes } from '@verimend/core/recipe'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { usePairs } from '../api/queries'
import { Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { usePairOf } from '../pairs/usePairOf'
import ui from '../components/ui.module.css'

/** What is tried: values of the recipe, another way to stand, another pair. */
export interface WhatIf {
  changes: Changes
  /** Lies over the part's own layout. */
  layout: Partial<Layout>
  pairId: string | null
}
export const NOTHING: WhatIf = { changes: {}, layout: {}, pairId: null }
export const isNothing = ({ changes, layout, pairId }: WhatIf) =>
  !pairId && !Object.keys(changes).length && !Object.keys(layout).length

const NO_PAIRS: readonly PairSummary[] = []

/** Another pair to lay the part with. */
export function PairSelect({
  value,
  current,
  onChange,
}: {
  value: string | null
  current: string
  onChange: (id: string | null) => void
}) {
  const pairs = usePairs().data ?? NO_PAIRS
  const pairOf = usePairOf()
  return (
    <Select
      size="small"
      value={value}
      allowClear
      placeholder="on another pair"
      aria-label="On another pair"
      onChange={(id: string | undefined) => onChange(id ?? null)}
      options={pairs.flatMap(({ id }) => {
        const known = id === current ? null : pairOf(id)
        return known ? [{ value: id, label: known.label }] : []
      })}
      style={{ width: 200 }}
      popupMatchSelectWidth={280}
    />
  )
}

/** What becomes of a change that was tried. */
export function KeepOrDrop({
  pair,
  tried,
  onOwn,
  onDrop,
}: {
  pair: PairDetail
  tried: WhatIf
  onOwn: () => void
  onDrop: () => void
}) {
  const client = useQueryClient()
  const undo = useUndo()
  const inRecipe = useMutation({
    mutationFn: () =>
      api.pairs.change(pair.id, { base: pair.current, set: tried.changes, reason: 'Seen on a part' }),
    onSuccess: async (version) => {
      await changed.recipe(client, pair.id)
      onDrop()
      undo(`Kept as version ${version.number} of the recipe.`, () => {
        void api.pairs
          .restore(pair.id, version.number, pair.current)
          .then(() => changed.recipe(client, pair.id))
      })
    },
  })
  const some = Object.keys(tried.changes).length > 0
  return (
    <div className={ui.row}>
      {!tried.pairId && (
        <>
          {some && (
            <Button
              size="small"
              type="primary"
              loading={inRecipe.isPending}
              onClick={() => inRecipe.mutate()}
            >
              Keep in the recipe
            </Button>
          )}
          <Button size="small" onClick={onOwn}>
            Keep for this part
          </Button>
        </>
      )}
      <Button size="small" onClick={onDrop}>
        Drop it
      </Button>
      {!!inRecipe.error && <Problem error={inRecipe.error} />}
    </div>
  )
}
