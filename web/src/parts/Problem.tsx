import { Button } from 'antd'
import type { ReactNode } from 'react'

/** An error in one sentence, with a way on. */
export function Problem({ error, again }: { error: unknown; again?: () => void }) {
  const text = error instanceof Error ? error.message : 'Something went wrong.'
  return (
    <div className="notice fault row between" role="alert">
      <span className="wrap">{text}</span>
      {again && (
        <Button size="small" onClick={again}>
          Try again
        </Button>
      )}
    </div>
  )
}

/** What a screen shows while its data is on the way, failed, or there. */
export function Loaded<T>({
  query,
  children,
}: {
  query: { data: T | undefined; error: unknown; isPending: boolean; refetch: () => unknown }
  children: (data: T) => ReactNode
}) {
  if (query.data !== undefined) return <>{children(query.data)}</>
  if (query.error) return <Problem error={query.error} again={() => void query.refetch()} />
  return (
    <div className="waiting" role="status">
      <span />
      <span />
      <span />
      <i className="visually-hidden">Loading</i>
    </div>
  )
}

/** An empty state that says what to do next. */
export function Empty({ children, action }: { children: ReactNode; action?: ReactNode }) {
  return (
    <div className="empty">
      <div>{children}</div>
      {action}
    </div>
  )
}
