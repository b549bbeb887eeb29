import { createContext, useContext, type ReactNode } from 'react'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Places of the machine whose values are assumed. */
export const AssumedPlaces = createContext<ReadonlySet<string>>(new Set())

/** A field's label, marked where its value is assumed. */
export function Named({ of, children }: { of: readonly (string | number)[]; children: ReactNode }) {
  const assumed = useContext(AssumedPlaces).has(of.join('.'))
  return (
    <span className={ui.row} style={{ gap: 6 }}>
      {children} {assumed && <span className={clsx(ui.tag, ui.caution)}>assumed</span>}
    </span>
  )
}
