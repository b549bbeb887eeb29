import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Segmented, Select } from 'antd'
import { FAMILIES_OF_FAULT, PRIOR, SIGNS, suspectOf, type FaultFamily } from '@verimend/core/knowledge'
import { say, signNames, suspectName } from '@verimend/core/words'
import { deciban, fromDeciban } from '@verimend/core/diagnosis'
import { figure } from '@verimend/core/quantity'
import { learntEvidence } from '@verimend/core/casework'
import type { CaseLesson, CaseSummary } from '@verimend/contract'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { useCases, useLessons, usePairs } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'
import { usePairOf } from '../pairs/usePairOf'
import { ago, percent } from '../components/format'
import { Empty, Loaded } from '../components/states'
import { RemoveButton } from '../components/RemoveButton'
import { useUndo } from '../components/useUndo'
import { Swatch } from '../pairs/PairName'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** All cases, open ones first. */
export default function CaseList() {
  const cases = useCases()
  const pairs = usePairs()
  const pairOf = usePairOf()
  const navigate = useNavigate()
  const client = useQueryClient()
  const undo = useUndo()
  const { pairId } = useCurrentPair()
  const [show, setShow] = useState<'open' | 'closed' | 'all'>('all')
  const [ofPair, setOfPair] = useState<string | undefined>()
  const [family, setFamily] = useState<FaultFamily | undefined>()
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
          onChange={(v) => setShow(v as typeof show)}
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
        <Select
          allowClear
          placeholder="Any pair"
          aria-label="Cases of a pair"
          value={ofPair}
          onChange={setOfPair}
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
          onChange={setFamily}
          style={{ width: 190 }}
          options={FAMILIES_OF_FAULT.map((f) => ({ value: f.id, label: f.label }))}
        />
      </div>
      <Loaded query={cases}>
        {(list) => {
          const shown = list
            .filter((c) => show === 'all' || c.status === show)
            .filter((c) => !ofPair || c.pairId === ofPair)
            .filter((c) => !family || familiesOf(c).includes(family))
            .sort((a, b) => Number(a.status === 'closed') - Number(b.status === 'closed'))
          if (!shown.length)
            return (
              <Empty action={<Button onClick={() => void navigate('/cases/new')}>Begin a case</Button>}>
                {list.length
                  ? 'No case in this state.'
                  : 'No case yet. When a print comes out wrong, begin one: it takes a minute.'}
              </Empty>
            )
          return (
            <>
              <div className={clsx(ui.sheet, ui.tablewrap)}>
                <table className={ui.plain}>
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
                          <td className={clsx(ui.num, ui.figure)}>{c.attempts}</td>
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
              </div>
              <Statistics cases={list} />
              <Learnt pairId={ofPair ?? pairId} />
            </>
          )
        }}
      </Loaded>
    </>
  )
}

/** Kinds of fault a case is about: of what is seen, and of what its cure went for. */
function familiesOf(c: CaseSummary): FaultFamily[] {
  const signs = c.seen.length
    ? c.seen
    : c.causes.flatMap((s) => Object.keys(suspectOf(s).signs) as (keyof typeof SIGNS)[])
  return [...new Set(signs.map((s) => SIGNS[s].family))]
}

/** What closed cases cost, and what worked here, by kind of fault. */
function Statistics({ cases }: { cases: CaseSummary[] }) {
  const closed = cases.filter((c) => c.status === 'closed')
  const rows = FAMILIES_OF_FAULT.map((f) => {
    const own = closed.filter((c) => familiesOf(c).includes(f.id))
    const worked = new Map<string, number>()
    for (const c of own)
      for (const s of c.causes) worked.set(suspectName(s), (worked.get(suspectName(s)) ?? 0) + 1)
    return {
      ...f,
      count: own.length,
      attempts: own.reduce((n, c) => n + c.attempts, 0) / Math.max(1, own.length),
      grams: own.reduce((n, c) => n + c.grams, 0),
      worked: [...worked].sort((a, b) => b[1] - a[1]).slice(0, 3),
    }
  }).filter((r) => r.count)
  if (!rows.length) return null
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
            <tr key={r.id}>
              <td>{r.label}</td>
              <td className={clsx(ui.num, ui.figure)}>{r.count}</td>
              <td className={clsx(ui.num, ui.figure)}>{figure(r.attempts, 1)}</td>
              <td className={clsx(ui.num, ui.figure)}>{r.grams ? figure(r.grams, 0) : '–'}</td>
              <td>
                {r.worked.length
                  ? r.worked.map(([n, k]) => `${n.toLowerCase()}${k > 1 ? ` (${k})` : ''}`).join(', ')
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
        <p className={ui.faint}>Every case is left out: the priors are those of the handbook.</p>
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
