import { procedureOf, type ProcedureId } from '@verimend/core/knowledge'
import { dryingOf, type Filament } from '@verimend/core/material'
import { quantity } from '@verimend/core/quantity'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Steps.module.css'

/** At which temperature a roll is dried, and for how long. */
function dryingText(filament: Filament): string {
  const { temperature, hours } = dryingOf(filament)
  return `${quantity(temperature, '°C', 0)} for ${quantity(hours, 'h', 0)}`
}

/** A procedure in short. With a roll, its figures for drying. */
export function Steps({ id, filament }: { id: ProcedureId; filament?: Filament }) {
  const { tools, steps, cautions, stop } = procedureOf(id)
  return (
    <div className={styles.steps}>
      {tools.length > 0 && <p className={clsx(ui.small, ui.faint)}>You need: {tools.join(', ')}.</p>}
      {id === 'dry-filament' && filament && (
        <p>
          {filament.name}: <strong>{dryingText(filament)}</strong>.
        </p>
      )}
      <ol>
        {steps.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ol>
      {cautions.map((c) => (
        <p key={c} className={clsx(ui.caution, ui.small)}>
          {c}
        </p>
      ))}
      <p className={clsx(ui.small, ui.faint)}>Done when: {stop}</p>
    </div>
  )
}
