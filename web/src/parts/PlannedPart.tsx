import { Button } from 'antd'
import type { PairDetail, PartRecord, PartVersion } from '@verimend/contract'
import type { Layout } from '@verimend/core/planner'
import { partSettingsOf, recipeWith, type Changes } from '@verimend/core/recipe'
import { useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { usePair } from '../api/queries'
import { today } from '../components/format'
import { onBench } from '../pairs/onBench'
import type { OpenedMesh, PlanAsk } from '../workers/part.worker'
import { AboveDrawing } from './AboveDrawing'
import { ChangesEditor } from './Changes'
import { Figures, Forecast, PlanNotes } from './Outlook'
import { PartPaths } from './PartPaths'
import { Standing, chosenPlacing } from './Standing'
import { StepTrial } from './StepTrial'
import { TakeAway } from './TakeAway'
import type { PartWork } from './partWork'
import { useAsked } from './usePartWork'
import { changesFrom, changesText } from './whatIf'
import { KeepOrDrop, PairSelect, NOTHING, isNothing, type WhatIf } from './WhatIfTools'
import { Working } from './Working'
import { Faster } from './Faster'
import { Worth } from './Worth'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'

export interface OfPart {
  part: PartRecord
  pair: PairDetail
  version: PartVersion
  layout: Layout
  own: Changes
  onLayout: (patch: Partial<Layout>) => void
  onOwn: (own: Changes) => void
}

const nameOf = (pair: PairDetail) => `${pair.filament.filament.name} on ${pair.machine.machine.name}`

/** A part that is open in its worker: how it stands, its paths, and both with a change. */
export function PlannedPart({
  part,
  pair,
  work,
  opened,
  version,
  layout,
  own,
  onLayout,
  onOwn,
}: OfPart & { work: PartWork; opened: OpenedMesh }) {
  const [params, setParams] = useSearchParams()
  const [tried, setTried] = useState<WhatIf>(() => ({
    ...NOTHING,
    changes: changesFrom(params.get('change')),
  }))
  /** Whether placing by hand is tried first, or the part's own. */
  const [trying, setTrying] = useState(false)
  const change = (patch: Partial<WhatIf>) => {
    const next = { ...tried, ...patch }
    setTried(next)
    setParams(Object.keys(next.changes).length ? { change: changesText(next.changes) } : {}, {
      replace: true,
    })
  }
  const bench = useMemo(() => onBench(pair), [pair])
  const other = usePair(tried.pairId)
  const otherPair = tried.pairId ? (other.data ?? null) : pair
  const something = !isNothing(tried)
  const headOf = (p: PairDetail) => [
    `Pair: ${nameOf(p)}, recipe version ${p.current}`,
    `Part: ${part.name}, version ${version.number}`,
  ]
  const askNow: PlanAsk = {
    pair: bench,
    own,
    layout,
    title: part.name,
    notes: headOf(pair),
    today: today(),
  }
  const thenLayout = { ...layout, ...tried.layout }
  const askThen: PlanAsk | null =
    something && otherPair
      ? {
          ...askNow,
          pair: onBench(otherPair),
          own: { ...own, ...tried.changes },
          layout: thenLayout,
          notes: headOf(otherPair),
        }
      : null
  const placings = useAsked(work, 'placings', {
    pair: bench,
    own,
    layout: { ...layout, withoutTab: [], uncarried: [] },
  })
  const now = useAsked(work, 'plan', { side: 'now', ...askNow })
  const then = useAsked(work, 'plan', askThen && { side: 'then', ...askThen })
  const recipeNow = useMemo(() => recipeWith(bench, own), [bench, own])
  const thenView = something && otherPair && then.data && !then.error ? then.data : null
  const shown = thenView ?? now.data
  const settings = useMemo(
    () => partSettingsOf(recipeWith(otherPair ? onBench(otherPair) : bench, own, tried.changes)),
    [otherPair, bench, own, tried.changes],
  )
  return (
    <>
      <Boundary what="How it stands">
        <Standing
          opened={opened}
          placings={placings.data}
          layout={trying ? thenLayout : layout}
          fits={placings.data?.fits ?? null}
          nozzle={pair.nozzle}
          onLayout={(patch) => (trying ? change({ layout: { ...tried.layout, ...patch } }) : onLayout(patch))}
        />
      </Boundary>
      <Working asked={placings} what="Judging how it could stand" />
      <section className={clsx(ui.sheet, ui.stack)} aria-label="With a change">
        <div className={clsx(ui.row, ui.between)}>
          <h2>With a change</h2>
          <span className={ui.row} style={{ gap: 6 }}>
            <PairSelect value={tried.pairId} current={pair.id} onChange={(pairId) => change({ pairId })} />
            <Button
              size="small"
              type={trying ? 'primary' : 'default'}
              aria-pressed={trying}
              onClick={() => setTrying(!trying)}
            >
              Try another way to stand
            </Button>
          </span>
        </div>
        {trying && (
          <p className={clsx(ui.notice)}>
            What is chosen above is tried now; the part’s own way to stand stays as it is.
          </p>
        )}
        <ChangesEditor
          label="With a change"
          changes={tried.changes}
          recipe={recipeNow}
          onChange={(changes) => change({ changes })}
        />
        {Object.keys(own).length > 0 && (
          <div className={ui.stack} style={{ gap: 4 }}>
            <span className={clsx(ui.faint, ui.small)}>For this part only, whatever the recipe:</span>
            <ChangesEditor label="For this part" changes={own} recipe={bench.recipe} onChange={onOwn} />
          </div>
        )}
        {something && (
          <KeepOrDrop
            pair={pair}
            tried={tried}
            onDrop={() => change(NOTHING)}
            onOwn={() => {
              onOwn({ ...own, ...tried.changes })
              onLayout(tried.layout)
              setTrying(false)
              change(NOTHING)
            }}
          />
        )}
      </section>
      <Working asked={now} what="Laying the part" />
      {something && <Working asked={then} what="Laying it with the change" />}
      {now.data && shown && (
        <>
          <div className={styles.outlook}>
            <section className={clsx(ui.sheet, ui.stack)} aria-label="What it takes" style={{ gap: 8 }}>
              <div className={clsx(ui.row, ui.between)}>
                <h2>What it takes</h2>
                <Boundary what="Taking it away">
                  <TakeAway
                    part={part}
                    version={version.number}
                    work={work}
                    now={{ ask: askNow, view: now.data, pair }}
                    then={
                      thenView && askThen && otherPair
                        ? { ask: askThen, view: thenView, pair: otherPair }
                        : null
                    }
                    front={placings.data && (chosenPlacing(placings.data.list, layout)?.front ?? null)}
                  />
                </Boundary>
              </div>
              <Figures now={now.data} then={thenView} />
              <PlanNotes view={shown} />
            </section>
            <section className={clsx(ui.sheet, ui.stack)} aria-label="From above">
              <h2>From above</h2>
              <Boundary what="The drawing from above">
                <AboveDrawing
                  view={shown}
                  settings={settings}
                  layout={thenLayout}
                  onLayout={(patch) =>
                    something ? change({ layout: { ...tried.layout, ...patch } }) : onLayout(patch)
                  }
                  onSeam={(seamDirection) =>
                    change({ changes: { ...tried.changes, seamPlace: 'turned-away', seamDirection } })
                  }
                />
              </Boundary>
            </section>
            <Boundary what="The forecast">
              <Forecast now={now.data} then={thenView} />
            </Boundary>
            <Boundary what="What saves time">
              <Faster
                work={work}
                ask={askNow}
                onTry={(changes) => change({ changes: { ...tried.changes, ...changes } as Changes })}
              />
            </Boundary>
            <Boundary what="What is worth a try">
              <Worth
                work={work}
                ask={askNow}
                onTry={(changes) => change({ changes: { ...tried.changes, ...changes } as Changes })}
              />
            </Boundary>
          </div>
          <Boundary key={`${version.number} ${pair.id}`} what="The trial on this part">
            <StepTrial
              part={part}
              version={version}
              pair={pair}
              layout={layout}
              own={own}
              height={now.data.reading.height}
            />
          </Boundary>
          <Boundary what="The paths">
            <PartPaths
              work={work}
              pair={pair}
              now={now.data}
              then={thenView && otherPair ? { view: thenView, pair: otherPair } : null}
            />
          </Boundary>
        </>
      )}
    </>
  )
}
