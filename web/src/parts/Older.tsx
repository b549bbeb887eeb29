import { Button } from 'antd'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Says that an answer is of the part as it was, and asks anew. */
export function Older({ look }: { look: () => void }) {
  return (
    <div className={clsx(ui.row, ui.small)} role="note">
      <span>The part or its recipe has changed since.</span>
      <Button size="small" onClick={look}>
        Look again
      </Button>
    </div>
  )
}
