import { procedureOf, type ProcedureId } from '@verimend/core/knowledge'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Steps.module.css'

/** A procedure in short. */
export function Steps({ id }: { id: ProcedureId }) {
  const { tools, steps, cautions, stop } = procedureOf(id)
  return (
    <div className={styles.steps}>
      {tools.length > 0 && <p className={clsx(ui.small, ui.faint)}>You need: {tools.join(', ')}.</p>}
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
