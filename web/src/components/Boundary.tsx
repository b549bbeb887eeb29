import { Button } from 'antd'
import { Component, type ErrorInfo, type ReactNode } from 'react'
import { renewal } from '../frame/renewal'
import { clsx } from 'clsx'
import ui from './ui.module.css'
import styles from './states.module.css'

interface Props {
  /** What it is, as the beginning of a sentence: "The list of keys". */
  what: string
  children: ReactNode
  /** Whether it lies over the screen: its fault is told there as well, and can be put away. */
  over?: boolean
  /** Something else to be done before it is tried again. */
  onAgain?: () => void
}

/** Whether an error is that code could not be fetched, in the words of the browsers. */
export const isUnfetched = (error: unknown): boolean =>
  error instanceof Error &&
  /dynamically imported module|importing a module script failed|error loading|preload/i.test(error.message)

/** A part of a screen that may fail alone: that is said in its place, and all else stays as it is, what was typed as well. */
export class Boundary extends Component<Props, { error: unknown; away: boolean }> {
  override state = { error: null as unknown, away: false }

  static getDerivedStateFromError(error: unknown) {
    return { error: error ?? new Error('It failed without a word.') }
  }
  override componentDidCatch(error: unknown, info: ErrorInfo): void {
    console.error(error, info.componentStack)
    if (isUnfetched(error)) void renewal.look()
  }
  private readonly again = () => {
    this.props.onAgain?.()
    this.setState({ error: null, away: false })
  }

  override render() {
    const { what, over, children } = this.props
    const { error, away } = this.state
    if (error === null) return children
    if (away) return null
    const unfetched = isUnfetched(error)
    return (
      <div className={clsx(ui.notice, ui.fault, ui.stack, over && styles.over)} role="alert">
        <span>
          {unfetched
            ? `${what} could not be fetched. Is there a connection?`
            : `${what} has failed. Everything else stays as it is.`}
        </span>
        {!unfetched && (
          <span className={clsx(ui.faint, ui.small, ui.wrap)}>
            {error instanceof Error ? error.message : String(error)}
          </span>
        )}
        <span className={ui.row}>
          <Button size="small" onClick={this.again}>
            Try again
          </Button>
          {over && (
            <Button size="small" type="text" onClick={() => this.setState({ away: true })}>
              Leave it
            </Button>
          )}
        </span>
      </div>
    )
  }
}
