import { Button, Select } from 'antd'
import { DESIGNS, runValues, setOutcome, type DesignedSet } from '@verimend/core/casework'
import { SIGNS } from '@verimend/core/knowledge'
import { figure } from '@verimend/core/quantity'
import { say, settingLabel, signName, suspectName, valueText } from '@verimend/core/words'
import { api } from '../api/client'
import { useCaseChange } from '../api/queries'
import { Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './SetPanel.module.css'

const GRADES = ['as bad as ever', 'a little better', 'half gone', 'nearly gone', 'gone']
type Offer = Pick<DesignedSet, 'design' | 'sign' | 'factors'>

/** A few prints in which several settings change at once: offered, graded, and what each setting did. */
export function SetPanel({
  caseId,
  sets,
  offer,
}: {
  caseId: string
  sets: readonly DesignedSet[]
  offer: Offer | null
}) {
  const add = useCaseChange(caseId, (set: Offer) => api.cases.addSet(caseId, set))
  const known =
    offer &&
    sets.some(
      (s) => s.sign === offer.sign && s.factors.every((f) => offer.factors.some((o) => o.key === f.key)),
    )
  return (
    <>
      {offer && !known && (
        <div className={clsx(ui.notice, ui.stack)} data-testid="set-offer">
          <p>
            {offer.factors.map((f) => suspectName(f.suspect)).join(' or ')}? The cheapest way to tell is{' '}
            {DESIGNS[offer.design].runs.length} small prints in a fixed plan. Each changes several settings,
            and together they show what each setting does about {signName(offer.sign).toLowerCase()}.
          </p>
          <div>
            <Button size="small" loading={add.isPending} onClick={() => add.mutate(offer)}>
              Begin the set of {DESIGNS[offer.design].runs.length}
            </Button>
          </div>
          {!!add.error && <Problem error={add.error} />}
        </div>
      )}
      {sets.map((s) => (
        <OneSet key={s.id} caseId={caseId} set={s} />
      ))}
    </>
  )
}

function OneSet({ caseId, set }: { caseId: string; set: DesignedSet }) {
  const undo = useUndo()
  const grade = useCaseChange(caseId, (v: { run: number; grade: number | null }) =>
    api.cases.gradeRun(caseId, set.id, v.run, v.grade),
  )
  const again = useCaseChange(caseId, () => api.cases.addSet(caseId, set))
  const remove = useCaseChange(caseId, () => api.cases.removeSet(caseId, set.id))
  const outcome = setOutcome(set)
  const strings = SIGNS[set.sign].family === 'strings'
  const most = Math.max(1, ...outcome.effects.map((e) => Math.abs(e.effect)))
  return (
    <section
      className={clsx(styles.designset, ui.stack)}
      aria-label={`Set against ${signName(set.sign).toLowerCase()}`}
    >
      <div className={clsx(ui.row, ui.between)}>
        <strong>
          {DESIGNS[set.design].name}: {signName(set.sign).toLowerCase()}
        </strong>
        <Button
          size="small"
          type="text"
          onClick={() =>
            remove.mutate(undefined, {
              onSuccess: () => undo('The set is taken out.', () => again.mutate()),
            })
          }
        >
          Remove
        </Button>
      </div>
      <div className={ui.tablewrap}>
        <table className={ui.plain}>
          <thead>
            <tr>
              <th className={ui.num}>Print</th>
              {set.factors.map((f) => (
                <th key={f.key}>{settingLabel(f.key)}</th>
              ))}
              <th>{signName(set.sign)} now</th>
            </tr>
          </thead>
          <tbody>
            {set.grades.map((g, i) => {
              const values = runValues(set, i)
              return (
                <tr key={i} data-run={i + 1}>
                  <td className={clsx(ui.num, ui.figure)}>
                    {strings ? (
                      <a
                        href={api.cases.runHref(caseId, set.id, i + 1)}
                        download
                        title="String posts as G-code"
                      >
                        {i + 1}
                      </a>
                    ) : (
                      i + 1
                    )}
                  </td>
                  {set.factors.map((f) => (
                    <td key={f.key} className={ui.figure}>
                      {valueText(f.key, values[f.key]!)}
                    </td>
                  ))}
                  <td>
                    <Select
                      size="small"
                      allowClear
                      placeholder="not printed"
                      aria-label={`Print ${i + 1}`}
                      value={g ?? undefined}
                      onChange={(v: number | undefined) => grade.mutate({ run: i + 1, grade: v ?? null })}
                      options={GRADES.map((label, value) => ({ value, label }))}
                      style={{ width: 150 }}
                    />
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
      {strings && (
        <p className={clsx(ui.faint, ui.small)}>
          The numbers are files of string posts, each with its settings.
        </p>
      )}
      {!!grade.error && <Problem error={grade.error} />}
      <p className={outcome.lead ? ui.answer : ui.faint}>{say(outcome.reasons[0])}</p>
      {outcome.effects.length > 0 && (
        <table className={clsx(ui.plain, styles.effects)} aria-label="Main effects">
          <tbody>
            {outcome.effects.map((e) => (
              <tr key={e.factor.key}>
                <td>{settingLabel(e.factor.key)}</td>
                <td className={clsx(ui.num, ui.figure)}>
                  {e.effect >= 0 ? '+' : '−'}
                  {figure(Math.abs(e.effect), 1)}
                </td>
                <td>
                  <svg width="140" height="14" role="img" aria-label={`${figure(e.effect, 1)} steps`}>
                    <line x1="70" x2="70" y1="0" y2="14" className={styles.zero} />
                    <rect
                      x={e.effect >= 0 ? 70 : 70 - (66 * Math.abs(e.effect)) / most}
                      y="3"
                      width={(66 * Math.abs(e.effect)) / most}
                      height="8"
                      data-lead={e === outcome.lead || undefined}
                    />
                  </svg>
                </td>
                <td className={clsx(ui.faint, ui.small)}>
                  {valueText(e.factor.key, e.factor.levels[0])} →{' '}
                  {valueText(e.factor.key, e.factor.levels.at(-1)!)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}
