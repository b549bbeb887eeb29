import { Segmented } from 'antd'
import type { Print } from '@verimend/contract'
import { printEnded } from './printEnded'
import { duration, quantity } from '@verimend/core/quantity'
import { signName } from '@verimend/core/words'
import { keysOf } from '@verimend/core/recipe'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { api } from '../api/client'
import { usePair, usePrint, usePrintReport } from '../api/queries'
import { ago } from '../components/format'
import { Loaded, Problem, Waiting } from '../components/states'
import { PrintProgress } from './PrintProgress'
import { PrintResult } from './PrintIt'
import { Caliper } from './Caliper'
import { Camera } from './Camera'
import { Simulated } from './Simulated'
import { usePicture } from './usePicture'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import ui from '../components/ui.module.css'
import styles from './prints.module.css'

/** A print at its address: how it goes, and once it has ended, the part to look at and measure. */
export default function PrintPage() {
  const { id = '' } = useParams()
  return <Loaded query={usePrint(id)}>{(print) => <PrintSheet key={print.id} print={print} />}</Loaded>
}

function PrintSheet({ print }: { print: Print }) {
  const pair = usePair(print.pairId)
  const ended = printEnded(print.state)
  const made = ended && print.done > 0 && print.simulated
  return (
    <>
      <div className={ui.pagehead}>
        <h1 className={ui.wrap}>{print.name}</h1>
        {print.simulated && <Simulated />}
        <span className={ui.faint}>
          {pair.data && `${pair.data.filament.filament.name} on ${pair.data.machine.machine.name}, `}
          recipe version {print.version}, {ago(print.createdAt)}
        </span>
      </div>
      <div className={styles.page}>
        {made ? (
          <Boundary what="The part">
            <Part print={print} />
          </Boundary>
        ) : (
          <Boundary what="The machine">
            <Machine print={print} />
          </Boundary>
        )}
        <div className={ui.stack}>
          <section className={clsx(ui.sheet, ui.stack)} aria-label="The print">
            <h2>The print</h2>
            <PrintProgress print={print} />
            {ended && print.done > 0 && (
              <Boundary what="What is to be done with it">
                <PrintResult print={print} here />
              </Boundary>
            )}
            <div className={clsx(ui.row, ui.small)}>
              {print.trialId && <Link to={`/trials/${print.trialId}`}>Its trial</Link>}
              {print.caseId && <Link to={`/cases/${print.caseId}`}>Its case</Link>}
              <a href={api.prints.fileHref(print.id)} download>
                Its G-code
              </a>
            </div>
          </section>
          {made && (
            <Boundary what="What there is to see">
              <Report print={print} />
            </Boundary>
          )}
        </div>
      </div>
    </>
  )
}

/** While it runs: what the machine's camera sees. */
function Machine({ print }: { print: Print }) {
  const still = !printEnded(print.state) && print.done > 0
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="The machine">
      <h2>On the machine</h2>
      {still ? (
        <Camera print={print} wide />
      ) : (
        <p className={ui.faint}>
          {print.state === 'handed-over'
            ? 'This file is carried to its machine by hand. When it is printed, note what you see in its trial or case.'
            : printEnded(print.state)
              ? 'Nothing was made.'
              : 'Nothing is on the bed yet.'}
        </p>
      )}
    </section>
  )
}

const VIEWS = [
  { value: 'side', label: 'From the front' },
  { value: 'top', label: 'From above' },
  { value: 'first', label: 'First layer' },
] as const
type View = (typeof VIEWS)[number]['value']

/** The part as it came off the bed, with a caliper to lay against it. */
function Part({ print }: { print: Print }) {
  const [view, setView] = useState<View>('side')
  const picture = usePicture(print.id, view)
  const report = usePrintReport(print.id, true)
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="The part">
      <div className={clsx(ui.row, ui.between)}>
        <h2>The part</h2>
        <Segmented<View>
          aria-label="Where it is looked at from"
          value={view}
          onChange={setView}
          options={[...VIEWS]}
        />
      </div>
      {picture.error ? (
        <Problem error={picture.error} again={() => void picture.refetch()} />
      ) : picture.data && report.data ? (
        <Caliper key={view} id={print.id} view={view} picture={picture.data} box={report.data.box} />
      ) : (
        <Waiting tall={420} />
      )}
    </section>
  )
}

const LEVELS = ['not there', 'slight', 'clear'] as const

/** What somebody would say who holds it. */
function Report({ print }: { print: Print }) {
  const report = usePrintReport(print.id, true)
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="What there is to see">
      <h2>What there is to see</h2>
      <Loaded query={report}>
        {({ signs, grams, seconds, layers, brokeOff }) => {
          const seen = keysOf(signs).filter((s) => (signs[s] ?? 0) > 0)
          const absent = keysOf(signs).filter((s) => signs[s] === 0)
          return (
            <>
              {brokeOff && (
                <p className={clsx(ui.notice, ui.caution)}>It was not finished: this is what was made.</p>
              )}
              {seen.length ? (
                <ul className={ui.plainlist}>
                  {seen
                    .sort((a, b) => signs[b]! - signs[a]!)
                    .map((s) => (
                      <li key={s} className={clsx(ui.row, ui.between)}>
                        <span>{signName(s)}</span>
                        <span className={clsx(ui.tag, signs[s] === 2 ? ui.fault : ui.caution)}>
                          {LEVELS[signs[s]!]}
                        </span>
                      </li>
                    ))}
                </ul>
              ) : (
                <p>Nothing wrong is to be seen.</p>
              )}
              <details>
                <summary className={ui.small}>Looked for and not there, {absent.length}</summary>
                <p className={clsx(ui.small, ui.faint)}>{absent.map((s) => signName(s)).join(', ')}.</p>
              </details>
              <p className={clsx(ui.small, ui.faint)}>
                {quantity(grams, 'g', 1)} on the scale, {layers} layers, {duration(seconds)}. A person misses
                some things and mistakes others; so does this list.
              </p>
            </>
          )
        }}
      </Loaded>
    </section>
  )
}
