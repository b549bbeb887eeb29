import { daysSince, dryness, lastDried } from '@verimend/core/material'
import type { PairDetail } from '@verimend/contract'
import { today } from '../components/format'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './PairName.module.css'

export function Swatch({ colour }: { colour: string }) {
  return <span className={styles.swatch} style={{ background: colour }} aria-hidden="true" />
}

export const driveText = (drive: { kind: string; tubeLength: number }) =>
  drive.kind === 'tube' ? `${drive.tubeLength}\u2009mm tube` : 'direct drive'

/** "dried 3 days ago", coloured when it is due. */
export function DryText({ filament }: { filament: PairDetail['filament']['filament'] }) {
  const state = dryness(filament, today())
  const dried = daysSince(lastDried(filament)?.on ?? null, today())
  const opened = daysSince(filament.openedOn, today())
  const text =
    dried !== null
      ? `dried ${dried} ${dried === 1 ? 'day' : 'days'} ago`
      : opened !== null
        ? `open ${opened} ${opened === 1 ? 'day' : 'days'}, never dried`
        : 'drying not noted'
  return (
    <span className={state === 'due' ? clsx(ui.tag, ui.caution) : ui.tag}>
      {state === 'due' ? `${text}: dry it` : text}
    </span>
  )
}
