import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Input, Select } from 'antd'
import type { PairDetail, PairSummary, PartRecord, PartVersion } from '@verimend/contract'
import { recipeWith } from '@verimend/core/casework'
import type { Layout } from '@verimend/core/planner'
import { figure } from '@verimend/core/quantity'
import { partSettingsOf, type Changes } from '@verimend/core/recipe'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { usePair, usePairs, usePart } from '../api/queries'
import { ago, today } from '../components/format'
import { Empty, Loaded, Problem, Waiting } from '../components/states'
import { useUndo } from '../components/useUndo'
import { onBench } from '../pairs/onBench'
import { useCurrentPair } from '../pairs/PairContext'
import { usePairOf } from '../pairs/usePairOf'
import type { OpenedMesh, PlanAsk } from '../workers/part.worker'
import { AboveDrawing } from './AboveDrawing'
import { ChangesEditor } from './Changes'
import { MeshDrop } from './MeshDrop'
import { Figures, Forecast, PlanNotes } from './Outlook'
import { PartPaths } from './PartPaths'
import { Standing, chosenPlacing } from './Standing'
import { StepTrial } from './StepTrial'
import { TakeAway } from './TakeAway'
import type { PartWork } from './partWork'
import { useAsked, usePartWork } from './usePartWork'
import { usePartEdit } from './usePartEdit'
import { changesFrom, changesText } from './whatIf'
import { Working } from './Working'
import { Worth } from './Worth'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'

/** A part on the chosen pair: how it stands, what its paths will be, and what a change would do. */
export default function PartPage() {
  const { id = '' } = useParams()
  const part = usePart(id)
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId)
  if (!pairId) return <Empty>Choose a pair first: a part is laid with its recipe, on its machine.</Empty>
  return (
    <Loaded query={part}>
      {(p) => <Loaded query={pair}>{(q) => <PartSheet key={p.id} part={p} pair={q} />}</Loaded>}
    </Loaded>
  )
}

const nameOf = (pair: PairDetail) => `${pair.filament.filament.name} on ${pair.machine.machine.name}`

function PartSheet({ part, pair }: { part: PartRecord; pair: PairDetail }) {
  const [number, setNumber] = useState<number | null>(null)
  const version = part.versions.find((v) => v.number === number) ?? part.versions.at(-1)!
  const edit = usePartEdit(part)
  const [replacing, setReplacing] = useState(false)
  const client = useQueryClient()
  return (
    <>
      <Head
        part={part}
        edit={edit}
        version={version.number}
        onVersion={setNumber}
        replacing={replacing}
        onReplace={() => setReplacing(!replacing)}
      />
      <div className={ui.stack}>
        {edit.conflict ? (
          <div className={clsx(ui.notice, ui.caution, ui.row, ui.between)} role="alert">
            <span>This part was changed in another window. Yours is kept here.</span>
            <span className={ui.row}>
              <Button size="small" onClick={() => edit.settle(true)}>
                Save mine over it
              </Button>
              <Button size="small" onClick={() => edit.settle(false)}>
                Take the other
              </Button>
            </span>
          </div>
        ) : (
          !!edit.error && <Problem error={edit.error} again={edit.again} />
        )}
        {replacing && (
          <MeshDrop
            hint={`Drop the next version of ${part.name} here.`}
            onMesh={async (mesh) => {
              client.setQueryData(keys.parts.one(part.id), await api.parts.addVersion(part.id, mesh))
              await changed.part(client)
              setNumber(null)
              setReplacing(false)
            }}
          />
        )}
        <OpenVersion
          key={`${version.sha256} ${version.unit}`}
          part={part}
          pair={pair}
          version={version}
          layout={edit.edit.layout}
          own={edit.edit.own}
          onLayout={(patch) => edit.change({ layout: { ...edit.edit.layout, ...patch } })}
          onOwn={(own) => edit.change({ own })}
        />
        <Used part={part} />
      </div>
    </>
  )
}

interface OfPart {
  part: PartRecord
  pair: PairDetail
  version: PartVersion
  layout: Layout
  own: Changes
  onLayout: (patch: Partial<Layout>) => void
  onOwn: (own: Changes) => void
}

/** A version of a part, while its worker has it open. */
function OpenVersion(props: OfPart) {
  const open = usePartWork(props.version)
  if (open.error) return <Problem error={open.error} />
  return open.opened ? <Planned {...props} work={open.work} opened={open.opened} /> : <Waiting tall={420} />
}

function Head({
  part,
  edit: { edit, change },
  version,
  onVersion,
  replacing,
  onReplace,
}: {
  part: PartRecord
  edit: ReturnType<typeof usePartEdit>
  version: number
  onVersion: (number: number) => void
  replacing: boolean
  onReplace: () => void
}) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const undo = useUndo()
  const remove = useMutation({
    mutationFn: () => api.parts.remove(part.id),
    onSuccess: async () => {
      await changed.part(client)
      void navigate('/parts')
      undo(`${part.name} is removed.`, () => void api.parts.restore(part.id).then(() => changed.part(client)))
    },
  })
  const shown = part.versions.find((v) => v.number === version)!
  return (
    <div style={{ marginBottom: 12 }}>
      <div className={ui.pagehead} style={{ marginBottom: 4 }}>
        <h1 className={ui.visuallyHidden}>{part.name}</h1>
        <Input
          className={styles.name}
          variant="borderless"
          value={edit.name}
          maxLength={120}
          aria-label="The part’s name"
          status={edit.name.trim() ? undefined : 'error'}
          onChange={(e) => change({ name: e.target.value })}
        />
        <span className={clsx(ui.faint, ui.figure)}>
          {shown.size.map((v) => figure(v, 1)).join(' × ')} mm, {figure(shown.volume / 1000, 1)} cm³
        </span>
        {part.versions.length > 1 && (
          <Select
            size="small"
            value={version}
            onChange={onVersion}
            aria-label="Version of the part"
            options={[...part.versions]
              .reverse()
              .map((v) => ({ value: v.number, label: `version ${v.number}, ${ago(v.createdAt)}` }))}
            style={{ width: 200 }}
          />
        )}
        <Button size="small" onClick={onReplace} aria-expanded={replacing}>
          Next version
        </Button>
        <Button size="small" type="text" onClick={() => remove.mutate()}>
          Remove
        </Button>
      </div>
      <Input.TextArea
        aria-label="Note on the part"
        placeholder="Note: what it is for, what matters on it"
        value={edit.note}
        maxLength={4000}
        rows={1}
        variant="borderless"
        style={{ paddingLeft: 0 }}
        onChange={(e) => change({ note: e.target.value })}
      />
    </div>
  )
}

/** What is tried: values of the recipe, another way to stand, another pair. */
interface WhatIf {
  changes: Changes
  /** Lies over the part's own layout. */
  layout: Partial<Layout>
  pairId: string | null
}
const NOTHING: WhatIf = { changes: {}, layout: {}, pairId: null }
const isNothing = ({ changes, layout, pairId }: WhatIf) =>
  !pairId && !Object.keys(changes).length && !Object.keys(layout).length

function Planned({
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
      <Standing
        opened={opened}
        placings={placings.data}
        layout={trying ? thenLayout : layout}
        fits={placings.data?.fits ?? null}
        nozzle={pair.nozzle}
        onLayout={(patch) => (trying ? change({ layout: { ...tried.layout, ...patch } }) : onLayout(patch))}
      />
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
          <Keep
            part={part}
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
              </div>
              <Figures now={now.data} then={thenView} />
              <PlanNotes view={shown} />
            </section>
            <section className={clsx(ui.sheet, ui.stack)} aria-label="From above">
              <h2>From above</h2>
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
            </section>
            <Forecast now={now.data} then={thenView} />
            <Worth
              work={work}
              ask={askNow}
              onTry={(changes) => change({ changes: { ...tried.changes, ...changes } as Changes })}
            />
          </div>
          <StepTrial
            key={`${version.number} ${pair.id}`}
            part={part}
            version={version}
            pair={pair}
            layout={layout}
            own={own}
            height={now.data.reading.height}
          />
          <PartPaths
            work={work}
            pair={pair}
            now={now.data}
            then={thenView && otherPair ? { view: thenView, pair: otherPair } : null}
          />
        </>
      )}
    </>
  )
}

const NO_PAIRS: readonly PairSummary[] = []

/** Another pair to lay the part with. */
function PairSelect({
  value,
  current,
  onChange,
}: {
  value: string | null
  current: string
  onChange: (id: string | null) => void
}) {
  const pairs = usePairs().data ?? NO_PAIRS
  const pairOf = usePairOf()
  return (
    <Select
      size="small"
      value={value}
      allowClear
      placeholder="on another pair"
      aria-label="On another pair"
      onChange={(id: string | undefined) => onChange(id ?? null)}
      options={pairs.flatMap(({ id }) => {
        const known = id === current ? null : pairOf(id)
        return known ? [{ value: id, label: known.label }] : []
      })}
      style={{ width: 200 }}
      popupMatchSelectWidth={280}
    />
  )
}

/** What becomes of a change that was tried. */
function Keep({
  pair,
  tried,
  onOwn,
  onDrop,
}: {
  part: PartRecord
  pair: PairDetail
  tried: WhatIf
  onOwn: () => void
  onDrop: () => void
}) {
  const client = useQueryClient()
  const undo = useUndo()
  const inRecipe = useMutation({
    mutationFn: () =>
      api.pairs.change(pair.id, { base: pair.current, set: tried.changes, reason: 'Seen on a part' }),
    onSuccess: async (version) => {
      await changed.recipe(client, pair.id)
      onDrop()
      undo(`Kept as version ${version.number} of the recipe.`, () => {
        void api.pairs
          .restore(pair.id, version.number, pair.current)
          .then(() => changed.recipe(client, pair.id))
      })
    },
  })
  const some = Object.keys(tried.changes).length > 0
  return (
    <div className={ui.row}>
      {!tried.pairId && (
        <>
          {some && (
            <Button
              size="small"
              type="primary"
              loading={inRecipe.isPending}
              onClick={() => inRecipe.mutate()}
            >
              Keep in the recipe
            </Button>
          )}
          <Button size="small" onClick={onOwn}>
            Keep for this part
          </Button>
        </>
      )}
      <Button size="small" onClick={onDrop}>
        Drop it
      </Button>
      {!!inRecipe.error && <Problem error={inRecipe.error} />}
    </div>
  )
}

/** The cases a part has, and the plans that were taken away. */
function Used({ part }: { part: PartRecord }) {
  const pairOf = usePairOf()
  const named = (id: string) => pairOf(id)?.label ?? 'a pair that is gone'
  const { pairId } = useCurrentPair()
  const client = useQueryClient()
  const navigate = useNavigate()
  const size = part.versions.at(-1)!.size
  const begin = useMutation({
    mutationFn: () =>
      api.cases.create(
        pairId!,
        part.name,
        null,
        Math.min(2000, Math.max(1, Math.round(Math.max(...size)))),
        part.id,
      ),
    onSuccess: (c) => {
      client.setQueryData(keys.cases.one(c.id), c)
      void changed.cases(client)
      void client.invalidateQueries({ queryKey: keys.parts.one(part.id) })
      void navigate(`/cases/${c.id}`)
    },
  })
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Where it was used">
      <div className={clsx(ui.row, ui.between)}>
        <h2>Where it was used</h2>
        <Button size="small" loading={begin.isPending} onClick={() => begin.mutate()}>
          It came out wrong: begin a case
        </Button>
      </div>
      {!!begin.error && <Problem error={begin.error} />}
      {!part.cases.length && !part.plans.length && (
        <p className={ui.faint}>Not yet: neither a case nor a plan that was taken to print.</p>
      )}
      <table className={ui.plain}>
        <tbody>
          {part.cases.map((c) => (
            <tr key={c.id}>
              <td>
                <Link to={`/cases/${c.id}`}>{c.part}</Link>
              </td>
              <td className={ui.faint}>{named(c.pairId)}</td>
              <td>
                <span className={clsx(ui.tag, c.status === 'closed' ? ui.good : ui.info)}>{c.status}</span>
              </td>
              <td />
            </tr>
          ))}
          {[...part.plans].reverse().map((p) => (
            <tr key={p.id}>
              <td>
                Taken to print, version {p.version} with recipe version {p.recipe}
              </td>
              <td className={ui.faint}>{named(p.pairId)}</td>
              <td className={ui.figure}>
                {figure(p.minutes, 0)} min, {figure(p.grams, 1)} g
              </td>
              <td className={ui.faint}>{ago(p.createdAt)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
