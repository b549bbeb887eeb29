import { Segmented } from 'antd'
import type { PairDetail } from '@verimend/contract'
import type { PartView } from '@verimend/core/casework'
import type { PathFinding } from '@verimend/core/diagnosis'
import { bedMiddle, type PieceGap } from '@verimend/core/planner'
import { sayFinding } from '@verimend/core/words'
import { useMemo, useState } from 'react'
import { CompareView } from '../paths/CompareView'
import { FeedView } from '../paths/FeedView'
import { Findings } from '../paths/Findings'
import { HeightSheet } from '../paths/HeightSheet'
import { LayerView } from '../paths/LayerView'
import { ReadingFigures } from '../paths/ReadingView'
import { PATH_VIEWS, type PathViewId } from '../paths/pathViews'
import { SeamMap } from '../paths/SeamMap'
import { useFindings } from '../paths/useFindings'
import { readingContext } from '../pairs/readingContext'
import type { PlanSide } from '../workers/part.worker'
import type { LayerSource } from '../workers/readInWorker'
import type { PartWork } from './partWork'
import { GapPlaces } from './Outlook'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'

type Tab = PathViewId | 'compare'
const NO_RANGES: [] = []

/** The planned paths in the path reader's own views, as they are or with the change; and both side by side. */
export function PartPaths({
  work,
  pair,
  now,
  then,
}: {
  work: PartWork
  pair: PairDetail
  now: PartView
  then: { view: PartView; pair: PairDetail } | null
}) {
  const [wanted, setWanted] = useState<Tab>('heights')
  const [side, setSide] = useState<PlanSide>('then')
  const [layer, setLayer] = useState(0)
  const [gap, setGap] = useState<{ gap: PieceGap; layer: number } | null>(null)
  const middle = bedMiddle(pair.machine.machine)
  /** Gaps are told from the middle of the part, which lies over the middle of the bed. */
  const onBed = ({ from, to }: PieceGap) => ({
    from: [from[0] + middle.x, from[1] + middle.y] as const,
    to: [to[0] + middle.x, to[1] + middle.y] as const,
  })
  const shownSide: PlanSide = then ? side : 'now'
  const view = shownSide === 'then' ? then!.view : now
  const tab = wanted === 'compare' && !then ? 'heights' : wanted
  // a plan that was made anew has other layers
  const source = useMemo<LayerSource>(
    () => (n) => work.run('layer', { side: shownSide, layer: n }),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [work, shownSide, view],
  )
  const sources = useMemo(
    () => ({
      now: (n: number) => work.run('layer', { side: 'now', layer: n }),
      then: (n: number) => work.run('layer', { side: 'then', layer: n }),
    }),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [work, now, then],
  )
  const before = useFindings(now.reading, pair)
  const after = useFindings(then?.view.reading ?? null, then?.pair ?? pair)
  const findings = shownSide === 'then' ? after : before
  const show = (l: number) => {
    setLayer(l)
    setWanted('layer')
  }
  const count = view.reading.layerCount
  return (
    <div className={styles.bench}>
      <div className={ui.stack} style={{ minWidth: 0 }}>
        <div className={clsx(ui.row, ui.between)}>
          {then ? (
            <Segmented
              size="small"
              value={side}
              onChange={(v) => setSide(v as PlanSide)}
              options={[
                { value: 'now', label: 'As it is' },
                { value: 'then', label: 'With the change' },
              ]}
            />
          ) : (
            <h2>The paths</h2>
          )}
          <Segmented
            className={styles.tabs}
            value={tab}
            onChange={(v) => setWanted(v as Tab)}
            options={[...PATH_VIEWS, ...(then ? [{ value: 'compare', label: 'What differs' }] : [])]}
          />
        </div>
        <section className={clsx(ui.sheet, ui.stack)} style={{ minWidth: 0 }} aria-label="The paths">
          {tab === 'heights' && <HeightSheet reading={view.reading} ranges={NO_RANGES} onPick={show} />}
          {tab === 'layer' && (
            <>
              <GapPlaces
                view={view}
                onGap={(g, l) => {
                  setLayer(l)
                  setGap({ gap: g, layer: l })
                }}
              />
              <LayerView
                reading={view.reading}
                source={source}
                layer={Math.min(layer, count - 1)}
                onLayer={setLayer}
                mark={gap?.layer === layer ? onBed(gap.gap) : null}
              />
            </>
          )}
          {tab === 'seam' && <SeamMap reading={view.reading} />}
          {tab === 'feed' && <FeedView reading={view.reading} />}
          {tab === 'figures' && <ReadingFigures reading={view.reading} />}
          {tab === 'compare' && then && (
            <CompareView
              a={{ name: 'As it is', reading: now.reading, layer: sources.now }}
              b={{ name: 'With the change', reading: then.view.reading, layer: sources.then }}
              context={readingContext(pair)}
            />
          )}
        </section>
      </div>
      <section className={clsx(ui.sheet, ui.stack)} aria-label="Findings">
        <div className={clsx(ui.row, ui.between)}>
          <h2>Findings{then && (shownSide === 'then' ? ', with the change' : ', as it is')}</h2>
          <span className={clsx(ui.faint, ui.small)}>
            {findings.data?.filter((f) => f.severity !== 'good').length}
          </span>
        </div>
        {then && before.data && after.data && <ComeAndGo before={before.data} after={after.data} />}
        <Findings findings={findings} />
      </section>
    </div>
  )
}

const ofFlaws = (list: readonly PathFinding[]) => list.filter((f) => f.severity !== 'good')

/** Findings that a change brings, and those it takes away. */
function ComeAndGo({ before, after }: { before: PathFinding[]; after: PathFinding[] }) {
  const [had, have] = [ofFlaws(before), ofFlaws(after)]
  const come = have.filter((f) => !had.some((b) => b.kind === f.kind))
  const gone = had.filter((f) => !have.some((b) => b.kind === f.kind))
  if (!come.length && !gone.length)
    return <p className={clsx(ui.faint, ui.small)}>No finding comes or goes with the change.</p>
  return (
    <ul className={clsx(ui.plainlist, ui.stack)} style={{ gap: 4 }} data-testid="come-and-go">
      {come.map((f) => (
        <li key={f.kind}>
          <span className={clsx(ui.tag, ui.caution)}>comes</span> {sayFinding(f).text}
        </li>
      ))}
      {gone.map((f) => (
        <li key={f.kind}>
          <span className={clsx(ui.tag, ui.good)}>goes</span> {sayFinding(f).text}
        </li>
      ))}
    </ul>
  )
}
