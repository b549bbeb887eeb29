import { Button, Checkbox, InputNumber } from 'antd'
import {
  confounded,
  digitsOf,
  duration,
  faultOf,
  machineLimit,
  procedureOf,
  settingOf,
  signOf,
  valueText,
  type Machine,
  type Proposal,
  type SettingValue,
} from '@verimend/core'
import { useState } from 'react'
import type { MendChoice } from '../api/client'
import { percent } from '../parts/format'
import { Problem } from '../parts/Problem'

/** One proposed change, others to choose from, and what is lost when two are made at once. */
export function AdvicePanel({
  proposals,
  machine,
  printSeconds,
  busy,
  error,
  onAccept,
  wanted = null,
}: {
  /** A mend that was chosen elsewhere. */
  wanted?: string | null
  proposals: Proposal[]
  machine: Machine
  printSeconds: number | null
  busy: boolean
  error: unknown
  onAccept: (mends: MendChoice[]) => void
}) {
  const [chosen, setChosen] = useState<string[]>(wanted ? [wanted] : [])
  const [values, setValues] = useState<Record<string, number>>({})
  const [more, setMore] = useState(false)
  const known = chosen.filter((id) => proposals.some((p) => p.id === id))
  const picked = known.length ? known : proposals.slice(0, 1).map((p) => p.id)
  const pickedProposals = proposals.filter((p) => picked.includes(p.id))
  const warning = confounded(pickedProposals)
  const lead = proposals[0]
  const toggle = (id: string) =>
    setChosen(() => {
      const now = picked
      return now.includes(id) ? now.filter((x) => x !== id) : [...now, id].slice(-3)
    })
  const valueOf = (p: Proposal): SettingValue => (p.kind === 'setting' ? (values[p.id] ?? p.to) : '')
  const faults = pickedProposals.flatMap((p) => {
    if (p.kind !== 'setting') return []
    const v = valueOf(p)
    const limit = machineLimit(p.key, machine)
    const fault =
      faultOf(p.key, v) ??
      (typeof v === 'number' && limit !== undefined && v > limit
        ? `${machine.name} goes up to ${limit}.`
        : v === p.from
          ? 'That is the value it has already.'
          : null)
    return fault ? [{ id: p.id, fault }] : []
  })
  if (!lead) return <p className="faint">Nothing to propose yet: mark what you see on the part.</p>
  const shown = proposals.slice(0, more ? 14 : 3)
  for (const id of picked) {
    const p = proposals.find((q) => q.id === id)
    if (p && !shown.includes(p)) shown.push(p)
  }
  return (
    <div className="stack">
      <p>
        Change <strong>one thing</strong>, print again, look again. This one is likeliest to be worth its
        cost.
      </p>
      <ul className="proposals">
        {shown.map((p) => (
          <li key={p.id} className={picked.includes(p.id) ? 'picked' : ''} data-proposal={p.id}>
            <Checkbox
              checked={picked.includes(p.id)}
              onChange={() => toggle(p.id)}
              aria-label={`Choose: ${title(p)}`}
            />
            <div className="grow">
              <div className="row between">
                <strong>{title(p)}</strong>
                <span className="faint small">
                  {p.suspectName}, <span className="figure">{percent(p.probability)}</span>
                </span>
              </div>
              {p.kind === 'setting' && (
                <div className="row change">
                  <span className="figure faint">{valueText(p.key, p.from)}</span>
                  <span aria-hidden="true">→</span>
                  {typeof p.to === 'number' && picked.includes(p.id) ? (
                    <StepField
                      proposal={p}
                      value={valueOf(p) as number}
                      onChange={(v) => setValues((old) => ({ ...old, [p.id]: v }))}
                    />
                  ) : (
                    <span className="figure">{valueText(p.key, valueOf(p))}</span>
                  )}
                </div>
              )}
              <p className="faint">{p.why}</p>
              {p.caution && <p className="caution">{p.caution}</p>}
              {p.watch.length > 0 && picked.includes(p.id) && (
                <p className="small">
                  Watch for: {p.watch.map((s) => signOf(s).name.toLowerCase()).join(', ')}.
                </p>
              )}
              {p.kind === 'handling' && picked.includes(p.id) && <Steps id={p.procedure} />}
              {faults.find((f) => f.id === p.id) && (
                <p className="fault">{faults.find((f) => f.id === p.id)!.fault}</p>
              )}
            </div>
          </li>
        ))}
      </ul>
      {proposals.length > 3 && (
        <button type="button" className="linkish faint" onClick={() => setMore(!more)}>
          {more ? 'Fewer' : `Other mends (${proposals.length - 3} more)`}
        </button>
      )}
      {warning && <p className="notice caution">{warning} One at a time tells more.</p>}
      {!!error && <Problem error={error} />}
      <div className="row">
        <Button
          type="primary"
          loading={busy}
          disabled={!picked.length || faults.length > 0}
          onClick={() =>
            onAccept(
              pickedProposals.map((p) =>
                p.kind === 'setting'
                  ? { proposal: p.id, to: valueOf(p) }
                  : { proposal: p.id, asHandling: p.procedure },
              ),
            )
          }
        >
          {pickedProposals.some((p) => p.kind === 'setting')
            ? 'Change it and open an attempt'
            : 'I will do this'}
        </Button>
        {printSeconds !== null && (
          <span className="faint small">Printing it again takes about {duration(printSeconds)}.</span>
        )}
      </div>
    </div>
  )
}

const title = (p: Proposal) => (p.kind === 'setting' ? settingOf(p.key).label : p.name)

function StepField({
  proposal,
  value,
  onChange,
}: {
  proposal: Proposal & { kind: 'setting' }
  value: number
  onChange: (v: number) => void
}) {
  const s = settingOf(proposal.key)
  if (s.kind !== 'number') return null
  return (
    <InputNumber
      size="small"
      value={value}
      step={s.step}
      precision={digitsOf(s)}
      suffix={s.unit}
      aria-label={`New ${s.label}`}
      onChange={(v) => typeof v === 'number' && onChange(v)}
      style={{ width: 140 }}
    />
  )
}

/** A procedure in short. */
export function Steps({ id }: { id: Parameters<typeof procedureOf>[0] }) {
  const p = procedureOf(id)
  return (
    <div className="steps">
      {p.tools.length > 0 && <p className="small faint">You need: {p.tools.join(', ')}.</p>}
      <ol>
        {p.steps.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ol>
      {p.cautions.map((c) => (
        <p key={c} className="caution small">
          {c}
        </p>
      ))}
      <p className="small faint">Done when: {p.stop}</p>
    </div>
  )
}
