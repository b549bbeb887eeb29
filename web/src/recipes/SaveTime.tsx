import { Select } from 'antd'
import { Link, useNavigate } from 'react-router'
import { useParts } from '../api/queries'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Where the minutes go depends on the part: it is chosen here, and what saves time with this recipe is shown on it. */
export function SaveTime() {
  const parts = useParts()
  const navigate = useNavigate()
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Print it faster" style={{ gap: 8 }}>
      <h2>Print it faster</h2>
      <span className={clsx(ui.faint, ui.small)}>
        Where the minutes go depends on the part: choose one to see what saves time, and for what loss.
      </span>
      {parts.data?.length === 0 ? (
        <Link to="/parts">Put a part in</Link>
      ) : (
        <Select<string>
          placeholder="Choose a part"
          aria-label="Part to print faster"
          loading={parts.isPending}
          value={null}
          onChange={(id) => void navigate(`/parts/${id}?faster`)}
          options={(parts.data ?? []).map((p) => ({ value: p.id, label: p.name }))}
        />
      )}
    </section>
  )
}
