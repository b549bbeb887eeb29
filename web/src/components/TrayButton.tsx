import { Button, Popover } from 'antd'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { clsx } from 'clsx'
import ui from './ui.module.css'
import styles from './TrayButton.module.css'

export interface TrayItem {
  key: string
  name: string
  /** Where it is seen whole. */
  to: string
  /** How far it is. */
  progress: ReactNode
}

/** What goes on elsewhere, behind a button at the top. */
export function TrayButton({
  title,
  items,
  testId,
  children,
}: {
  title: string
  items: readonly TrayItem[]
  testId: string
  children: ReactNode
}) {
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      title={title}
      content={
        <ul className={clsx(ui.plainlist, styles.tray)}>
          {items.map(({ key, name, to, progress }) => (
            <li key={key} className={ui.stack} style={{ gap: 4 }}>
              <Link to={to} className={ui.wrap}>
                {name}
              </Link>
              {progress}
            </li>
          ))}
        </ul>
      }
    >
      <Button size="small" data-testid={testId}>
        {children}
      </Button>
    </Popover>
  )
}
