import { Button, Checkbox, Select } from 'antd'
import type { CaseDetail, PairDetail } from '@verimend/contract'
import { signsThat } from '@verimend/core/casework'
import type { SignId } from '@verimend/core/knowledge'
import { sayAll, signName, signNames } from '@verimend/core/words'
import { memo, useState } from 'react'
import { api } from '../api/client'
import { Problem } from '../components/states'
import { Entry } from './Entry'
import type { CaseActions } from './useCaseActions'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** The end of a case: which version is kept. */
export const CloseEntry = memo(function CloseEntry({
  kase,
  pair,
  solved,
  busy,
  error,
  onClose,
}: {
  kase: CaseDetail
  pair: PairDetail
  solved: boolean
  busy: boolean
  error: unknown
  onClose: (keep: number) => void
}) {
  const touched = kase.attempts.flatMap((a) => [a.toVersion, a.fromVersion])
  const versions = [...new Set([pair.current, ...touched, kase.startVersion])].sort((a, b) => b - a)
  // versions that a print of this case was looked at with
  const printed = new Set([
    kase.startVersion,
    ...kase.attempts.flatMap((a) => (a.recordedAt ? [a.toVersion] : [])),
  ])
  const [keep, setKeep] = useState<number | null>(null)
  const chosen = keep ?? pair.current
  const nameOf = (version: number) => {
    if (version === pair.current) return `version ${version} (now)`
    return version === kase.startVersion ? `version ${version} (before the case)` : `version ${version}`
  }
  return (
    <Entry kind="close" title={solved ? 'All signs are gone' : 'Close it as it is'}>
      <div className={ui.row}>
        <span>Keep</span>
        <Select
          value={chosen}
          onChange={setKeep}
          aria-label="Version to keep"
          style={{ minWidth: 170 }}
          options={versions.map((v) => ({ value: v, label: nameOf(v) }))}
        />
        <Button type={solved ? 'primary' : 'default'} loading={busy} onClick={() => onClose(chosen)}>
          Close the case
        </Button>
      </div>
      {solved && (
        <p className={ui.faint}>
          One print can hide what is slight. Look at the next part as well: if a sign is back, say so here,
          and the case goes on from where it was.
        </p>
      )}
      {!printed.has(chosen) && (
        <p className={clsx(ui.notice, ui.caution)}>
          Version {chosen} was not printed in this case: nothing shows yet that it is better.
        </p>
      )}
      {!!error && <Problem error={error} />}
    </Entry>
  )
})

/** A closed case: what it taught and what is kept. */
export function ClosedEntry({ kase, actions }: { kase: CaseDetail; actions: CaseActions }) {
  const began = signsThat('present', kase.attempts[0]?.signsBefore ?? kase.signs)
  const gone = began.filter((sign) => kase.signs[sign] !== 'present')
  return (
    <Entry kind="kept" title="Closed">
      {began.length > 0 && <p className={ui.wrap}>It began with: {signNames(began)}.</p>}
      <p className={ui.wrap}>{sayAll(kase.learnt ?? [])}</p>
      <p>
        Kept: <strong>version {kase.keptVersion}</strong> of this recipe.
      </p>
      <div className={ui.row}>
        <Button size="small" onClick={() => actions.reopen([])}>
          Reopen
        </Button>
        <a href={api.cases.summaryHref(kase.id, 'md')} download>
          Summary as Markdown
        </a>
        <a href={api.cases.summaryHref(kase.id, 'pdf')} download>
          Summary as PDF
        </a>
        <Checkbox checked={kase.learns} onChange={(e) => actions.setLearns(e.target.checked)}>
          Learn from this case
        </Checkbox>
      </div>
      {gone.length > 0 && <Returned signs={gone} onBack={actions.reopen} />}
    </Entry>
  )
}

/** Says which signs are back on a later part. */
function Returned({ signs, onBack }: { signs: SignId[]; onBack: (back: SignId[]) => void }) {
  const [back, setBack] = useState<SignId[]>([])
  return (
    <details>
      <summary>It is back on a later part</summary>
      <div className={ui.stack}>
        <Checkbox.Group
          value={back}
          onChange={(chosen) => setBack(chosen)}
          options={signs.map((sign) => ({ value: sign, label: signName(sign) }))}
        />
        <p className={ui.faint}>
          What was changed stays noted as having made it better, and the case goes on from the recipe as it is
          now.
        </p>
        <div className={ui.row}>
          <Button disabled={!back.length} onClick={() => onBack(back)}>
            Take the case up again
          </Button>
        </div>
      </div>
    </details>
  )
}
