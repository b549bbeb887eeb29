import { Button } from 'antd'
import { ApiProblem } from '../api/http'
import { Problem } from './states'
import ui from './ui.module.css'

/** The end of a form for a record: what is wrong with the whole of it, the way out of a conflict, save and leave. */
export function FormEnd({
  save,
  busy,
  stray,
  error,
  onRebase,
  onLeave,
}: {
  /** What the button says. */
  save: string
  busy: boolean
  /** Faults that belong to no field. */
  stray: readonly string[]
  error: unknown
  /** Takes what the server holds now as the base; what was typed stays. */
  onRebase: () => void
  onLeave: () => void
}) {
  const conflict = error instanceof ApiProblem && error.problem.status === 409
  return (
    <>
      {stray.map((fault) => (
        <Problem key={fault} error={new Error(fault)} />
      ))}
      {!!error && <Problem error={error} />}
      {conflict && (
        <p className={ui.faint} style={{ marginTop: 8 }}>
          Your entries are kept here.{' '}
          <Button size="small" onClick={onRebase}>
            Take the newer one as the base, then save yours over it
          </Button>
        </p>
      )}
      <div className={ui.row} style={{ marginTop: 12 }}>
        <Button type="primary" htmlType="submit" loading={busy}>
          {save}
        </Button>
        <Button onClick={onLeave}>Leave without saving</Button>
      </div>
    </>
  )
}
