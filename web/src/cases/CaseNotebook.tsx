import { useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Input, Select } from 'antd'
import type { Attempt, CaseDetail, PairDetail } from '@verimend/contract'
import {
  MAX_SIGNS_SEEN,
  OUTCOME_WORDS,
  SIGNS,
  compareWithRecipe,
  mendText,
  offerSet,
  overallOutcome,
  signOf,
  USUAL_WEIGHTS,
  type CheckResult,
  type CostWeights,
  type SignId,
  type SuspectId,
} from '@verimend/core'
import { useEffect, useState } from 'react'
import { useParams } from 'react-router'
import { ApiProblem, api, type MendChoice } from '../api/client'
import { useCase, useCaseChange, usePair } from '../api/queries'
import { SignDrawing } from '../drawings/SignDrawing'
import { FileDrop } from '../paths/FileDrop'
import { CaseFileEntry, KeepOffer } from './CaseFileEntry'
import { Differences } from '../paths/ReadingView'
import { useCurrentPair } from '../pairs/PairContext'
import { PhotoStrip } from '../photos/PhotoStrip'
import { readingContext } from '../pairs/readingContext'
import { ago } from '../parts/format'
import { Loaded, Problem } from '../parts/Problem'
import { useUndo } from '../parts/useUndo'
import type { ReadFile } from '../workers/useReadGcode'
import { AdvicePanel, Steps } from './AdvicePanel'
import { BalancePanel } from './BalancePanel'
import { CompareAttempts } from './CompareAttempts'
import { CheckNotes, NextStep } from './NextStep'
import { OutcomeForm } from './OutcomeForm'
import { SetPanel } from './SetPanel'
import { SignPicker } from './SignPicker'
import { currentFile, useDiagnosis } from './useDiagnosis'

export default function CasePage() {
  const { id = '' } = useParams()
  const query = useCase(id)
  const pair = usePair(query.data?.pairId)
  const { pairId, choose } = useCurrentPair()
  const own = query.data?.pairId
  useEffect(() => {
    if (own && own !== pairId) choose(own) // the strip follows the case
  }, [own, pairId, choose])
  return (
    <Loaded query={query}>
      {(c) => <Loaded query={pair}>{(p) => <Notebook key={c.id} c={c} pair={p} />}</Loaded>}
    </Loaded>
  )
}

function keptWeights(): CostWeights {
  try {
    return { ...USUAL_WEIGHTS, ...(JSON.parse(localStorage.getItem('verimend.weights') ?? '{}') as object) }
  } catch {
    return USUAL_WEIGHTS
  }
}

/** A case, read downwards: seen, told, tried, and what comes next; the balance beside it. */
function Notebook({ c, pair }: { c: CaseDetail; pair: PairDetail }) {
  const [weights, setWeights] = useState<CostWeights>(keptWeights)
  const diagnosis = useDiagnosis(c, pair, weights)
  const [wanted, setWanted] = useState<string | null>(null)
  const undo = useUndo()
  const client = useQueryClient()
  const id = c.id
  const sign = useCaseChange(id, ({ sign: s, state }: { sign: SignId; state: 'present' | 'absent' | null }) =>
    api.cases.sign(id, s, state),
  )
  const check = useCaseChange(
    id,
    (v: { by: CheckResult['by']; results: { suspect: SuspectId; found: boolean | null }[] }) =>
      api.cases.checks(id, v.by, v.results),
  )
  const cannot = useCaseChange(id, (ids: string[]) => api.cases.cannot(id, ids))
  const learns = useCaseChange(id, (v: boolean) => api.cases.learns(id, v))
  const addFile = useCaseChange(id, (f: ReadFile) => api.cases.addFile(id, f))
  const removeFile = useCaseChange(id, (f: string) => api.cases.removeFile(id, f))
  const attempt = useCaseChange(id, (mends: MendChoice[]) => api.cases.attempt(id, pair.current, mends))
  const withdraw = useCaseChange(id, (n: number) => api.cases.withdraw(id, n))
  const record = useCaseChange(id, (v: { number: number } & Parameters<typeof api.cases.record>[2]) =>
    api.cases.record(id, v.number, v),
  )
  const close = useCaseChange(id, (keep: number) => api.cases.close(id, c.rev, keep))
  const reopen = useCaseChange(id, () => api.cases.reopen(id))
  const seen = (Object.keys(c.signs) as SignId[]).filter((s) => c.signs[s] === 'present')
  const absent = (Object.keys(c.signs) as SignId[]).filter((s) => c.signs[s] === 'absent')
  const open = c.attempts.find((a) => a.recordedAt === null)
  const { file, outdated } = currentFile(c)
  const [looking, setLooking] = useState(() => seen.length === 0 && c.attempts.length === 0)
  const closed = c.status === 'closed'
  const [dropped, setDropped] = useState<{ file: File; sha256: string } | null>(null)
  const mark = (s: SignId, state: 'present' | 'absent' | null) => {
    if (state === 'present' && seen.length >= MAX_SIGNS_SEEN) return sign.mutate({ sign: s, state }) // the server says why not
    // shown at once; the answer of the server then takes its place
    client.setQueryData<CaseDetail>(['case', id], (old) => {
      if (!old) return old
      const signs = { ...old.signs }
      if (state === null) delete signs[s]
      else signs[s] = state
      return { ...old, signs }
    })
    sign.mutate(
      { sign: s, state },
      { onError: () => void client.invalidateQueries({ queryKey: ['case', id] }) },
    )
  }
  const refetch = () => void client.invalidateQueries()
  const failed = [
    sign.error,
    check.error,
    cannot.error,
    learns.error,
    addFile.error,
    removeFile.error,
    withdraw.error,
    reopen.error,
  ].find(Boolean)
  return (
    <>
      <Words c={c} />
      <div className="notebook">
        <div className="entries">
          {!!failed && <Problem error={failed} again={refetch} />}
          <Entry
            mark="seen"
            title={c.attempts.length ? 'Signs now' : 'What is there to see'}
            aside={
              !closed &&
              !open && (
                <Button size="small" onClick={() => setLooking(!looking)} data-testid="look">
                  {looking ? 'Done looking' : 'Look at more signs'}
                </Button>
              )
            }
          >
            {!looking && (
              <div className="row seenlist">
                {seen.map((s) => (
                  <span key={s} className="seensign">
                    <SignDrawing sign={s} width={60} />
                    {signOf(s).name}
                  </span>
                ))}
                {seen.length === 0 && (
                  <span className="faint">{closed ? 'Nothing left.' : 'No sign is marked as seen.'}</span>
                )}
                {absent.length > 0 && (
                  <span className="faint">
                    Not there: {absent.map((s) => signOf(s).name.toLowerCase()).join(', ')}.
                  </span>
                )}
              </div>
            )}
            {looking && !closed && (
              <SignPicker
                signs={c.signs}
                onSet={mark}
                start={seen[0] ? SIGNS[seen[0]].family : 'strings'}
                place={c.place}
              />
            )}
          </Entry>

          <Entry mark="photos" title="Photos">
            <PhotoStrip c={c} />
          </Entry>

          <Entry mark="told" title="What the machine was told">
            {c.files.length === 0 && (
              <p className="faint">
                The path file often shows the reason outright. Its reading is kept; the file itself if you
                like.
              </p>
            )}
            {outdated && (
              <p className="notice caution">
                The last file was made before the last change. Drop the new one so that the balance knows what
                is really printed.
              </p>
            )}
            {file && <Differences list={compareWithRecipe(file.reading, pair.version.values)} />}
            {[...c.files].reverse().map((f) => (
              <CaseFileEntry
                key={f.id}
                c={c}
                f={f}
                pair={pair}
                current={f === file}
                onRemove={() =>
                  removeFile.mutate(f.id, {
                    onSuccess: () =>
                      undo(`${f.name} is taken out.`, () =>
                        addFile.mutate({
                          name: f.name,
                          bytes: f.bytes,
                          sha256: f.sha256,
                          reading: f.reading,
                        }),
                      ),
                  })
                }
              />
            ))}
            {!closed && (
              <FileDrop
                context={readingContext(pair)}
                onRead={({ name, bytes: size, sha256, reading, file: f }) => {
                  addFile.mutate({ name, bytes: size, sha256, reading })
                  setDropped(f && { file: f, sha256 })
                }}
                hint="Drop the G-code file that was printed."
              />
            )}
            {dropped && !c.files.find((f) => f.sha256 === dropped.sha256)?.kept && (
              <KeepOffer
                file={dropped.file}
                sha256={dropped.sha256}
                onKept={() => {
                  setDropped(null)
                  void client.invalidateQueries({ queryKey: ['case', id] })
                }}
              />
            )}
          </Entry>

          {c.attempts.map((a) => (
            <AttemptEntry key={a.number} attempt={a}>
              {a === open && !closed && (
                <OutcomeForm
                  c={c}
                  attempt={a}
                  busy={record.isPending}
                  error={record.error}
                  onRecord={(v, kept) => record.mutate({ number: a.number, ...v }, { onSuccess: kept })}
                  onWithdraw={() => withdraw.mutate(a.number)}
                />
              )}
            </AttemptEntry>
          ))}

          {!closed && !open && (seen.length > 0 || c.attempts.length === 0) && (
            <Entry mark="next" title={c.attempts.length ? 'What to try next' : 'What to try first'}>
              {seen.length > 0 && (
                <NextStep
                  advice={diagnosis.plan}
                  cannot={c.cannot}
                  onSign={mark}
                  onCheck={(by, results) => check.mutate({ by, results })}
                  onCannot={(ids) => cannot.mutate(ids)}
                  onMend={setWanted}
                  weights={weights}
                  onWeights={(w) => {
                    setWeights(w)
                    localStorage.setItem('verimend.weights', JSON.stringify(w))
                  }}
                />
              )}
              <SetPanel
                c={c}
                offer={
                  seen.length > 0
                    ? offerSet(diagnosis.balance, diagnosis.proposals, diagnosis.plan, c.signs)
                    : null
                }
              />
              <CheckNotes
                checks={c.checks}
                onUndo={(r) => check.mutate({ by: r.by, results: [{ suspect: r.suspect, found: null }] })}
              />
              <AdvicePanel
                key={wanted ?? 'first'}
                wanted={wanted}
                proposals={seen.length ? diagnosis.proposals : []}
                machine={pair.machine.machine}
                printSeconds={file?.reading.seconds ?? null}
                busy={attempt.isPending}
                error={attempt.error}
                onAccept={(m) =>
                  attempt.mutate(m, {
                    onError: (e) => e instanceof ApiProblem && e.problem.status === 409 && refetch(),
                  })
                }
              />
            </Entry>
          )}

          {!closed && !open && c.attempts.length > 0 && (
            <CloseEntry
              c={c}
              pair={pair}
              solved={seen.length === 0}
              busy={close.isPending}
              error={close.error}
              onClose={(v) => close.mutate(v)}
            />
          )}
          {c.attempts.some((a) => a.recordedAt) && (
            <details className="entry" data-entry="compare">
              <summary>Compare any two prints of this case</summary>
              <CompareAttempts key={c.rev} c={c} pair={pair} />
            </details>
          )}
          {closed && (
            <Entry mark="kept" title="Closed">
              <p className="wrap">{c.learnt}</p>
              <p>
                Kept: <strong>version {c.keptVersion}</strong> of this recipe.
              </p>
              <div className="row">
                <Button size="small" onClick={() => reopen.mutate(undefined as never)}>
                  Reopen
                </Button>
                <a href={`/api/cases/${id}/summary.md`} download>
                  Summary as Markdown
                </a>
                <a href={`/api/cases/${id}/summary.pdf`} download>
                  Summary as PDF
                </a>
                <Checkbox checked={c.learns} onChange={(e) => learns.mutate(e.target.checked)}>
                  Learn from this case
                </Checkbox>
              </div>
            </Entry>
          )}
        </div>
        <aside className="side">
          {closed && diagnosis.balance.seen === 0 ? (
            <section className="sheet stack" aria-label="The balance">
              <h2>The balance</h2>
              <p className="faint">Nothing is left to explain.</p>
            </section>
          ) : (
            <BalancePanel balance={diagnosis.balance} />
          )}
        </aside>
      </div>
    </>
  )
}

/** Part, state and note; both are kept as they are typed. */
function Words({ c }: { c: CaseDetail }) {
  const [part, setPart] = useState(c.part)
  const [note, setNote] = useState(c.note)
  const client = useQueryClient()
  const save = useCaseChange(c.id, (v: { part: string; note: string }) =>
    api.cases.update(c.id, { part: c.part, note: c.note }, v.part, v.note),
  )
  const conflict =
    save.error instanceof ApiProblem && save.error.problem.status === 409
      ? (save.error.problem.current as { part: string; note: string })
      : null
  const keep = () => {
    if (part.trim() && (part !== c.part || note !== c.note)) save.mutate({ part, note })
  }
  return (
    <div className="stack" style={{ marginBottom: 14, gap: 6 }}>
      <div className="pagehead" style={{ margin: 0 }}>
        <Input
          className="titlefield"
          aria-label="The part"
          value={part}
          maxLength={120}
          onChange={(e) => setPart(e.target.value)}
          onBlur={keep}
          onPressEnter={(e) => e.currentTarget.blur()}
          variant="borderless"
        />
        <span className={c.status === 'closed' ? 'tag good' : 'tag info'}>{c.status}</span>
        <span className="faint">begun {ago(c.createdAt)}</span>
      </div>
      <Input.TextArea
        aria-label="Note on the case"
        placeholder="Note: when it began, what was different that day"
        value={note}
        maxLength={4000}
        rows={1}
        onChange={(e) => setNote(e.target.value)}
        onBlur={keep}
        variant="borderless"
        className="notefield"
      />
      {conflict ? (
        <div className="notice caution row between" role="alert">
          <span className="wrap">
            Changed in another window to “{conflict.part}”{conflict.note ? `, “${conflict.note}”` : ''}. Yours
            is kept here.
          </span>
          <Button
            size="small"
            onClick={() =>
              void client.invalidateQueries({ queryKey: ['case', c.id] }).then(() => save.reset())
            }
          >
            Save mine over it
          </Button>
        </div>
      ) : (
        !!save.error && <Problem error={save.error} again={keep} />
      )}
    </div>
  )
}

function Entry({
  mark,
  title,
  aside,
  children,
}: {
  mark: string
  title: string
  aside?: React.ReactNode
  children: React.ReactNode
}) {
  return (
    <section className={`entry ${mark}`} data-entry={mark}>
      <div className="row between">
        <h2>{title}</h2>
        {aside}
      </div>
      {children}
    </section>
  )
}

function AttemptEntry({ attempt: a, children }: { attempt: Attempt; children?: React.ReactNode }) {
  const outcome = overallOutcome(a)
  return (
    <section className="entry attempt" data-entry={`attempt-${a.number}`}>
      <div className="row between">
        <h2>
          Attempt {a.number}{' '}
          {outcome && (
            <span className={`tag ${outcome === 'gone' || outcome === 'better' ? 'good' : 'fault'}`}>
              {OUTCOME_WORDS[outcome]}
            </span>
          )}
          {!outcome && <span className="tag caution">to be looked at</span>}
        </h2>
        <span className="faint">{ago(a.createdAt)}</span>
      </div>
      <ul className="plainlist">
        {a.mends.map((m) => (
          <li key={m.proposal}>
            <strong>{mendText(m)}</strong> <span className="faint">{m.why}</span>
            {m.kind === 'handling' && !a.recordedAt && <Steps id={m.procedure} />}
          </li>
        ))}
      </ul>
      <p className="faint small">
        {a.toVersion !== a.fromVersion
          ? `Recipe version ${a.fromVersion} → ${a.toVersion}.`
          : `Recipe stays at version ${a.toVersion}.`}
      </p>
      {a.results && (
        <p>
          {(Object.entries(a.results) as [SignId, string][]).map(([s, r]) => (
            <span key={s} className="resulttag">
              {signOf(s).name} <span className={r === 'gone' || r === 'better' ? 'good' : 'fault'}>{r}</span>
            </span>
          ))}
          {a.newSigns.map((s) => (
            <span key={s} className="resulttag">
              {signOf(s).name} <span className="fault">new</span>
            </span>
          ))}
        </p>
      )}
      {a.note && <p className="wrap">“{a.note}”</p>}
      {children}
    </section>
  )
}

function CloseEntry({
  c,
  pair,
  solved,
  busy,
  error,
  onClose,
}: {
  c: CaseDetail
  pair: PairDetail
  solved: boolean
  busy: boolean
  error: unknown
  onClose: (keep: number) => void
}) {
  const versions = [
    ...new Set([pair.current, ...c.attempts.flatMap((a) => [a.toVersion, a.fromVersion]), c.startVersion]),
  ].sort((a, b) => b - a)
  const [keep, setKeep] = useState<number | null>(null)
  const chosen = keep ?? pair.current
  return (
    <Entry mark="close" title={solved ? 'All signs are gone' : 'Close it as it is'}>
      <div className="row">
        <span>Keep</span>
        <Select
          value={chosen}
          onChange={setKeep}
          aria-label="Version to keep"
          style={{ minWidth: 170 }}
          options={versions.map((v) => ({
            value: v,
            label:
              v === pair.current
                ? `version ${v} (now)`
                : v === c.startVersion
                  ? `version ${v} (before the case)`
                  : `version ${v}`,
          }))}
        />
        <Button type={solved ? 'primary' : 'default'} loading={busy} onClick={() => onClose(chosen)}>
          Close the case
        </Button>
      </div>
      {!!error && <Problem error={error} />}
    </Entry>
  )
}
