import { Button } from 'antd'
import { FAMILIES_OF_FAULT } from '@verimend/core/knowledge'
import { figure } from '@verimend/core/quantity'
import type { Changes } from '@verimend/core/recipe'
import { bareText, lower, settingLabel, suspectName } from '@verimend/core/words'
import { percent } from '../components/format'
import type { PlanAsk } from '../workers/part.worker'
import type { PartWork } from './partWork'
import { Older } from './Older'
import { useLookedFor } from './usePartWork'
import { Working } from './Working'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

const signed = (v: number, digits: number) => `${v < 0 ? '−' : '+'}${figure(Math.abs(v), digits)}`
/** Changes that are shown. */
const MOST = 6

/** Single changes that lower a chance, each planned anew; asked for, because each costs a plan. */
export function Worth({
  work,
  ask,
  onTry,
}: {
  work: PartWork
  ask: PlanAsk
  onTry: (changes: Changes) => void
}) {
  const { asked, of, older, look } = useLookedFor(work, 'worth', ask)
  const list = asked.data
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Changes worth making" style={{ gap: 8 }}>
      <h2>Changes worth making</h2>
      {of === null ? (
        <div className={ui.row}>
          <Button size="small" onClick={look}>
            Look for them
          </Button>
          <span className={clsx(ui.faint, ui.small)}>Each is planned on this part and forecast again.</span>
        </div>
      ) : (
        <>
          <Working asked={asked} what="Trying changes" />
          {older && !asked.pending && <Older look={look} />}
          {list?.length === 0 && <p className={ui.faint}>No single change lowers a chance by much.</p>}
          <ul className={ui.bites}>
            {list?.slice(0, MOST).map((c, i) => (
              <li key={i} data-worth={c.key}>
                <span>
                  {settingLabel(c.key)} {bareText(c.key, c.from)} → {bareText(c.key, c.to)}
                </span>
                <span className={clsx(ui.faint, ui.small)}>
                  {FAMILIES_OF_FAULT.find((f) => f.id === c.family)!.label}: {percent(c.before)} →{' '}
                  {percent(c.after)}, against {lower(suspectName(c.suspect))}. {signed(c.minutes, 1)} min,{' '}
                  {signed(c.grams, 1)} g.
                </span>
                <div>
                  <Button size="small" onClick={() => onTry({ [c.key]: c.to } as Changes)}>
                    See it on the part
                  </Button>
                </div>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  )
}
