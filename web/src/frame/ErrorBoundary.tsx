import { Button } from 'antd'
import { useRouteError } from 'react-router'
import { clsx } from 'clsx'
import { useEffect } from 'react'
import { isUnfetched } from '../components/Boundary'
import ui from '../components/ui.module.css'
import { renewal } from './renewal'

/** What is shown when a screen itself fails. */
export function ErrorBoundary() {
  const error = useRouteError()
  const unfetched = isUnfetched(error)
  useEffect(() => {
    if (unfetched) void renewal.look()
  }, [unfetched])
  return (
    <div style={{ padding: 40, maxWidth: 560 }} className={ui.stack}>
      <h1>{unfetched ? 'This screen could not be fetched' : 'This screen has failed'}</h1>
      <p>
        What you entered before is kept.{' '}
        {unfetched ? 'Load it again when there is a connection.' : 'Loading it again usually helps.'}
      </p>
      <p className={clsx(ui.faint, ui.figure, ui.wrap)} style={{ whiteSpace: 'normal' }}>
        {error instanceof Error ? error.message : String(error)}
      </p>
      <div className={ui.row}>
        <Button type="primary" onClick={() => location.reload()}>
          Load again
        </Button>
        <Button href="/">To the bench</Button>
      </div>
    </div>
  )
}
