import { Button } from 'antd'
import type { PairDetail } from '@verimend/contract'
import {
  GRADES,
  SETTING_KEYS,
  deriveGraded,
  differences,
  gradedKeys,
  inheritedIn,
  keysOf,
  lintRecipe,
  pinsOf,
  valuesOf,
} from '@verimend/core/recipe'
import { settingLabels } from '@verimend/core/words'
import { useCallback, useMemo, useState, type ReactNode } from 'react'
import type { RecipeEdits } from '../api/client'
import { ago, today } from '../components/format'
import { DraftPanel } from './DraftPanel'
import { ExportMenu } from './ExportMenu'
import { History } from './History'
import { Loads } from './Loads'
import { Policies } from './Policies'
import { RecipeTable } from './RecipeTable'
import { RecipeTools } from './RecipeTools'
import { RelativeDialog } from './RelativeDialog'
import type { RowActions } from './SettingRow'
import { editFault, useDraft } from './useDraft'
import { useKeep } from './useKeep'
import { useOther } from './useOther'
import { useRecipeView } from './useRecipeView'
import { SaveTime } from './SaveTime'
import { Warnings } from './Warnings'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import ui from '../components/ui.module.css'
import styles from './Recipe.module.css'

/** A recipe: read fast, edited in place with everything that follows recomputed, kept as versions. */
export function Recipe({
  pair,
  takeIn,
}: {
  pair: PairDetail
  /** Takes a recipe file in. */ takeIn: ReactNode
}) {
  const [view, setView] = useRecipeView()
  const { grade, against } = view
  const [onlyApart, setOnlyApart] = useState(false)
  const [startingFrom, setStartingFrom] = useState(false)
  const { draft, dirty, current, live, edit, measure, setReason, rebase, drop } = useDraft(pair)
  const { save, goBack, conflict, refresh } = useKeep(pair, drop)
  const other = useOther(pair, against, grade)
  const { machine } = pair.machine
  const { filament } = pair.filament
  const values = useMemo(() => valuesOf(live, grade), [live, grade])
  const graded = useMemo(() => gradedKeys(live.values), [live.values])
  const warnings = useMemo(
    () => lintRecipe({ machine, filament, values, today: today(), part: pair.lastPart }),
    [machine, filament, values, pair.lastPart],
  )
  const open = useMemo(
    () => warnings.filter((w) => !pair.acknowledged.includes(w.fingerprint)),
    [warnings, pair.acknowledged],
  )
  const actions = useMemo<RowActions>(
    () => ({ edit: (key, value) => edit(grade, { [key]: value }), measure }),
    [edit, measure, grade],
  )
  const mend = useCallback((set: Parameters<typeof edit>[1]) => edit(grade, set), [edit, grade])
  const keep = (edits: Partial<RecipeEdits>, then?: () => void) =>
    save.mutate(
      { base: dirty ? draft.base : pair.current, set: {}, reason: draft.reason, ...edits },
      { onSuccess: then },
    )
  const keepDraft = () => {
    const { fine, standard, coarse } = draft.edits
    keep({
      set: standard,
      ...(keysOf(fine).length && { fine }),
      ...(keysOf(coarse).length && { coarse }),
      ...(keysOf(draft.measured).length && { measured: draft.measured }),
    })
  }
  const faulty = GRADES.some((g) =>
    keysOf(draft.edits[g]).some((k) => editFault(k, draft.edits[g][k], machine)),
  )
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Recipe</h1>
        <span className={ui.tag}>version {pair.current}</span>
        <span className={ui.faint}>{ago(pair.version.createdAt)}</span>
        <span className={ui.grow} />
        <Button onClick={() => setStartingFrom(true)}>Start from a relative</Button>
        {takeIn}
        <ExportMenu pair={pair} grade={grade} />
      </div>
      <RecipeTools
        pair={pair}
        live={live}
        view={view}
        onView={setView}
        comparing={other !== null}
        onlyApart={onlyApart}
        onOnlyApart={setOnlyApart}
      />
      {grade !== 'standard' && (
        <p className={ui.faint} style={{ marginBottom: 10 }}>
          These {graded.length} settings change with the layer height; the other{' '}
          {SETTING_KEYS.length - graded.length} are those of the standard recipe. What you set here holds for{' '}
          {grade} layers only.
        </p>
      )}
      {!dirty && <Stale pair={pair} busy={save.isPending} onDerive={() => keep({})} />}
      <div className={styles.withside}>
        <Boundary what="The table of settings">
          <RecipeTable
            pair={pair}
            values={values}
            stood={current}
            draft={draft}
            view={view}
            graded={graded}
            warnings={open}
            other={other}
            onlyApart={onlyApart}
            actions={actions}
          />
        </Boundary>
        <aside className={clsx(ui.stack, styles.side)}>
          {dirty && (
            <Boundary what="What is changed">
              <DraftPanel
                pair={pair}
                draft={draft}
                current={current}
                live={live}
                grade={grade}
                conflict={conflict}
                error={save.error}
                busy={save.isPending}
                faulty={faulty}
                onReason={setReason}
                onKeep={keepDraft}
                onDrop={() => drop(pair.current)}
                onRebase={(base) => {
                  save.reset()
                  rebase(base)
                  void refresh()
                }}
              />
            </Boundary>
          )}
          <Boundary what="The list of warnings">
            <Warnings pair={pair} warnings={warnings} onMend={mend} />
          </Boundary>
          <Boundary what="The list of loads">
            <Loads values={values} />
          </Boundary>
          <Boundary what="What saves time">
            <SaveTime />
          </Boundary>
          <Boundary what="What holds for all">
            <Policies machine={machine} filament={filament} />
          </Boundary>
          <Boundary what="The history">
            <History
              pair={pair}
              against={against.startsWith('v') ? Number(against.slice(1)) : null}
              onCompare={(n) => setView({ against: n === null ? '' : `v${n}` })}
              onBack={goBack.mutate}
              busy={goBack.isPending}
            />
          </Boundary>
        </aside>
      </div>
      {startingFrom && (
        <Boundary what="The choice of a relative" over>
          <RelativeDialog
            pair={pair}
            busy={save.isPending}
            onChoose={(relative) => keep({ relative }, () => setStartingFrom(false))}
            onClose={() => setStartingFrom(false)}
          />
        </Boundary>
      )}
    </>
  )
}

/** What would be derived differently now, when roll, machine or card have changed since the version was kept. */
function Stale({ pair, busy, onDerive }: { pair: PairDetail; busy: boolean; onDerive: () => void }) {
  const { machine } = pair.machine
  const { filament } = pair.filament
  const { values, variants } = pair.version
  const stale = useMemo(() => {
    const anew = deriveGraded({
      machine,
      filament,
      relative: inheritedIn(values),
      pins: pinsOf(values),
      variantPins: { fine: variants.fine.pins, coarse: variants.coarse.pins },
    })
    return differences(values, anew.values).map((d) => d.key)
  }, [machine, filament, values, variants])
  if (!stale.length) return null
  return (
    <div className={clsx(ui.notice, ui.caution, ui.row, ui.between)} style={{ marginBottom: 12 }}>
      <span>
        Roll, machine or card have changed since this version: {stale.length}{' '}
        {stale.length === 1 ? 'value' : 'values'} would be derived differently (
        {settingLabels(stale.slice(0, 3))}
        {stale.length > 3 ? ' …' : ''}).
      </span>
      <Button size="small" loading={busy} onClick={onDerive}>
        Derive anew
      </Button>
    </div>
  )
}
