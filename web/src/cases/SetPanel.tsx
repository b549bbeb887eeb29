import { Button, Select } from 'antd'
import type { CaseDetail } from '@verimend/contract'
import {
  DESIGNS,
  SIGNS,
  figure,
  runValues,
  setOutcome,
  settingOf,
  signOf,
  suspectOf,
  valueText,
  type DesignedSet,
  type SettingKey,
} from '@verimend/core'
import { api } from '../api/client'
import { useCaseChange } from '../api/queries'
import { Problem } from '../parts/Problem'
import { useUndo } from '../parts/useUndo'

const GRADES = ['as bad as ever', 'a little better', 'half gone', 'nearly gone', 'gone']
type Offer = Pick<DesignedSet, 'design' | 'sign' | 'factors'>

/** A few prints in which several settings change at once: offered, graded, and what each setting did. */
export function SetPanel({ c, offer }: { c: CaseDetail; offer: Offer | null }) {
  const add = useCaseChange(c.id, (set: Offer) => api.cases.addSet(c.id, set))
  const sets = c.sets as DesignedSet[]
  const known =
    offer &&
    sets.some(
      (s) => s.sign === offer.sign && s.factors.every((f) => offer.factors.some((o) => o.key === f.key)),
    )
  return (
    <>
      {offer && !known && (
        <div className="notice stack" data-testid="set-offer">
          <p>
            {offer.factors.map((f) => suspectOf(f.suspect).name).join(' or ')}? Nothing tells them apart for
            less: {DESIGNS[offer.design].runs.length} small prints with the settings changed together in a
            fixed order show what each does against {signOf(offer.sign).name.toLowerCase()}.
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
        <OneSet key={s.id} c={c} set={s} />
      ))}
    </>
  )
}

function OneSet({ c, set }: { c: CaseDetail; set: DesignedSet }) {
  const undo = useUndo()
  const grade = useCaseChange(c.id, (v: { run: number; grade: number | null }) =>
    api.cases.gradeRun(c.id, set.id, v.run, v.grade),
  )
  const again = useCaseChange(c.id, () => api.cases.addSet(c.id, set))
  const remove = useCaseChange(c.id, () => api.cases.removeSet(c.id, set.id))
  const outcome = setOutcome(set)
  const strings = SIGNS[set.sign].family === 'strings'
  const most = Math.max(1, ...outcome.effects.map((e) => Math.abs(e.effect)))
  return (
    <section className="designset stack" aria-label={`Set against ${signOf(set.sign).name.toLowerCase()}`}>
      <div className="row between">
        <strong>
          {DESIGNS[set.design].name}: {signOf(set.sign).name.toLowerCase()}
        </strong>
        <Button
          size="small"
          type="text"
          onClick={() =>
            remove.mutate(undefined as never, {
              onSuccess: () => undo('The set is taken out.', () => again.mutate(undefined as never)),
            })
          }
        >
          Remove
        </Button>
      </div>
      <div className="tablewrap">
        <table className="plain">
          <thead>
            <tr>
              <th className="num">Print</th>
              {set.factors.map((f) => (
                <th key={f.key}>{settingOf(f.key).label}</th>
              ))}
              <th>{signOf(set.sign).name} now</th>
            </tr>
          </thead>
          <tbody>
            {set.grades.map((g, i) => {
              const values = runValues(set, i)
              return (
                <tr key={i} data-run={i + 1}>
                  <td className="num figure">
                    {strings ? (
                      <a
                        href={api.cases.runHref(c.id, set.id, i + 1)}
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
                    <td key={f.key} className="figure">
                      {valueText(f.key, values[f.key as SettingKey]!)}
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
        <p className="faint small">The numbers are files of string posts, each with its settings.</p>
      )}
      {!!grade.error && <Problem error={grade.error} />}
      <p className={outcome.lead ? 'answer' : 'faint'}>{outcome.words[0]}</p>
      {outcome.effects.length > 0 && (
        <table className="plain effects" aria-label="Main effects">
          <tbody>
            {outcome.effects.map((e) => (
              <tr key={e.factor.key}>
                <td>{settingOf(e.factor.key).label}</td>
                <td className="num figure">
                  {e.effect >= 0 ? '+' : '−'}
                  {figure(Math.abs(e.effect), 1)}
                </td>
                <td>
                  <svg width="140" height="14" role="img" aria-label={`${figure(e.effect, 1)} steps`}>
                    <line x1="70" x2="70" y1="0" y2="14" className="zero" />
                    <rect
                      x={e.effect >= 0 ? 70 : 70 - (66 * Math.abs(e.effect)) / most}
                      y="3"
                      width={(66 * Math.abs(e.effect)) / most}
                      height="8"
                      className={e === outcome.lead ? 'lead' : ''}
                    />
                  </svg>
                </td>
                <td className="faint small">
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
