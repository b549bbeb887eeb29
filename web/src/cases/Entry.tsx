import type { ReactNode } from 'react'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Entry.module.css'

/** What an entry of a notebook is about. */
export type EntryKind = 'print' | 'seen' | 'photos' | 'told' | 'attempt' | 'next' | 'close' | 'kept'

/** One entry of a case's notebook, with its mark on the line. */
export function Entry({
  kind,
  name = kind,
  title,
  aside,
  children,
}: {
  kind: EntryKind
  /** Tells entries of one kind apart. */
  name?: string
  title: ReactNode
  aside?: ReactNode
  children: ReactNode
}) {
  return (
    <section className={styles.entry} data-kind={kind} data-entry={name}>
      <div className={clsx(ui.row, ui.between)}>
        <h2 tabIndex={-1}>{title}</h2>
        {aside}
      </div>
      {children}
    </section>
  )
}
