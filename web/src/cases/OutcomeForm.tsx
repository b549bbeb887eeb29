import { Button, Input, Select } from 'antd'
import type { Attempt, CaseDetail } from '@verimend/contract'
import { SIGN_IDS, asksAfter, signOf, type SignId, type SignResult, type SignResults } from '@verimend/core'
import { useEffect, useState } from 'react'
import { SignDrawing } from '../drawings/SignDrawing'
import { Problem } from '../parts/Problem'

const RESULTS: { value: SignResult; label: string }[] = [
  { value: 'gone', label: 'Gone' },
  { value: 'better', label: 'Better' },
  { value: 'same', label: 'Same' },
  { value: 'worse', label: 'Worse' },
]
interface Draft {
  results: SignResults
  newSigns: SignId[]
  notThere: SignId[]
  note: string
}
const EMPTY: Draft = { results: {}, newSigns: [], notThere: [], note: '' }

/** What came of the attempt: every sign seen before, and what is new. Kept while it is being filled in. */
export function OutcomeForm({
  c,
  attempt,
  busy,
  error,
  onRecord,
  onWithdraw,
}: {
  c: CaseDetail
  attempt: Attempt
  busy: boolean
  error: unknown
  /** `kept` is called once it is kept: the draft is no longer needed. */
  onRecord: (draft: Draft, kept: () => void) => void
  onWithdraw: () => void
}) {
  const key = `draft.outcome.${c.id}.${attempt.number}`
  const [draft, setDraft] = useState<Draft>(() => {
    try {
      return { ...EMPTY, ...(JSON.parse(sessionStorage.getItem(key) ?? '{}') as Partial<Draft>) }
    } catch {
      return EMPTY
    }
  })
  useEffect(() => sessionStorage.setItem(key, JSON.stringify(draft)), [draft, key])
  const seen = (Object.keys(c.signs) as SignId[]).filter((s) => c.signs[s] === 'present')
  const missing = seen.filter((s) => !draft.results[s])
  const watch = asksAfter(attempt, c.attempts, c.signs)
  const answerOf = (s: SignId) =>
    draft.newSigns.includes(s) ? 'came' : draft.notThere.includes(s) ? 'not' : null
  const answer = (s: SignId, came: boolean | null) =>
    setDraft((d) => ({
      ...d,
      newSigns: d.newSigns.filter((x) => x !== s).concat(came === true ? [s] : []),
      notThere: d.notThere.filter((x) => x !== s).concat(came === false ? [s] : []),
    }))
  return (
    <div className="stack">
      <p>Print it, then look: what has become of each sign?</p>
      {seen.map((s) => (
        <fieldset key={s} className="outcome" data-outcome={s}>
          <legend className="visually-hidden">{signOf(s).name}</legend>
          <SignDrawing sign={s} width={60} />
          <span className="grow">{signOf(s).name}</span>
          <span className="answers">
            {RESULTS.map((r) => (
              <label key={r.value} className={draft.results[s] === r.value ? `on ${r.value}` : ''}>
                <input
                  type="radio"
                  className="visually-hidden"
                  name={`outcome-${s}`}
                  checked={draft.results[s] === r.value}
                  onChange={() => setDraft((d) => ({ ...d, results: { ...d.results, [s]: r.value } }))}
                />
                {r.label}
              </label>
            ))}
          </span>
        </fieldset>
      ))}
      {seen.length === 0 && <p className="faint">No sign was marked before; say below what you see now.</p>}
      {watch.length > 0 && (
        <>
          <p>This change can bring others, or bring back what was cured. Has it?</p>
          {watch.map((s) => (
            <fieldset key={s} className="outcome" data-side-effect={s}>
              <legend className="visually-hidden">{signOf(s).name}</legend>
              <SignDrawing sign={s} width={60} />
              <span className="grow">{signOf(s).name}</span>
              <span className="answers">
                {(
                  [
                    ['It came', true, 'came', 'worse'],
                    ['Not there', false, 'not', 'absent'],
                    ['Not looked', null, null, 'unlooked'],
                  ] as const
                ).map(([label, came, value, look]) => (
                  <label key={label} className={answerOf(s) === value ? `on ${look}` : ''}>
                    <input
                      type="radio"
                      className="visually-hidden"
                      name={`side-${s}`}
                      checked={answerOf(s) === value}
                      onChange={() => answer(s, came)}
                    />
                    {label}
                  </label>
                ))}
              </span>
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
        options={SIGN_IDS.filter((s) => !watch.includes(s) && c.signs[s] !== 'present').map((s) => ({
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
      <div className="row">
        <Button
          type="primary"
          loading={busy}
          disabled={missing.length > 0}
          onClick={() => {
            onRecord(draft, () => sessionStorage.removeItem(key))
          }}
        >
          Record attempt {attempt.number}
        </Button>
        <Button onClick={onWithdraw}>Take the change back</Button>
        {missing.length > 0 && <span className="faint small">{missing.length} still to answer.</span>}
      </div>
    </div>
  )
}
