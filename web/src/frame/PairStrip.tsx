import { Button } from 'antd'
import { cardOf } from '@verimend/core/material'
import { lazy, Suspense, useState } from 'react'
import { Link } from 'react-router'
import { useLink, usePair } from '../api/queries'
import { KeptNotes } from './KeptNotes'
import { Prints } from '../prints/Prints'
import { WorkTray } from '../work/WorkTray'
import { Simulated } from '../prints/Simulated'
import { useCurrentPair } from '../pairs/PairContext'
import { DryText, driveText, Swatch } from '../pairs/PairName'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './PairStrip.module.css'

const PairChooser = lazy(() => import('../pairs/PairChooser'))

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
        <>
          <span className={ui.row} style={{ gap: 8 }}>
            <Swatch colour={p.filament.filament.colour} />
            <Link to={`/shelf/${p.filament.id}`} className={ui.plainlink}>
              <strong className={ui.wrap}>{p.filament.filament.name}</strong>
            </Link>
            <span className={ui.faint}>{cardOf(p.filament.filament.family).name}</span>
            <DryText filament={p.filament.filament} />
          </span>
          <span className={ui.faint}>on</span>
          <span className={ui.row} style={{ gap: 8 }}>
            <Link to={`/machines/${p.machine.id}`} className={ui.plainlink}>
              <strong className={ui.wrap}>{p.machine.machine.name}</strong>
            </Link>
            <span className={clsx(ui.figure, ui.faint)}>{p.nozzle}&#8201;mm</span>
            <span className={ui.faint}>{driveText(p.machine.machine.drive)}</span>
            {link && <Simulated />}
          </span>
        </>
      ) : (
        <span className={ui.faint}>{pairId ? 'Loading the pair' : 'No pair chosen yet'}</span>
      )}
      <Button size="small" onClick={() => setChoosing(true)} data-testid="change-pair">
        {p ? 'Change pair' : 'Choose a pair'}
      </Button>
      <WorkTray />
      <Prints />
      <KeptNotes />
      {choosing && (
        <Suspense fallback={null}>
          <PairChooser onClose={() => setChoosing(false)} />
        </Suspense>
      )}
    </header>
  )
}
