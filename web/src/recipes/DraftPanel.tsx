import { Button, Input } from 'antd'
import type { PairDetail, RecipeVersion } from '@verimend/contract'
import {
  GRADES,
  differences,
  gradedKeys,
  keysOf,
  valuesOf,
  type Difference,
  type Grade,
  type GradedRecipe,
  type SettingKey,
  type SettingValue,
} from '@verimend/core/recipe'
import { bareText, say, settingLabel } from '@verimend/core/words'
import { Problem } from '../components/states'
import type { Draft } from './useDraft'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Settings that follow and are shown one by one. */
const MOST_FOLLOWING = 8
const shownAs = (key: SettingKey, value: SettingValue | null | undefined) =>
  value === null ? 'derived' : value === undefined ? '–' : bareText(key, value)

/** Changes that are not kept yet, what follows from them, and what somebody else kept meanwhile. */
export function DraftPanel({
  pair,
  draft,
  current,
  live,
  grade,
  conflict,
  error,
  busy,
  faulty,
  onReason,
  onKeep,
  onDrop,
  onRebase,
}: {
  pair: PairDetail
  draft: Draft
  current: GradedRecipe
  live: GradedRecipe
  grade: Grade
  /** The version somebody else kept meanwhile. */
  conflict: RecipeVersion | null
  error: unknown
  busy: boolean
  /** A typed value cannot be used. */
  faulty: boolean
  onReason: (reason: string) => void
  onKeep: () => void
  onDrop: () => void
  /** Takes a newer version as the base; what was typed stays. */
  onRebase: (base: number) => void
}) {
  const follow = following(draft, current, live, grade)
  const moved = draft.base !== pair.current && !conflict
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Changes not kept yet">
      <h2>Not kept yet</h2>
      <ul className={ui.changes}>
        {GRADES.flatMap((g) =>
          keysOf(draft.edits[g]).map((k) => (
            <li key={`${g}${k}`}>
              <span>
                {settingLabel(k)}
                {g !== 'standard' && <span className={ui.faint}>, {g}</span>}
              </span>
              <span className={ui.figure}>
                {bareText(k, valuesOf(current, g)[k].value)} → {shownAs(k, draft.edits[g][k])}
              </span>
            </li>
          )),
        )}
        {follow.slice(0, MOST_FOLLOWING).map((d) => (
          <li key={`f${d.key}`} className={ui.faint}>
            <span>{settingLabel(d.key)} follows</span>
            <Moved difference={d} />
          </li>
        ))}
        {follow.length > MOST_FOLLOWING && (
          <li className={ui.faint}>and {follow.length - MOST_FOLLOWING} more that follow</li>
        )}
      </ul>
      <Input
        placeholder="Why? A few words for later"
        aria-label="Reason"
        maxLength={300}
        value={draft.reason}
        onChange={(e) => onReason(e.target.value)}
        onPressEnter={onKeep}
      />
      {(conflict || moved) && (
        <div className={clsx(ui.notice, ui.caution, ui.stack)} role="alert">
          <span>
            {conflict
              ? `Version ${conflict.number} was kept in another window: “${say(conflict.reason)}”`
              : `Version ${pair.current} was made elsewhere while you edited version ${draft.base}.`}{' '}
            Your changes are kept here.
          </span>
          {conflict && (
            <ul className={ui.changes}>
              {differences(current.values, conflict.values).map((d) => (
                <li key={d.key}>
                  <span>{settingLabel(d.key)}</span>
                  <Moved difference={d} />
                </li>
              ))}
            </ul>
          )}
          <Button size="small" onClick={() => onRebase(conflict?.number ?? pair.current)}>
            Lay mine over the newer version
          </Button>
        </div>
      )}
      {!!error && !conflict && <Problem error={error} />}
      <div className={ui.row}>
        <Button type="primary" loading={busy} disabled={!!conflict || moved || faulty} onClick={onKeep}>
          Keep as version {pair.current + 1}
        </Button>
        <Button onClick={onDrop}>Drop</Button>
      </div>
    </section>
  )
}

const Moved = ({ difference: { key, from, to } }: { difference: Difference }) => (
  <span className={ui.figure}>
    {shownAs(key, from)} → {shownAs(key, to)}
  </span>
)

/** Settings of a grade that a draft moves without naming them. */
function following(draft: Draft, current: GradedRecipe, live: GradedRecipe, grade: Grade): Difference[] {
  const graded = grade === 'standard' ? null : gradedKeys(live.values)
  return differences(valuesOf(current, grade), valuesOf(live, grade)).filter(
    ({ key }) => !(key in draft.edits[grade]) && (!graded || graded.includes(key)),
  )
}
