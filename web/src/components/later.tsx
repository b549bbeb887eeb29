import { lazy, Suspense, useState, type ComponentType, type ReactNode } from 'react'
import { Boundary } from './Boundary'

interface How {
  /** What it is, as the beginning of a sentence. */
  what: string
  /** Whether it lies over the screen. */
  over?: boolean
  /** What stands in its place until it is there. */
  meanwhile?: ReactNode
}

/**
 * A part whose code is fetched when it is first shown. Where that fails, or the part does, it is said in its place and can be
 * tried again; the screen stays.
 */
export function later<P extends object>(
  load: () => Promise<{ default: ComponentType<P> }>,
  { what, over, meanwhile = null }: How,
): ComponentType<P> {
  // one for all places it is shown in, until it could not be fetched
  let shared = lazy(load)
  return function Later(props: P) {
    const [Part, setPart] = useState(() => shared)
    const again = () => {
      shared = lazy(load)
      setPart(() => shared)
    }
    return (
      <Boundary what={what} over={over} onAgain={again}>
        <Suspense fallback={meanwhile}>
          <Part {...props} />
        </Suspense>
      </Boundary>
    )
  }
}
