import { Button, Input, Select } from 'antd'
import type { Attempt, CaseDetail } from '@verimend/contract'
import { SIGN_IDS, signOf, type SignId } from '@verimend/core/knowledge'
import { asksAfter, signsThat, type SignResult } from '@verimend/core/casework'
import type { RecordedOutcome } from '../api/client'
import { Answers, type Answer } from '../components/Answers'
import { useKeptState } from '../components/useKeptState'
import { SignDrawing } from '../drawing/SignDrawing'
import { Problem } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './OutcomeForm.module.css'

const RESULTS: Answer<SignResult>[] = [
  { value: 'gone', label: 'Gone', tone: 'good' },
  { value: 'better', label: 'Better', tone: 'good' },
  { value: 'same', label: 'Same', tone: 'neutral' },
  { value: 'worse', label: 'Worse', tone: 'bad' },
]
/** Whether a side effect came; null: not looked. */
const CAME: Answer<boolean | null>[] = [
  { value: true, label: 'It came', tone: 'bad' },
  { value: false, label: 'Not there', tone: 'absent' },
  { value: null, label: 'Not looked', tone: 'neutral' },
]
const EMPTY: RecordedOutcome = { results: {}, newSigns: [], notThere: [], note: '' }

/** What came of the attempt: every sign seen before, and what is new. Kept while it is being filled in. */
export function OutcomeForm({
  kase,
  attempt,
  busy,
  error,
  onRecord,
  onWithdraw,
}: {
  kase: CaseDetail
  attempt: Attempt
  busy: boolean
  error: unknown
  /** `kept` is called once it is kept: the draft is no longer needed. */
  onRecord: (draft: RecordedOutcome, kept: () => void) => void
  onWithdraw: () => void
}) {
  const [kept, setDraft, forget] = useKeptState(`draft.outcome.${kase.id}.${attempt.number}`, EMPTY)
  const draft = { ...EMPTY, ...kept }
  const seen = signsThat('present', kase.signs)
  const missing = seen.filter((s) => !draft.results[s])
  const watch = asksAfter(attempt, kase.attempts, kase.signs)
  const cameOf = (s: SignId) =>
    draft.newSigns.includes(s) ? true : draft.notThere.includes(s) ? false : null
  const answer = (s: SignId, came: boolean | null) =>
    setDraft((d) => ({
      ...d,
      newSigns: d.newSigns.filter((x) => x !== s).concat(came === true ? [s] : []),
      notThere: d.notThere.filter((x) => x !== s).concat(came === false ? [s] : []),
    }))
  return (
    <div className={ui.stack}>
      <p>Print it, then look: what has become of each sign?</p>
      {seen.map((s) => (
        <fieldset key={s} className={styles.outcome} data-outcome={s}>
          <legend className={ui.visuallyHidden}>{signOf(s).name}</legend>
          <SignDrawing sign={s} width={60} />
          <span className={ui.grow}>{signOf(s).name}</span>
          <Answers
            name={`outcome-${s}`}
            options={RESULTS}
            value={draft.results[s]}
            onAnswer={(r) => setDraft((d) => ({ ...d, results: { ...d.results, [s]: r } }))}
          />
        </fieldset>
      ))}
      {seen.length === 0 && (
        <p className={ui.faint}>No sign was marked before; say below what you see now.</p>
      )}
      {watch.length > 0 && (
        <>
          <p>This change can bring others, or bring back what was cured. Has it?</p>
          {watch.map((s) => (
            <fieldset key={s} className={styles.outcome} data-side-effect={s}>
              <legend className={ui.visuallyHidden}>{signOf(s).name}</legend>
              <SignDrawing sign={s} width={60} />
              <span className={ui.grow}>{signOf(s).name}</span>
              <Answers name={`side-${s}`} options={CAME} value={cameOf(s)} onAnswer={(v) => answer(s, v)} />
            </fieldset>
          ))}
        </>
      )}
      <Select
        mode="multiple"
        aria-label="New signs"
        placeholder="Anything else that is new"
        value={draft.newSigns.filter((s) => !watch.includes(s))}
        onChange={(v: SignId[]) =>
          setDraft((d) => ({ ...d, newSigns: [...d.newSigns.filter((s) => watch.includes(s)), ...v] }))
        }
        options={SIGN_IDS.filter((s) => !watch.includes(s) && kase.signs[s] !== 'present').map((s) => ({
          value: s,
          label: signOf(s).name,
        }))}
        optionFilterProp="label"
      />
      <Input.TextArea
        placeholder="Note"
        aria-label="Note on this attempt"
        rows={1}
        maxLength={2000}
        value={draft.note}
        onChange={(e) => setDraft((d) => ({ ...d, note: e.target.value }))}
      />
      {!!error && <Problem error={error} />}
      <div className={ui.row}>
        <Button
          type="primary"
          loading={busy}
          disabled={missing.length > 0}
          onClick={() => onRecord(draft, forget)}
        >
          Record attempt {attempt.number}
        </Button>
        <Button onClick={onWithdraw}>Take the change back</Button>
        {missing.length > 0 && (
          <span className={clsx(ui.faint, ui.small)}>{missing.length} still to answer.</span>
        )}
      </div>
    </div>
  )
}
