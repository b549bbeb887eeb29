import { Button, Segmented } from 'antd'
import {
  bytes,
  compareWithRecipe,
  duration,
  figure,
  findingContext,
  findingsOf,
  quantity,
  type Correlation,
  type Mark,
  type PathReading,
} from '@verimend/core'
import type { PairDetail } from '@verimend/contract'
import { useMemo, useState, type ReactNode } from 'react'
import { readingContext } from '../pairs/readingContext'
import type { LayerSource } from '../workers/useReadGcode'
import { CompareView } from './CompareView'
import { Findings } from './Findings'
import { HeightSheet, MarkMatches } from './HeightSheet'
import { LayerView } from './LayerCanvas'
import { Differences, ReadingFigures, ReadingNotes } from './ReadingView'
import { FeedView, SeamMap } from './SeamMap'

export interface PathSide {
  name: string
  reading: PathReading
  /** Layers can be looked at while the moves are in a worker. */
  layer: LayerSource | null
}
type Tab = 'heights' | 'layer' | 'seam' | 'feed' | 'figures' | 'compare'

/** A path reading with everything that can be seen in it. */
export function PathBench({
  side,
  pair,
  marks,
  onMarks,
  taken,
  onTake,
  other,
  chooseOther,
  openLayers,
  piece = false,
}: {
  side: PathSide
  pair: PairDetail
  marks: Mark[]
  onMarks: (marks: Mark[]) => void
  taken?: string[]
  onTake?: (match: Correlation) => void
  other: PathSide | null
  /** How the file to compare with is chosen. */
  chooseOther: ReactNode
  /** Brings the moves back for a reading whose file is kept; null where there is no way. */
  openLayers: (() => void) | null
  /** It is a test piece: what would be a fault on a part is meant here. */
  piece?: boolean
}) {
  const [tab, setTab] = useState<Tab>(other ? 'compare' : 'heights')
  const [layer, setLayer] = useState(side.reading.firstLayer?.layer ?? 0)
  const r = side.reading
  const findings = useMemo(
    () =>
      findingsOf(
        r,
        findingContext({
          machine: pair.machine.machine,
          filament: pair.filament.filament,
          recipe: pair.version.values,
        }),
      ),
    [r, pair],
  )
  const show = (l: number) => {
    setLayer(l)
    setTab('layer')
  }
  return (
    <div className="stack">
      <div className="row between">
        <span className="figure">
          {r.layerCount} layers, {quantity(r.height, 'mm', 1)} · {duration(r.seconds)} ·{' '}
          {quantity(r.filament.mass, 'g', 1)} · {bytes(r.bytes)}
        </span>
        <Segmented
          value={tab}
          onChange={(v) => setTab(v as Tab)}
          options={[
            { value: 'heights', label: 'By height' },
            { value: 'layer', label: 'From above' },
            { value: 'seam', label: 'Seam' },
            { value: 'feed', label: 'Filament' },
            { value: 'figures', label: 'Figures' },
            ...(piece ? [] : [{ value: 'compare', label: 'Two files' }]),
          ]}
        />
      </div>
      <div className={piece ? '' : 'pathsplit'}>
        <section className="sheet" style={{ minWidth: 0 }} aria-label="The paths">
          {tab === 'heights' && (
            <div className="stack">
              <HeightSheet reading={r} marks={marks} onMarks={onMarks} onPick={show} />
              <MarkMatches reading={r} marks={marks} taken={taken} onTake={onTake} />
            </div>
          )}
          {tab === 'layer' &&
            (side.layer ? (
              <LayerView reading={r} source={side.layer} layer={layer} onLayer={setLayer} />
            ) : (
              <div className="empty">
                <div>
                  Only the reading is here, not the moves.
                  {openLayers ? '' : ' Drop the file again to look at its layers.'}
                </div>
                {openLayers && <Button onClick={openLayers}>Bring the kept file back</Button>}
              </div>
            ))}
          {tab === 'seam' && <SeamMap reading={r} />}
          {tab === 'feed' && <FeedView reading={r} />}
          {tab === 'figures' && (
            <div className="stack">
              <Differences list={compareWithRecipe(r, pair.version.values)} />
              <ReadingFigures reading={r} />
              <ReadingNotes reading={r} />
            </div>
          )}
          {tab === 'compare' && (
            <div className="stack">
              {chooseOther}
              {other && <CompareView a={other} b={side} context={readingContext(pair)} />}
            </div>
          )}
        </section>
        {!piece && (
          <aside className="sheet stack" aria-label="Findings">
            <div className="row between">
              <h2>Findings</h2>
              <span className="faint small">
                {figure(findings.filter((f) => f.severity !== 'good').length, 0)}
              </span>
            </div>
            <Findings
              list={findings}
              onPlace={(from, to) => {
                setTab('heights')
                onMarks([{ from: Number(from.toFixed(1)), to: Number(to.toFixed(1)) }])
              }}
            />
          </aside>
        )}
      </div>
    </div>
  )
}
