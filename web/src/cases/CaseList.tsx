import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Input, Segmented, Select } from 'antd'
import { FAMILIES_OF_FAULT, PRIOR, suspectOf } from '@verimend/core/knowledge'
import { say, signNames, suspectName } from '@verimend/core/words'
import { deciban, fromDeciban } from '@verimend/core/diagnosis'
import { figure } from '@verimend/core/quantity'
import { learntEvidence } from '@verimend/core/casework'
import type { CaseLesson } from '@verimend/contract'
import { useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { api, type AskedCases } from '../api/client'
import { changed } from '../api/keys'
import { useCases, useCaseStatistics, useLessons, usePairs } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'
import { useKnownPairs, usePairOf } from '../pairs/usePairOf'
import { ago, percent } from '../components/format'
import { Pages } from '../components/Pages'
import { Empty, Loaded, together } from '../components/states'
import { useSettled } from '../components/useSettled'
import { RemoveButton } from '../components/RemoveButton'
import { useUndo } from '../components/useUndo'
import { Swatch } from '../pairs/PairName'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

const SHOWN = ['all', 'open', 'closed'] as const
/** Cases that are shown at once. */
const CASES_ON_PAGE = 50

/** All cases, open ones first. */
export default function CaseList() {
  const pairs = usePairs()
  const { asked: known, pairOf } = useKnownPairs()
  const navigate = useNavigate()
  const client = useQueryClient()
  const undo = useUndo()
  const { pairId } = useCurrentPair()
  const [given, setGiven] = useSearchParams()
  const show = SHOWN.find((s) => s === given.get('show')) ?? 'all'
  const ofPair = given.get('pair') ?? undefined
  const family = FAMILIES_OF_FAULT.find((f) => f.id === given.get('fault'))?.id
  const page = Math.max(1, Math.floor(Number(given.get('page')) || 1))
  const [typed, setTyped] = useState('')
  const search = useSettled(typed.trim(), 250)
  const asked: AskedCases = {
    ...(show !== 'all' && { status: show }),
    ...(ofPair && { pairId: ofPair }),
    ...(family && { family }),
    ...(search && { search }),
    ...(page > 1 && { skip: (page - 1) * CASES_ON_PAGE }),
  }
  const cases = useCases(asked)
  /** Another choice begins at its first page. */
  const choose = (what: 'show' | 'pair' | 'fault' | 'page', value: string | undefined) =>
    setGiven(
      (now) => {
        const next = new URLSearchParams(now)
        next.delete('page')
        if (value) next.set(what, value)
        else next.delete(what)
        return next
      },
      { replace: what !== 'page' },
    )
  const refresh = () => void changed.cases(client)
  const restore = useMutation({ mutationFn: api.cases.restore, onSuccess: refresh })
  const remove = useMutation({
    mutationFn: api.cases.remove,
    onSuccess: (c) => {
      refresh()
      undo(`The case “${c.part}” is put away.`, () => restore.mutate(c.id))
    },
  })
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Cases</h1>
        <span className={ui.grow} />
        <Segmented
          value={show}
          onChange={(v) => choose('show', v === 'all' ? undefined : v)}
          options={[
            { value: 'all', label: 'All' },
            { value: 'open', label: 'Open' },
            { value: 'closed', label: 'Closed' },
          ]}
        />
        <Button type="primary" onClick={() => void navigate('/cases/new')}>
          New case
        </Button>
      </div>
      <div className={clsx(ui.row, ui.toolrow)}>
        <Input
          allowClear
          placeholder="Part"
          aria-label="Cases of a part"
          maxLength={100}
          value={typed}
          onChange={(e) => {
            setTyped(e.target.value)
            if (page > 1) choose('page', undefined)
          }}
          style={{ width: 190 }}
        />
        <Select
          allowClear
          placeholder="Any pair"
          aria-label="Cases of a pair"
          value={ofPair}
          onChange={(v?: string) => choose('pair', v)}
          style={{ width: 230 }}
          options={(pairs.data ?? []).map((p) => ({
            value: p.id,
            label: pairOf(p.id)?.label ?? '',
          }))}
        />
        <Select
          allowClear
          placeholder="Any kind of fault"
          aria-label="Cases of a kind of fault"
          value={family}
          onChange={(v?: string) => choose('fault', v)}
          style={{ width: 190 }}
          options={FAMILIES_OF_FAULT.map((f) => ({ value: f.id, label: f.label }))}
        />
      </div>
      <Loaded query={together(cases, known)}>
        {([{ cases: shown, total }]) => {
          if (!shown.length)
            return (
              <Empty action={<Button onClick={() => void navigate('/cases/new')}>Begin a case</Button>}>
                {Object.keys(asked).length
                  ? 'No case is like that.'
                  : 'No case yet. When a print comes out wrong, begin one: it takes a minute.'}
              </Empty>
            )
          return (
            <>
              <div className={clsx(ui.sheet, ui.tablewrap)}>
                <table className={clsx(ui.plain, ui.stacks)}>
                  <thead>
                    <tr>
                      <th>Part</th>
                      <th>Pair</th>
                      <th>Seen</th>
                      <th className={ui.num}>Attempts</th>
                      <th>State</th>
                      <th>Last touched</th>
                      <th>
                        <span className={ui.visuallyHidden}>Actions</span>
                      </th>
                    </tr>
                  </thead>
                  <tbody>
                    {shown.map((c) => {
                      const known = pairOf(c.pairId)
                      return (
                        <tr key={c.id} data-testid="case">
                          <td>
                            <Link to={`/cases/${c.id}`} className={ui.wrap}>
                              {c.part}
                            </Link>
                          </td>
                          <td>
                            {known ? (
                              <>
                                <Swatch colour={known.filament.colour} /> {known.filament.name} on{' '}
                                {known.machine.name}
                              </>
                            ) : (
                              <span className={ui.faint}>put away</span>
                            )}
                          </td>
                          <td className={ui.faint}>{signNames(c.seen) || '–'}</td>
                          <td className={clsx(ui.num, ui.figure)} data-label="attempts">
                            {c.attempts}
                          </td>
                          <td>
                            <span
                              className={
                                c.status === 'closed'
                                  ? clsx(ui.tag, ui.good)
                                  : c.awaiting
                                    ? clsx(ui.tag, ui.caution)
                                    : clsx(ui.tag, ui.info)
                              }
                            >
                              {c.status === 'closed' ? 'closed' : c.awaiting ? 'to be looked at' : 'open'}
                            </span>
                          </td>
                          <td className={ui.faint}>{ago(c.updatedAt)}</td>
                          <td className={ui.num}>
                            <RemoveButton what={c.part} onClick={() => remove.mutate(c.id)} />
                          </td>
                        </tr>
                      )
                    })}
                  </tbody>
                </table>
                <Pages
                  total={total}
                  size={CASES_ON_PAGE}
                  page={page}
                  onChange={(n) => choose('page', n > 1 ? String(n) : undefined)}
                  of="cases"
                />
              </div>
              <Statistics />
              <Learnt pairId={ofPair ?? pairId} />
            </>
          )
        }}
      </Loaded>
    </>
  )
}

/** What closed cases cost, and what worked here, by kind of fault. */
function Statistics() {
  const rows = useCaseStatistics().data
  if (!rows?.length) return null
  return (
    <section className={clsx(ui.sheet, ui.stack)} style={{ marginTop: 14 }} aria-label="What worked here">
      <h2>What worked here</h2>
      <table className={ui.plain}>
        <thead>
          <tr>
            <th>Kind of fault</th>
            <th className={ui.num}>Closed</th>
            <th className={ui.num}>Attempts each</th>
            <th className={ui.num}>g printed</th>
            <th>Causes that were cured</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.family}>
              <td>{FAMILIES_OF_FAULT.find((f) => f.id === r.family)?.label}</td>
              <td className={clsx(ui.num, ui.figure)}>{r.closed}</td>
              <td className={clsx(ui.num, ui.figure)}>{figure(r.attempts, 1)}</td>
              <td className={clsx(ui.num, ui.figure)}>{r.grams ? figure(r.grams, 0) : '–'}</td>
              <td>
                {r.worked.length
                  ? r.worked
                      .map(({ suspect, count }) => {
                        const name = suspectName(suspect).toLowerCase()
                        return count > 1 ? `${name} (${count})` : name
                      })
                      .join(', ')
                  : 'none found'}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

/** What closed cases moved for a pair: which suspects, by how much, and each case to be left out. */
function Learnt({ pairId }: { pairId: string | null }) {
  const lessons = useLessons(pairId)
  const pairOf = usePairOf()
  const client = useQueryClient()
  const learns = useMutation({
    mutationFn: (v: { id: string; learns: boolean }) => api.cases.learns(v.id, v.learns),
    onSuccess: () => void changed.lessons(client),
  })
  if (!pairId || !lessons.data?.length) return null
  const moved = learntEvidence(lessons.data.filter((l) => l.learns)).sort((a, b) => b.decibans - a.decibans)
  const whose = (l: CaseLesson) =>
    l.samePair ? 'this pair' : l.sameMachine ? 'this machine, counts half' : 'this family, counts half'
  return (
    <section className={clsx(ui.sheet, ui.stack)} style={{ marginTop: 14 }} aria-label="What was learnt">
      <h2>What was learnt for {pairOf(pairId)?.label}</h2>
      {moved.length === 0 && (
        <p className={ui.faint}>Every case is left out, so the starting odds are those of the handbook.</p>
      )}
      {moved.length > 0 && (
        <table className={ui.plain}>
          <thead>
            <tr>
              <th>Suspect</th>
              <th className={ui.num}>Before</th>
              <th className={ui.num}>Now</th>
              <th>Because</th>
            </tr>
          </thead>
          <tbody>
            {moved.map((m) => {
              const prior = PRIOR[suspectOf(m.suspect).prior]
              return (
                <tr key={m.suspect}>
                  <td>{suspectName(m.suspect)}</td>
                  <td className={clsx(ui.num, ui.figure)}>{percent(prior)}</td>
                  <td className={clsx(ui.num, ui.figure)}>
                    {percent(fromDeciban(deciban(prior) + m.decibans))}
                  </td>
                  <td className={ui.faint}>{say(m.reason)}</td>
                </tr>
              )
            })}
          </tbody>
        </table>
      )}
      <ul className={clsx(ui.plainlist, ui.small)}>
        {lessons.data.map((l) => (
          <li key={l.caseId} className={clsx(ui.row, ui.between)}>
            <span>
              <Link to={`/cases/${l.caseId}`}>{l.part}</Link>:{' '}
              {l.causes.map((s) => suspectName(s).toLowerCase()).join(', ')}{' '}
              <span className={ui.faint}>({whose(l)})</span>
            </span>
            <Checkbox
              checked={l.learns}
              onChange={(e) => learns.mutate({ id: l.caseId, learns: e.target.checked })}
            >
              Counts
            </Checkbox>
          </li>
        ))}
      </ul>
    </section>
  )
}
