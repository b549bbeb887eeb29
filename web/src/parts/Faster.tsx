import { Button, Checkbox } from 'antd'
import { chosenFor, type FasterChange } from '@verimend/core/casework'
import { FAMILIES_OF_FAULT } from '@verimend/core/knowledge'
import { duration, figure, quantity } from '@verimend/core/quantity'
import { keysOf, recipeWith, type Changes, type RecipeValues } from '@verimend/core/recipe'
import { bareText, featureLabel, settingLabel, valueText } from '@verimend/core/words'
import { useCallback, useState } from 'react'
import { useSearchParams } from 'react-router'
import { percent } from '../components/format'
import type { FasterAnswer, PlanAsk } from '../workers/part.worker'
import type { PartWork } from './partWork'
import { Older } from './Older'
import { useLookedFor } from './usePartWork'
import { Working } from './Working'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Shares of the time that may be asked for. */
const SHARES = [0.15, 0.3, 0.5]

/** Where the minutes of a part go, and what would save some of them for what loss; asked for, because each way costs a plan. */
export function Faster({
  work,
  ask,
  onTry,
}: {
  work: PartWork
  ask: PlanAsk
  onTry: (changes: Changes) => void
}) {
  // who comes from a recipe has asked for it already
  const [wanted] = useSearchParams()
  const { asked, of, older, look } = useLookedFor(work, 'faster', ask, wanted.has('faster'))
  const comes = useCallback(
    (section: HTMLElement | null) => {
      if (wanted.has('faster')) section?.scrollIntoView({ block: 'center' })
    },
    [wanted],
  )
  return (
    <section className={clsx(ui.sheet, ui.stack)} ref={comes} aria-label="Print it faster" style={{ gap: 8 }}>
      <h2>Print it faster</h2>
      {of === null ? (
        <div className={ui.row}>
          <Button size="small" onClick={look}>
            Look where time can be saved
          </Button>
          <span className={clsx(ui.faint, ui.small)}>
            Each way is planned on this part, within what the hot end melts and the machine can do.
          </span>
        </div>
      ) : (
        <>
          <Working asked={asked} what="Trying what saves time" />
          {older && !asked.pending && <Older look={look} />}
          {asked.data && <Ways answer={asked.data} recipe={recipeWith(of.pair, of.own)} onTry={onTry} />}
        </>
      )}
    </section>
  )
}

const idOf = (way: FasterChange) => JSON.stringify(way.changes)

function Ways({
  answer: { minutes, spent, ways },
  recipe,
  onTry,
}: {
  answer: FasterAnswer
  recipe: RecipeValues
  onTry: (changes: Changes) => void
}) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())
  const picked = ways.filter((w) => chosen.has(idOf(w)))
  const left = picked.reduce((share, w) => share * (1 - w.minutes / minutes), 1)
  const known = spent.reduce((sum, s) => sum + s.minutes, 0)
  const set = (list: readonly FasterChange[]) => setChosen(new Set(list.map((w) => idOf(w))))
  return (
    <>
      <p className={ui.small}>
        {duration(minutes * 60)} go to{' '}
        {[
          ...spent
            .slice(0, 4)
            .map((s) => `${featureLabel(s.feature).toLowerCase()} ${percent(s.minutes / minutes)}`),
          `everything else ${percent(Math.max(0, 1 - spent.slice(0, 4).reduce((sum, s) => sum + s.minutes, 0) / minutes))}`,
        ].join(', ')}
        .{known < minutes && ' Everything else includes travel and waiting.'}
      </p>
      {ways.length === 0 ? (
        <p className={ui.faint}>No single change saves 1 % of the time within what this machine can do.</p>
      ) : (
        <>
          <div className={ui.row}>
            <span className={ui.small}>Choose for me:</span>
            {SHARES.map((share) => (
              <Button key={share} size="small" onClick={() => set(chosenFor(ways, minutes, share))}>
                {figure(share * 100, 0)} % less time
              </Button>
            ))}
          </div>
          <ul className={ui.bites}>
            {ways.map((w) => (
              <li key={idOf(w)} data-faster={keysOf(w.changes).join()}>
                <Checkbox
                  checked={picked.includes(w)}
                  onChange={(e) => {
                    const others = picked.filter((p) => p !== w && !sameSetting(p, w))
                    set(e.target.checked ? [...others, w] : others)
                  }}
                >
                  {keysOf(w.changes)
                    .map(
                      (k) =>
                        `${settingLabel(k)} ${bareText(k, recipe[k].value)} → ${valueText(k, w.changes[k]!)}`,
                    )
                    .join(', ')}
                </Checkbox>
                <span className={clsx(ui.faint, ui.small)}>
                  Saves {quantity(w.minutes, 'min', 1)} ({percent(w.minutes / minutes)}).{' '}
                  {w.weaker > 0.01 && `The part is ${percent(w.weaker)} less stiff. `}
                  {w.risk
                    ? `${FAMILIES_OF_FAULT.find((f) => f.id === w.risk!.family)!.label}: ${percent(w.risk.before)} → ${percent(w.risk.after)}.`
                    : 'No fault becomes likelier.'}
                </span>
              </li>
            ))}
          </ul>
          <div className={ui.row}>
            <Button
              type="primary"
              size="small"
              disabled={!picked.length}
              onClick={() => onTry(Object.assign({}, ...picked.map((w) => w.changes)) as Changes)}
            >
              See it on the part
            </Button>
            <span className={clsx(ui.faint, ui.small)} role="status">
              {picked.length
                ? `About ${duration(minutes * 60 * left)} instead of ${duration(minutes * 60)}, if the savings add up.`
                : 'Choose one or more.'}
            </span>
          </div>
        </>
      )}
    </>
  )
}

/** Two ways that change the same setting cannot both be taken. */
const sameSetting = (a: FasterChange, b: FasterChange) => keysOf(a.changes).some((k) => k in b.changes)
