import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, InputNumber } from 'antd'
import {
  cardOf,
  diameterFacts,
  dryingCounts,
  dryingHours,
  ruinsRoll,
  dryingOf,
  dryness,
  partCost,
  rollFit,
  type Drying,
  type Filament,
} from '@verimend/core/material'
import { filamentLength } from '@verimend/core/extrusion'
import { figure, quantity } from '@verimend/core/quantity'
import type { FilamentRecord } from '@verimend/contract'
import { useState } from 'react'
import { Link } from 'react-router'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { useFilaments } from '../api/queries'
import { DryText, Swatch } from '../pairs/PairName'
import { today } from '../components/format'
import { Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './RollCare.module.css'

/** Saves one change of a roll at once and offers it back. */
export function useRollChange(record: FilamentRecord) {
  const client = useQueryClient()
  const undo = useUndo()
  const refresh = () => void changed.filament(client)
  return useMutation({
    mutationFn: ({ change }: { change: Partial<Filament>; said: string }) =>
      api.filaments.update(record.id, record.rev, { ...record.filament, ...change }),
    onSuccess: (saved, { said }) => {
      refresh()
      undo(said, () => {
        void api.filaments.update(saved.id, saved.rev, record.filament).then(refresh)
      })
    },
  })
}

/** Drying, weight, diameter and whether the next part fits: what a roll needs between prints. */
export function RollCare({ record }: { record: FilamentRecord }) {
  const f = record.filament
  const change = useRollChange(record)
  return (
    <div className={styles.carecards} aria-label="Care of the roll">
      <DryingCard
        filament={f}
        onChange={(c, said) => change.mutate({ change: c, said })}
        busy={change.isPending}
      />
      <WeightCard
        filament={f}
        onChange={(c, said) => change.mutate({ change: c, said })}
        busy={change.isPending}
      />
      <FitCard record={record} />
      {change.error && <Problem error={change.error} />}
    </div>
  )
}

type OnChange = (change: Partial<Filament>, said: string) => void

/** Notes a time in the dryer, and says whether a colder dryer is enough. */
export function DryingForm({
  filament,
  onChange,
  busy,
}: {
  filament: Filament
  onChange: OnChange
  busy: boolean
}) {
  const wanted = dryingOf(filament)
  const [temperature, setTemperature] = useState<number | null>(wanted.temperature)
  const [hours, setHours] = useState<number | null>(wanted.hours)
  const needed = temperature === null ? null : dryingHours(wanted, temperature)
  const drying: Drying = { on: today(), temperature, hours }
  const enough = dryingCounts(drying, wanted)
  const ruined = temperature !== null && ruinsRoll(filament, temperature)
  return (
    <div className={ui.stack} style={{ gap: 6 }}>
      <div className={ui.row}>
        <InputNumber
          aria-label="Dryer, °C"
          value={temperature}
          onChange={setTemperature}
          suffix="°C"
          style={{ width: 90 }}
        />
        <InputNumber aria-label="Hours" value={hours} onChange={setHours} suffix="h" style={{ width: 80 }} />
        <Button
          loading={busy}
          disabled={temperature === null || hours === null || ruined}
          onClick={() =>
            onChange({ dryings: [...filament.dryings, drying] }, `${filament.name}: drying noted.`)
          }
        >
          Dried today
        </Button>
      </div>
      {ruined && (
        <span className={clsx(ui.fault, ui.small)}>
          At {quantity(temperature, '°C')} the turns of {cardOf(filament.family).name} weld together: that
          ruins the roll.
        </span>
      )}
      {!enough && !ruined && temperature !== null && (
        <span className={clsx(ui.caution, ui.small)}>
          {needed === null
            ? `Too cold to count: ${cardOf(filament.family).name} wants ${quantity(wanted.temperature, '°C')}.`
            : `At ${quantity(temperature, '°C')} it takes about ${quantity(needed, 'h', 0)}.`}
        </span>
      )}
    </div>
  )
}

function DryingCard({ filament, onChange, busy }: { filament: Filament; onChange: OnChange; busy: boolean }) {
  const wanted = dryingOf(filament)
  const log = [...filament.dryings].reverse()
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Drying">
      <div className={clsx(ui.row, ui.between)}>
        <h2>Drying</h2>
        <DryText filament={filament} />
      </div>
      <p className={clsx(ui.faint, ui.small)}>
        {quantity(wanted.temperature, '°C')} for {quantity(wanted.hours, 'h')}
        {wanted.hygroscopic
          ? `, again after ${wanted.openDays} days in the air.`
          : '; it bears the air well, dry it when it hisses.'}
      </p>
      <DryingForm filament={filament} onChange={onChange} busy={busy} />
      {log.length > 0 && (
        <ul className={ui.changes}>
          {log.slice(0, 4).map((d, i) => (
            <li key={`${d.on}${i}`}>
              <span className={ui.figure}>{d.on}</span>
              <span className={dryingCounts(d, wanted) ? ui.figure : clsx(ui.figure, ui.caution)}>
                {d.temperature === null ? 'no figures' : `${d.temperature} °C × ${d.hours} h`}
                {dryingCounts(d, wanted) ? '' : ', not enough'}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}

function WeightCard({
  filament: f,
  onChange,
  busy,
}: {
  filament: Filament
  onChange: OnChange
  busy: boolean
}) {
  const [gross, setGross] = useState<number | null>(null)
  const [used, setUsed] = useState<number | null>(null)
  const d = diameterFacts(f)
  const across = d?.mean ?? f.diameter
  const worth = f.weightLeft === null ? null : partCost(f, f.weightLeft)
  const net = gross === null ? null : gross - (f.spoolWeight ?? 0)
  const netFault =
    net === null
      ? null
      : net < 0
        ? 'That is less than the empty spool weighs.'
        : net > f.rollWeight
          ? 'That is more than a full roll holds. Is the empty spool right?'
          : null
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Weight">
      <div className={clsx(ui.row, ui.between)}>
        <h2>Weight</h2>
        <span className={ui.figure}>
          {f.weightLeft === null
            ? 'not weighed'
            : `${figure(f.weightLeft, 0)} of ${figure(f.rollWeight, 0)} g`}
        </span>
      </div>
      {f.weightLeft !== null && (
        <>
          <div
            className={ui.gauge}
            role="img"
            aria-label={`${figure((f.weightLeft / f.rollWeight) * 100, 0)} % left`}
          >
            <i style={{ width: `${(f.weightLeft / f.rollWeight) * 100}%` }} />
          </div>
          <p className={clsx(ui.faint, ui.small)}>
            About {quantity(filamentLength(f.weightLeft, across, cardOf(f.family).density) / 1000, 'm', 0)} of
            filament
            {worth && (
              <>
                , worth {figure(worth.amount, 2)} {worth.currency}
              </>
            )}
            .
          </p>
        </>
      )}
      <div className={ui.row}>
        <GramsField label="Roll with spool, g" hint="with spool" value={gross} onChange={setGross} />
        <Button
          loading={busy}
          disabled={net === null || netFault !== null}
          onClick={() => {
            onChange({ weightLeft: Math.round(net!) }, `${f.name}: ${Math.round(net!)} g are left.`)
            setGross(null)
          }}
        >
          Weighed
        </Button>
      </div>
      {f.spoolWeight === null && gross !== null && (
        <span className={clsx(ui.caution, ui.small)}>
          The empty spool’s weight is not noted: it is taken as 0 g.
        </span>
      )}
      {netFault && <span className={clsx(ui.fault, ui.small)}>{netFault}</span>}
      <div className={ui.row}>
        <GramsField label="Used up, g" hint="used" value={used} onChange={setUsed} />
        <Button
          loading={busy}
          disabled={used === null || f.weightLeft === null || used > f.weightLeft}
          onClick={() => {
            onChange({ weightLeft: Math.round(f.weightLeft! - used!) }, `${f.name}: ${used} g taken off.`)
            setUsed(null)
          }}
        >
          Take off
        </Button>
      </div>
      <p className={clsx(ui.faint, ui.small)}>
        {d
          ? `Diameter ${quantity(d.mean, 'mm', 3)}${d.uncertainty === null ? '' : ` ± ${figure(2 * d.uncertainty, 3)}`}, spread ${quantity(d.spread, 'mm', 3)}${d.ovality === null ? '' : `, ovality ${quantity(d.ovality, 'mm', 3)}`}: the feed is corrected by ${figure(((f.diameter / d.mean) ** 2 - 1) * 100, 1)} %.`
          : 'Never measured: the feed is worked out from the nominal diameter.'}
      </p>
    </section>
  )
}

/** A weight in grams; empty is null. */
function GramsField({
  label,
  hint,
  value,
  onChange,
}: {
  label: string
  hint: string
  value: number | null
  onChange: (grams: number | null) => void
}) {
  return (
    <InputNumber
      aria-label={label}
      placeholder={hint}
      min={0}
      value={value}
      onChange={onChange}
      suffix="g"
      style={{ width: 120 }}
    />
  )
}

/** Whether a part of so many grams fits, what it costs, and which roll could be joined. */
function FitCard({ record }: { record: FilamentRecord }) {
  const f = record.filament
  const rolls = useFilaments()
  const [grams, setGrams] = useState<number | null>(null)
  const fit = grams === null ? null : rollFit(f, grams)
  const cost = grams === null ? null : partCost(f, grams)
  const others =
    fit && (fit.fits === 'no' || fit.fits === 'tight')
      ? (rolls.data ?? [])
          .filter(
            (o) =>
              o.id !== record.id &&
              o.filament.family === f.family &&
              o.filament.diameter === f.diameter &&
              (o.filament.weightLeft ?? 0) >= Math.max(0, -fit.after),
          )
          .sort(
            (a, b) =>
              Number(b.filament.colour === f.colour) - Number(a.filament.colour === f.colour) ||
              Number(b.filament.maker === f.maker) - Number(a.filament.maker === f.maker),
          )
      : []
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Does the next part fit?">
      <h2>Does the next part fit?</h2>
      <div className={ui.row}>
        <GramsField label="Grams of the part" hint="part" value={grams} onChange={setGrams} />
        {cost && (
          <span className={clsx(ui.figure, ui.faint)}>
            {figure(cost.amount, 2)} {cost.currency}
          </span>
        )}
      </div>
      {fit && (
        <p
          className={fit.fits === 'no' ? ui.fault : fit.fits === 'tight' ? ui.caution : undefined}
          role="status"
        >
          {fit.fits === 'unknown'
            ? 'Nobody has weighed this roll: weigh it first.'
            : fit.fits === 'yes'
              ? `It fits; ${quantity(fit.after, 'g', 0)} stay on the roll.`
              : fit.fits === 'tight'
                ? `Only just: ${quantity(fit.after, 'g', 0)} would stay, and scales and estimates err by that much.`
                : `${quantity(-fit.after, 'g', 0)} are missing: the roll runs out at about ${figure((fit.left / fit.needed) * 100, 0)} % of the part.`}
        </p>
      )}
      {fit && (fit.fits === 'no' || fit.fits === 'tight') && (
        <div className={ui.small}>
          {others.length ? (
            <>
              Could be joined mid-print:{' '}
              {others.slice(0, 3).map((o) => (
                <span key={o.id} style={{ marginRight: 8 }}>
                  <Swatch colour={o.filament.colour} /> {o.filament.name} ({figure(o.filament.weightLeft!, 0)}{' '}
                  g)
                </span>
              ))}
            </>
          ) : (
            'No other roll of this family holds enough to join.'
          )}{' '}
          <Link to="/handbook/procedures#join-roll">How to join a roll</Link>
        </div>
      )}
      {!fit && (
        <p className={clsx(ui.faint, ui.small)}>
          The weight is shown with the G-code reading of a case, or in the program that made the file.
        </p>
      )}
      {fit && !dryness(f, today()).match(/fine|dry/) && (
        <p className={clsx(ui.caution, ui.small)}>Dry it first.</p>
      )}
    </section>
  )
}
