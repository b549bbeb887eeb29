import { lookName, say } from '@verimend/core/words'
import { POLICY_IDS, policyFor, policyOf } from '@verimend/core/recipe'
import { checkOrTrial } from '@verimend/core/knowledge'
import type { Filament } from '@verimend/core/material'
import type { Machine } from '@verimend/core/machine'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Questions on which practice disagrees, with the side this pair falls on and what would decide. */
export function Policies({ machine, filament }: { machine: Machine; filament: Filament }) {
  const arising = POLICY_IDS.flatMap((id) => {
    const verdict = policyFor(id, machine, filament)
    return verdict ? [{ id, policy: policyOf(id), verdict }] : []
  })
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Where practice disagrees">
      <h2>Where practice disagrees</h2>
      {arising.map(({ id, policy: { question, sides, decides, by }, verdict: { side, because } }) => (
        <details key={id}>
          <summary>
            {question}: <strong>{side === null ? 'in the middle' : sides[side]}</strong>
          </summary>
          <p className={clsx(ui.faint, ui.small)}>{say(because)}</p>
          <p className={clsx(ui.faint, ui.small)}>
            {side === null
              ? `One side: ${sides[0]}. The other: ${sides[1]}.`
              : `Others: ${sides[side === 0 ? 1 : 0]}.`}{' '}
            What decides: {decides} {lookName(by)} settles it in {checkOrTrial(by).minutes} min.
          </p>
        </details>
      ))}
    </section>
  )
}
