import { Button, Checkbox } from 'antd'
import type { MeasurementAct, MeasurementRecord, PairDetail } from '@verimend/contract'
import { valuesMeasured } from '@verimend/core/casework'
import type { Machine } from '@verimend/core/machine'
import {
  generalClassOf,
  gradeOf,
  type Evaluated,
  type Measured,
  type SizesOutcome,
} from '@verimend/core/measurement'
import { figure } from '@verimend/core/quantity'
import { CAUSE_WORDS, bareText, say, settingLabel, valueText } from '@verimend/core/words'
import type { NumberKey } from '@verimend/core/recipe'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { BedMap } from './BedMap'
import { SizeChart } from './SizeChart'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** What a measurement says, and what recipe, machine or roll may take from it. */
export function MeasuredOutcome({
  record,
  measured,
  evaluated,
  machine,
  pair,
  settled,
}: {
  record: MeasurementRecord
  measured: Measured
  evaluated: Evaluated
  machine: Machine
  pair: PairDetail | undefined
  /** Resolves when what was typed is kept. */
  settled: () => Promise<void>
}) {
  const { outcome } = evaluated
  return (
    <div className={ui.stack} data-outcome={outcome.kind}>
      <ul className={ui.plainlist}>
        {outcome.reasons.map((r, i) => (
          <li key={i} className={i === 0 ? undefined : ui.faint}>
            {say(r)}
          </li>
        ))}
      </ul>
      {evaluated.of === 'bed' && evaluated.outcome.kind === 'found' && (
        <BedMap outcome={evaluated.outcome} machine={machine} />
      )}
      {evaluated.of === 'bed' && !machine.bed.screws && machine.bed.levelling === 'screws' && (
        <p className={clsx(ui.notice, ui.caution)}>
          Describe the bed’s screws on the machine’s sheet: then the turns of each are worked out.
        </p>
      )}
      {evaluated.of === 'sizes' && measured.kind === 'sizes' && (
        <>
          <SizeChart outcome={evaluated.outcome} readings={measured.readings} />
          <Classes outcome={evaluated.outcome} measured={measured} />
        </>
      )}
      {evaluated.of === 'bands' && evaluated.outcome.causes.length > 0 && (
        <Causes causes={evaluated.outcome.causes} />
      )}
      {pair && <Adopt record={record} evaluated={evaluated} pair={pair} settled={settled} />}
      <Apply record={record} measured={measured} evaluated={evaluated} settled={settled} />
      {record.acted && (
        <p className={clsx(ui.notice, ui.good)}>
          {record.acted.version !== null && `In the recipe as version ${record.acted.version}. `}
          {DONE_WITH[record.acted.what]}
        </p>
      )}
    </div>
  )
}

const DONE_WITH: Record<NonNullable<MeasurementRecord['acted']>['what'], string> = {
  recipe: '',
  levelled: 'Levelling is noted on the machine. Measure once more to see what is left.',
  'as-it-lies': 'How even the bed is is noted on the machine.',
  steps: 'The corrected steps are noted.',
  weight: 'The weight is noted on the roll.',
  diameter: 'The diameters are noted on the roll, for every recipe that is derived for it.',
}

/** Tolerance grade and class before and after, and sizes of the real part. */
function Classes({
  outcome,
  measured,
}: {
  outcome: SizesOutcome
  measured: Extract<Measured, { kind: 'sizes' }>
}) {
  const rows = outcome.rows.flatMap((r) => {
    const nominal = measured.readings.find((s) => s.id === r.id)?.nominal
    return nominal ? [{ nominal, before: r.error, after: r.after }] : []
  })
  if (rows.length < 2) return null
  const of = (side: 'before' | 'after') => {
    const sizes = rows.map((r) => ({ nominal: r.nominal, error: r[side] }))
    const grade = gradeOf(sizes)
    return [grade === null ? 'beyond IT16' : `IT${grade}`, generalClassOf(sizes) ?? 'none']
  }
  const [before, after] = [of('before'), of('after')]
  return (
    <table className={ui.plain}>
      <thead>
        <tr>
          <td />
          <th>As printed</th>
          <th>After the corrections</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>Grade, ISO 286-1</td>
          <td className={ui.figure}>{before[0]}</td>
          <td className={ui.figure}>{after[0]}</td>
        </tr>
        <tr>
          <td>Class, ISO 2768-1</td>
          <td>{before[1]}</td>
          <td>{after[1]}</td>
        </tr>
        {outcome.foretold.map((f, i) => (
          <tr key={i}>
            <td>
              {f.wanted.name} {figure(f.wanted.nominal, 2)} {f.wanted.kind}
            </td>
            <td className={ui.figure}>
              {figure(f.now, 2)} ± {figure(f.plusMinus, 2)}
            </td>
            <td className={ui.figure}>
              {figure(f.after, 2)} ± {figure(f.plusMinus, 2)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Causes({ causes }: { causes: Extract<Evaluated, { of: 'bands' }>['outcome']['causes'] }) {
  return (
    <table className={ui.plain}>
      <thead>
        <tr>
          <th>What repeats</th>
          <th className={ui.num}>every, mm</th>
          <th className={ui.num}>off, %</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {causes.map((c) => (
          <tr key={c.cause}>
            <td>{CAUSE_WORDS[c.cause]}</td>
            <td className={clsx(ui.num, ui.figure)}>{figure(c.period * c.times, 2)}</td>
            <td className={clsx(ui.num, ui.figure)}>{figure(c.off * 100, 1)}</td>
            <td>
              {c.fits ? (
                <span className={clsx(ui.tag, ui.good)}>fits</span>
              ) : (
                <span className={ui.faint}>does not fit</span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** The attempt of a case that prints with a version; null where there is none. */
async function attemptWith(caseId: string, version: number): Promise<number | null> {
  const { attempts } = await api.cases.one(caseId)
  return attempts.find((a) => a.toVersion === version && a.recordedAt === null)?.number ?? null
}

/** Values for the recipe, each to be left out; where it is the one or the other, only one of them. */
function Adopt({
  record,
  evaluated,
  pair,
  settled,
}: {
  record: MeasurementRecord
  evaluated: Evaluated
  pair: PairDetail
  settled: () => Promise<void>
}) {
  const client = useQueryClient()
  const undo = useUndo()
  const { adopt, instead } = valuesMeasured(evaluated, pair.version.values)
  const [other, setOther] = useState(false)
  const [left, setLeft] = useState<ReadonlySet<NumberKey>>(new Set())
  const offered = other ? instead : adopt
  const taken = offered.filter((a) => !left.has(a.key))
  const take = useMutation({
    mutationFn: async () => {
      await settled()
      return api.measurements.adopt(
        record.id,
        pair.current,
        taken.map((a) => a.key),
      )
    },
    onSuccess: async (kept) => {
      client.setQueryData(keys.measurements.one(record.id), kept)
      const before = pair.current
      const { caseId } = record
      await Promise.all([changed.measurement(client), changed.recipe(client, pair.id)])
      const attempt = caseId ? await attemptWith(caseId, kept.acted!.version!) : null
      undo(
        attempt === null
          ? `Taken into version ${kept.acted?.version}.`
          : `Taken into version ${kept.acted?.version}, as attempt ${attempt} of the case.`,
        () =>
          void (
            attempt === null
              ? api.pairs.restore(pair.id, kept.acted!.version!, before)
              : api.cases.withdraw(caseId!, attempt)
          ).then(() => changed.everything(client)),
      )
    },
  })
  if (!adopt.length && !instead.length) return null
  return (
    <section className={ui.stack} style={{ gap: 8 }} aria-label="For the recipe">
      <h3>For the recipe of {pair.filament.filament.name}</h3>
      <ul className={ui.changes}>
        {offered.map((a) => (
          <li key={a.key}>
            <Checkbox
              checked={!left.has(a.key)}
              onChange={(e) => {
                const next = new Set(left)
                if (e.target.checked) next.delete(a.key)
                else next.add(a.key)
                setLeft(next)
              }}
            >
              {settingLabel(a.key)}
            </Checkbox>
            <span className={ui.figure}>
              {bareText(a.key, pair.version.values[a.key].value)} → {valueText(a.key, a.value)}
              {a.plusMinus > 0 && <> ± {figure(a.plusMinus, a.plusMinus < 0.1 ? 3 : 2)}</>}
            </span>
          </li>
        ))}
      </ul>
      {instead.length > 0 && (
        <button type="button" className={clsx(ui.linkish, ui.small)} onClick={() => setOther(!other)}>
          {other
            ? `Rather ${adopt.map((a) => settingLabel(a.key)).join(' and ')}`
            : `Rather ${instead.map((a) => settingLabel(a.key)).join(' and ')}`}
        </button>
      )}
      {!!take.error && <Problem error={take.error} />}
      <div>
        <Button
          type="primary"
          disabled={!taken.length}
          loading={take.isPending}
          onClick={() => take.mutate()}
        >
          Take into version {pair.current + 1}
        </Button>
      </div>
    </section>
  )
}

/** What is put right on the machine or the roll, and noted there. */
function Apply({
  record,
  measured,
  evaluated,
  settled,
}: {
  record: MeasurementRecord
  measured: Measured
  evaluated: Evaluated
  settled: () => Promise<void>
}) {
  const client = useQueryClient()
  const apply = useMutation({
    mutationFn: async (what: Exclude<MeasurementAct['what'], 'recipe'>) => {
      await settled()
      return api.measurements.apply(record.id, what)
    },
    onSuccess: async (kept) => {
      client.setQueryData(keys.measurements.one(record.id), kept)
      await changed.everything(client)
    },
  })
  const ofAxes = evaluated.of === 'sizes' && evaluated.outcome.machine.length > 0
  const offer =
    (record.acted && record.acted.what !== 'recipe') || evaluated.outcome.kind === 'few'
      ? null
      : ofAxes
        ? (['steps', 'I corrected the steps: note it'] as const)
        : measured.kind === 'bed'
          ? (['levelled', 'I turned the screws: note it on the machine'] as const)
          : measured.kind === 'feed' && evaluated.outcome.kind === 'found'
            ? (['steps', 'I corrected the steps: note it on the machine'] as const)
            : measured.kind === 'roll' && record.pairId
              ? (['weight', 'Note it on the roll'] as const)
              : measured.kind === 'diameter' && record.pairId
                ? (['diameter', 'Note it on the roll'] as const)
                : null
  return (
    <>
      {evaluated.of === 'sizes' && evaluated.outcome.machine.length > 0 && (
        <section className={clsx(ui.notice, ui.caution)} aria-label="For the machine">
          {evaluated.outcome.machine.map((m) => (
            <p key={m.axis}>
              For the machine: multiply the steps of {m.axis.toUpperCase()} by{' '}
              <span className={ui.figure}>
                {figure(m.factor, 4)} ± {figure(m.plusMinus, 4)}
              </span>
              .
            </p>
          ))}
        </section>
      )}
      {offer && (
        <div className={ui.row}>
          <Button loading={apply.isPending} onClick={() => apply.mutate(offer[0])}>
            {offer[1]}
          </Button>
          {offer[0] === 'levelled' && (
            <Button loading={apply.isPending} onClick={() => apply.mutate('as-it-lies')}>
              Nothing was turned: note how even it is
            </Button>
          )}
        </div>
      )}
      {!!apply.error && <Problem error={apply.error} />}
    </>
  )
}
