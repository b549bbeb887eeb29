import { Button, Segmented } from 'antd'
import { bytes, duration, quantity } from '@verimend/core/quantity'
import { compareWithRecipe, straysIn } from '@verimend/core/recipe'
import type { Correlation, HeightRange, PathReading } from '@verimend/core/toolpath'
import type { PairDetail } from '@verimend/contract'
import { useMemo, useState, type ReactNode } from 'react'
import { readingContext } from '../pairs/readingContext'
import type { LayerSource } from '../workers/readInWorker'
import { CompareView } from './CompareView'
import { Findings } from './Findings'
import { FeedView } from './FeedView'
import { HeightSheet } from './HeightSheet'
import { LayerView } from './LayerView'
import { MarkMatches } from './MarkMatches'
import { Differences, ReadingFigures, ReadingNotes } from './ReadingView'
import { PATH_VIEWS, type PathViewId } from './pathViews'
import { SeamMap } from './SeamMap'
import type { WholeFile } from './StepsInFile'
import { TakeFromFile } from './TakeFromFile'
import { useFindings } from './useFindings'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import { later } from '../components/later'
import ui from '../components/ui.module.css'
import statesStyles from '../components/states.module.css'
import styles from './PathBench.module.css'

const ChangeFile = later(() => import('./ChangeFile'), { what: 'The change' })

export interface PathSide {
  name: string
  reading: PathReading
  /** Layers can be looked at while the moves are in a worker. */
  layer: LayerSource | null
}
type Tab = PathViewId | 'compare' | 'change'

/** A path reading with everything that can be seen in it. */
export function PathBench({
  side,
  pair,
  ranges,
  onRanges,
  taken,
  onTake,
  other,
  chooseOther,
  openLayers,
  piece = false,
  partHref,
  whole = null,
}: {
  side: PathSide
  pair: PairDetail
  ranges: readonly HeightRange[]
  onRanges: (ranges: HeightRange[]) => void
  taken?: readonly string[]
  onTake?: (match: Correlation) => void
  other: PathSide | null
  /** How the file to compare with is chosen. */
  chooseOther: ReactNode
  /** Brings the moves back for a reading whose file is kept; null where there is no way. */
  openLayers: (() => void) | null
  /** It is a test piece: what would be a fault on a part is meant here. */
  piece?: boolean
  /** Where the part itself can be seen planned. */
  partHref?: string
  /** null where only its reading is here. */
  whole?: WholeFile | null
}) {
  const [tab, setTab] = useState<Tab>(other ? 'compare' : 'heights')
  const [layer, setLayer] = useState(side.reading.firstLayer?.layer ?? 0)
  const r = side.reading
  const findings = useFindings(piece ? null : r, pair)
  const differences = useMemo(() => compareWithRecipe(r, pair.version.values), [r, pair.version.values])
  const show = (l: number) => {
    setLayer(l)
    setTab('layer')
  }
  return (
    <div className={ui.stack}>
      <div className={clsx(ui.row, ui.between)}>
        <span className={ui.figure}>
          {r.layerCount} layers, {quantity(r.height, 'mm', 1)} · {duration(r.seconds)} ·{' '}
          {quantity(r.filament.mass, 'g', 1)} · {bytes(r.bytes)}
        </span>
        <Segmented
          value={tab}
          onChange={(v) => setTab(v as Tab)}
          options={[
            ...PATH_VIEWS,
            ...(piece
              ? []
              : [
                  { value: 'compare', label: 'Two files' },
                  { value: 'change', label: 'Change it' },
                ]),
          ]}
        />
      </div>
      <div className={piece ? undefined : styles.pathsplit}>
        <section className={ui.sheet} style={{ minWidth: 0 }} aria-label="The paths">
          {tab === 'heights' && (
            <div className={ui.stack}>
              <Boundary what="The sheet of heights">
                <HeightSheet reading={r} ranges={ranges} onRanges={onRanges} onPick={show} />
              </Boundary>
              <Boundary what="What changes at these heights">
                <MarkMatches reading={r} ranges={ranges} taken={taken} onTake={onTake} />
              </Boundary>
            </div>
          )}
          {tab === 'layer' &&
            (side.layer ? (
              <Boundary what="The layer">
                <LayerView reading={r} source={side.layer} layer={layer} onLayer={setLayer} />
              </Boundary>
            ) : (
              <div className={statesStyles.empty}>
                <div>
                  Only the reading is here, not the moves.
                  {openLayers ? '' : ' Drop the file again to look at its layers.'}
                </div>
                {openLayers && <Button onClick={openLayers}>Bring the kept file back</Button>}
              </div>
            ))}
          {tab === 'seam' && (
            <Boundary what="The seam unrolled">
              <SeamMap reading={r} />
            </Boundary>
          )}
          {tab === 'feed' && (
            <Boundary what="The feed">
              <FeedView reading={r} />
            </Boundary>
          )}
          {tab === 'figures' && (
            <div className={ui.stack}>
              <Differences list={differences} filament={pair.filament.filament} />
              {!piece && <TakeFromFile key={pair.current} pair={pair} reading={r} name={side.name} />}
              <Boundary what="The figures">
                <ReadingFigures reading={r} />
              </Boundary>
              <ReadingNotes reading={r} />
            </div>
          )}
          {tab === 'change' &&
            (whole ? (
              <ChangeFile whole={whole} name={side.name} reading={r} pair={pair} />
            ) : (
              <div className={statesStyles.empty}>
                <div>Only the reading of this file is kept. Drop the file itself to change it.</div>
              </div>
            ))}
          {tab === 'compare' && (
            <div className={ui.stack}>
              {chooseOther}
              {other && (
                <Boundary what="The comparison">
                  <CompareView a={other} b={side} context={readingContext(pair)} />
                </Boundary>
              )}
            </div>
          )}
        </section>
        {!piece && (
          <aside className={clsx(ui.sheet, ui.stack)} aria-label="Findings">
            {differences.length > 0 && tab !== 'figures' && (
              <p className={clsx(ui.notice, ui.caution)}>
                The file departs from the recipe in {differences.length}{' '}
                {differences.length === 1 ? 'setting' : 'settings'}
                {straysIn(differences, pair.filament.filament).length > 0
                  ? ', some of them look left over from another job'
                  : ''}
                .{' '}
                <button type="button" className={ui.linkish} onClick={() => setTab('figures')}>
                  Show them
                </button>
              </p>
            )}
            <div className={clsx(ui.row, ui.between)}>
              <h2>Findings</h2>
              <span className={clsx(ui.faint, ui.small)}>
                {findings.data?.filter((f) => f.severity !== 'good').length}
              </span>
            </div>
            <Boundary what="The findings">
              <Findings
                findings={findings}
                partHref={partHref}
                onPlace={(from, to) => {
                  setTab('heights')
                  onRanges([{ from: Number(from.toFixed(1)), to: Number(to.toFixed(1)) }])
                }}
              />
            </Boundary>
          </aside>
        )}
      </div>
    </div>
  )
}
