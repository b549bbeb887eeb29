import { Button, Progress } from 'antd'
import { Problem } from '../components/states'
import type { Asked } from './usePartWork'
import styles from './parts.module.css'

/** Progress of something that is worked out, with a way to end it; or why it could not be. */
export function Working({ asked, what }: { asked: Asked<unknown>; what: string }) {
  if (asked.error) return <Problem error={asked.error} again={asked.again} />
  if (asked.ended)
    return (
      <div className={styles.working} role="status">
        <span>{what} was ended.</span>
        <Button size="small" onClick={asked.again}>
          Go on
        </Button>
      </div>
    )
  if (!asked.pending) return null
  return (
    <div className={styles.working} role="status">
      <span>{what}</span>
      <Progress aria-label="Laying the part" percent={Math.round(asked.share * 100)} size="small" />
      <Button size="small" onClick={asked.cancel}>
        Cancel
      </Button>
    </div>
  )
}
