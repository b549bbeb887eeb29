import { Button, InputNumber, Radio, Select } from 'antd'
import { confounded, type BlockedMend, type Proposal } from '@verimend/core/diagnosis'
import {
  digitsOf,
  faultOf,
  machineLimit,
  settingOf,
  type Changes,
  type ChoiceSetting,
  type SettingValue,
} from '@verimend/core/recipe'
import { duration } from '@verimend/core/quantity'
import {
  listed,
  procedureName,
  say,
  settingLabel,
  signNames,
  suspectName,
  valueText,
} from '@verimend/core/words'
import type { Machine } from '@verimend/core/machine'
import { useState } from 'react'
import type { MendChoice } from '@verimend/contract'
import { percent } from '../components/format'
import { Problem } from '../components/states'
import { seenOnPart } from '../parts/whatIf'
import { Link } from 'react-router'
import { Steps } from './Steps'
import type { Filament } from '@verimend/core/material'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './AdvicePanel.module.css'

/** Changes that are made at once at the most: more cannot be told apart. */
const MOST_AT_ONCE = 3

/** One proposed change, others to choose instead, and what is lost when two are made at once. */
export function AdvicePanel({
  proposals,
  blocked = [],
  machine,
  filament,
  printSeconds,
  busy,
  error,
  onAccept,
  wanted = null,
  partId = null,
}: {
  /** A mend that was chosen elsewhere. */
  wanted?: string | null
  /** The kept part the case is about. */
  partId?: string | null
  proposals: Proposal[]
  /** Mends that limits or rules cut away. */
  blocked?: readonly BlockedMend[]
  machine: Machine
  filament?: Filament
  printSeconds: number | null
  busy: boolean
  error: unknown
  onAccept: (mends: MendChoice[]) => void
}) {
  const [chosen, setChosen] = useState<string[]>(wanted ? [wanted] : [])
  const [values, setValues] = useState<Record<string, SettingValue>>({})
  const [side, setSide] = useState(SIDES[0].value)
  const [more, setMore] = useState(false)
  const known = chosen.filter((id) => proposals.some((p) => p.id === id))
  const picked = known.length ? known : proposals.slice(0, 1).map((p) => p.id)
  const pickedProposals = proposals.filter((p) => picked.includes(p.id))
  const warning = confounded(pickedProposals)
  const lead = proposals[0]
  const valueOf = (p: Proposal): SettingValue => (p.kind === 'setting' ? (values[p.id] ?? p.to) : '')
  const faults = new Map(
    pickedProposals.flatMap((p) => {
      const fault = proposalFault(p, valueOf(p), machine)
      return fault ? [[p.id, fault]] : []
    }),
  )
  if (!lead) return <p className={ui.faint}>Nothing to propose yet: mark what you see on the part.</p>
  const shown = proposals.slice(0, more ? 14 : 3)
  // what limits cut away is told of the suspects that stand on the list
  const left = blocked.filter((b) => shown.some((p) => p.suspect === b.suspect || p.also.includes(b.suspect)))
  for (const id of picked) {
    const p = proposals.find((q) => q.id === id)
    if (p && !shown.includes(p)) shown.push(p)
  }
  return (
    <div className={ui.stack}>
      <p>
        Change <strong>one thing</strong>, print again, look again. This one is likeliest to be worth its
        cost.
      </p>
      <ul className={styles.proposals}>
        {shown.map((p) => (
          <li key={p.id} data-picked={picked.includes(p.id) || undefined} data-proposal={p.id}>
            <Radio
              name="mend"
              checked={p.id === picked[0]}
              onChange={() => setChosen([p.id])}
              aria-label={`Choose: ${title(p)}`}
            />
            <div className={ui.grow}>
              <div className={clsx(ui.row, ui.between)}>
                <strong>{title(p)}</strong>
                <span className={clsx(ui.faint, ui.small)}>
                  {suspectName(p.suspect)}, <span className={ui.figure}>{percent(p.probability)}</span>
                  {p.also.length > 0 && <>; also {listed(p.also.map((s) => suspectName(s).toLowerCase()))}</>}
                </span>
              </div>
              {p.kind === 'setting' && (
                <div className={clsx(ui.row, styles.change)}>
                  <span className={clsx(ui.figure, ui.faint)}>{valueText(p.key, p.from)}</span>
                  <span aria-hidden="true">→</span>
                  {typeof p.to === 'number' && picked.includes(p.id) ? (
                    <StepField
                      proposal={p}
                      value={valueOf(p) as number}
                      onChange={(v) => setValues((old) => ({ ...old, [p.id]: v }))}
                    />
                  ) : p.key === 'seamPlace' && picked.includes(p.id) ? (
                    <SeamField
                      from={p.from}
                      place={valueOf(p)}
                      side={side}
                      onPlace={(v) => setValues((old) => ({ ...old, [p.id]: v }))}
                      onSide={setSide}
                    />
                  ) : (
                    <span className={ui.figure}>{valueText(p.key, valueOf(p))}</span>
                  )}
                  {partId && (
                    <Link
                      className={ui.small}
                      to={seenOnPart(partId, {
                        [p.key]: valueOf(p),
                        ...(valueOf(p) === 'turned-away' && { seamDirection: side }),
                      } as Changes)}
                    >
                      See it on the part
                    </Link>
                  )}
                </div>
              )}
              <p className={ui.faint}>{say(p.why)}</p>
              {p.cautions.map((c, i) => (
                <p key={i} className={ui.caution}>
                  {say(c)}
                </p>
              ))}
              {p.watch.length > 0 && picked.includes(p.id) && (
                <p className={ui.small}>Watch for: {signNames(p.watch)}.</p>
              )}
              {p.kind === 'handling' && picked.includes(p.id) && (
                <Steps id={p.procedure} filament={filament} />
              )}
              {faults.has(p.id) && <p className={ui.fault}>{faults.get(p.id)}</p>}
              {p.id !== picked[0] && (
                <AlsoButton
                  name={title(p)}
                  taken={picked.includes(p.id)}
                  full={picked.length >= MOST_AT_ONCE}
                  onTake={() => setChosen([...picked, p.id])}
                  onLeave={() => setChosen(picked.filter((id) => id !== p.id))}
                />
              )}
            </div>
          </li>
        ))}
      </ul>
      {proposals.length > 3 && (
        <button type="button" className={clsx(ui.linkish, ui.faint)} onClick={() => setMore(!more)}>
          {more ? 'Fewer' : `Other mends (${proposals.length - 3} more)`}
        </button>
      )}
      {left.length > 0 && (
        <details className={ui.small}>
          <summary className={ui.faint}>Left out, and why</summary>
          <ul>
            {left.map((b) => (
              <li key={`${b.suspect}${b.key}`}>
                {say(b.why)} <span className={ui.faint}>({suspectName(b.suspect).toLowerCase()})</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      {warning && <p className={clsx(ui.notice, ui.caution)}>{say(warning)} One at a time tells more.</p>}
      {!!error && <Problem error={error} />}
      <div className={ui.row}>
        <Button
          type="primary"
          loading={busy}
          disabled={!picked.length || faults.size > 0}
          onClick={() =>
            onAccept(
              pickedProposals.map((p) =>
                p.kind === 'setting'
                  ? {
                      proposal: p.id,
                      from: p.from,
                      to: valueOf(p),
                      ...(valueOf(p) === 'turned-away' && { seamDirection: side }),
                    }
                  : {
                      proposal: p.id,
                      asHandling: p.procedure,
                      ...(p.departs && { departs: [...p.departs] }),
                    },
              ),
            )
          }
        >
          {pickedProposals.some((p) => p.kind === 'setting')
            ? 'Change it and open an attempt'
            : 'I will do this'}
        </Button>
        {printSeconds !== null && (
          <span className={clsx(ui.faint, ui.small)}>
            Printing it again takes about {duration(printSeconds)}.
          </span>
        )}
      </div>
    </div>
  )
}

/** A second change is never made by the way: it is asked for by name. */
function AlsoButton({
  name,
  taken,
  full,
  onTake,
  onLeave,
}: {
  name: string
  taken: boolean
  full: boolean
  onTake: () => void
  onLeave: () => void
}) {
  if (!taken)
    return (
      <button
        type="button"
        className={clsx(ui.linkish, ui.small, ui.faint)}
        disabled={full}
        onClick={onTake}
        aria-label={`And also: ${name}`}
      >
        And also this
      </button>
    )
  return (
    <div className={ui.row}>
      <span className={clsx(ui.tag, ui.caution)}>at the same time</span>
      <Button size="small" type="text" onClick={onLeave} aria-label={`Leave out: ${name}`}>
        Leave it out
      </Button>
    </div>
  )
}

const title = (p: Proposal) => (p.kind === 'setting' ? settingLabel(p.key) : procedureName(p.procedure))

/** What stands against a proposal with the value typed for it. */
function proposalFault(p: Proposal, value: SettingValue, machine: Machine): string | null {
  if (p.kind !== 'setting') return null
  const fault = faultOf(p.key, value)
  if (fault) return say(fault)
  const limit = machineLimit(p.key, machine)
  if (typeof value === 'number' && limit !== undefined && value > limit)
    return `${machine.name} goes up to ${limit}.`
  return value === p.from ? 'That is the value it has already.' : null
}

/** Sides a seam can be turned to, in degrees as the bed is seen from above. */
const SIDES = [
  { value: 90, label: 'back' },
  { value: 270, label: 'front' },
  { value: 180, label: 'left' },
  { value: 0, label: 'right' },
]

/** Where the seam is to go: a place, and the side it faces when it is turned away. */
function SeamField({
  from,
  place,
  side,
  onPlace,
  onSide,
}: {
  from: SettingValue
  place: SettingValue
  side: number
  onPlace: (place: SettingValue) => void
  onSide: (side: number) => void
}) {
  const { choices } = settingOf('seamPlace') as ChoiceSetting
  return (
    <>
      <Select
        size="small"
        aria-label="Where the seam is to go"
        value={String(place)}
        onChange={onPlace}
        options={choices.filter((c) => c.value !== from)}
        style={{ width: 170 }}
      />
      {place === 'turned-away' && (
        <Select
          size="small"
          aria-label="Side the seam faces"
          value={side}
          onChange={onSide}
          options={SIDES}
          style={{ width: 100 }}
        />
      )}
    </>
  )
}

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
