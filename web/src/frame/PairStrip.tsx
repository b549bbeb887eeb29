import { Button } from 'antd'
import { cardOf } from '@verimend/core/material'
import { useState } from 'react'
import { Link } from 'react-router'
import { useLink, usePair } from '../api/queries'
import { later } from '../components/later'
import { KeptNotes } from './KeptNotes'
import { Renewed } from './Renewed'
import { Prints } from '../prints/Prints'
import { WorkTray } from '../work/WorkTray'
import { Simulated } from '../prints/Simulated'
import { useCurrentPair } from '../pairs/PairContext'
import { DryText, driveText, Swatch } from '../pairs/PairName'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './PairStrip.module.css'

const PairChooser = later(() => import('../pairs/PairChooser'), { what: 'The choice of a pair', over: true })

/** The pair that everything below is read in. */
export function PairStrip() {
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId)
  const [choosing, setChoosing] = useState(false)
  const p = pair.data
  const link = useLink(p?.machine.id)
  return (
    <header className={styles.strip} aria-label="Current pair">
      {p ? (
        <div className={styles.pair}>
          <span className={clsx(ui.row, styles.line)}>
            <Swatch colour={p.filament.filament.colour} />
            <Link to={`/shelf/${p.filament.id}`} className={ui.plainlink}>
              <strong className={ui.wrap}>{p.filament.filament.name}</strong>
            </Link>
            <span className={ui.faint}>{cardOf(p.filament.filament.family).name}</span>
            <DryText filament={p.filament.filament} />
          </span>
          <span className={clsx(ui.row, styles.line)}>
            <span className={ui.faint}>on</span>
            <Link to={`/machines/${p.machine.id}`} className={ui.plainlink}>
              <strong className={ui.wrap}>{p.machine.machine.name}</strong>
            </Link>
            <span className={clsx(ui.figure, ui.faint)}>{p.nozzle}&#8201;mm</span>
            <span className={ui.faint}>{driveText(p.machine.machine.drive)}</span>
            {link && <Simulated />}
          </span>
        </div>
      ) : (
        <span className={clsx(styles.pair, ui.faint)}>
          {pairId ? 'Loading the pair' : 'No pair chosen yet'}
        </span>
      )}
      <div className={styles.actions}>
        <Button
          size="small"
          onClick={() => setChoosing(true)}
          aria-label={p ? 'Change pair' : 'Choose a pair'}
          data-testid="change-pair"
        >
          <span>
            {p ? 'Change' : 'Choose'}
            <span className={styles.wide}>{p ? ' pair' : ' a pair'}</span>
          </span>
        </Button>
        <WorkTray />
        <Prints />
        <KeptNotes />
        <Renewed />
      </div>
      {choosing && <PairChooser onClose={() => setChoosing(false)} />}
    </header>
  )
}
