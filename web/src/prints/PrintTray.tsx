import { Button, Popover } from 'antd'
import type { Print } from '@verimend/contract'
import { Link } from 'react-router'
import { PrintProgress } from './PrintProgress'
import { share } from './printWords'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './prints.module.css'

/** What is printing now, behind a button at the top. */
export default function PrintTray({ list }: { list: readonly Print[] }) {
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      title="Printing"
      content={
        <ul className={clsx(ui.plainlist, styles.tray)}>
          {list.map((p) => (
            <li key={p.id} className={ui.stack} style={{ gap: 4 }}>
              <Link to={`/prints/${p.id}`} className={ui.wrap}>
                {p.name}
              </Link>
              <PrintProgress print={p} />
            </li>
          ))}
        </ul>
      }
    >
      <Button size="small" data-testid="tray">
        {list.length === 1 ? `Printing, ${Math.floor(100 * share(list[0]))} %` : `Printing ${list.length}`}
      </Button>
    </Popover>
  )
}
