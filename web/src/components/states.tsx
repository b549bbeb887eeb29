import { Button } from 'antd'
import type { ReactNode } from 'react'
import { clsx } from 'clsx'
import ui from './ui.module.css'
import styles from './states.module.css'

/** An error in one sentence, with a way on. */
export function Problem({ error, again }: { error: unknown; again?: () => void }) {
  const text = error instanceof Error ? error.message : 'Something went wrong.'
  return (
    <div className={clsx(ui.notice, ui.fault, ui.row, ui.between)} role="alert">
      <span className={ui.wrap}>{text}</span>
      {again && (
        <Button size="small" onClick={again}>
          Try again
        </Button>
      )}
    </div>
  )
}

/** What is asked for, whether it is there or not. */
interface Query<T> {
  data: T | undefined
  error: unknown
  refetch: () => unknown
}

/** Two queries as one: there when both are, so that what comes later pushes nothing away. */
export const together = <A, B>(a: Query<A>, b: Query<B>): Query<readonly [A, B]> => ({
  data: a.data !== undefined && b.data !== undefined ? [a.data, b.data] : undefined,
  error: a.error ?? b.error,
  refetch: () => [a, b].forEach((q) => q.error && q.refetch()),
})

/** What a screen shows while its data is on the way, failed, or there. */
export function Loaded<T>({ query, children }: { query: Query<T>; children: (data: T) => ReactNode }) {
  if (query.data !== undefined) return <>{children(query.data)}</>
  if (query.error) return <Problem error={query.error} again={() => void query.refetch()} />
  return <Waiting />
}

/**
 * Something is on its way.
 * @param tall room that is held for it, px, so that nothing jumps when it comes
 */
export function Waiting({ tall }: { tall?: number }) {
  return (
    <div className={styles.waiting} role="status" style={{ minHeight: tall }}>
      <span />
      <span />
      <span />
      <i className={ui.visuallyHidden}>Loading</i>
    </div>
  )
}

/** An empty state that says what to do next. */
export function Empty({ children, action }: { children: ReactNode; action?: ReactNode }) {
  return (
    <div className={styles.empty}>
      <div>{children}</div>
      {action}
    </div>
  )
}
