import { useQueryClient } from '@tanstack/react-query'
import type { CaseDetail, PairDetail, PartRecord } from '@verimend/contract'
import { figure, quantity } from '@verimend/core/quantity'
import { Button, Progress, Select } from 'antd'
import { clsx } from 'clsx'
import { useEffect, useMemo, useState } from 'react'
import { Link } from 'react-router'
import { api } from '../api/client'
import { newId } from '../api/ids'
import { changed, keys } from '../api/keys'
import { usePart, useParts } from '../api/queries'
import { Problem } from '../components/states'
import ui from '../components/ui.module.css'
import { MeshDrop } from '../parts/MeshDrop'
import { useAsked, usePartWork } from '../parts/usePartWork'
import type { CaseActions } from './useCaseActions'

type Known = Pick<CaseDetail, 'id' | 'partId' | 'about'>

/** The part's own 3D model in a case: what it says of the part bears on the diagnosis. */
export function CaseModel({
  kase,
  pair,
  closed,
  actions,
}: {
  kase: Known
  pair: PairDetail
  closed: boolean
  actions: CaseActions
}) {
  const client = useQueryClient()
  const parts = useParts()
  const [adding, setAdding] = useState(false)
  const known = parts.data?.find((p) => p.id === kase.partId)
  if (closed && !kase.partId) return null
  return (
    <div className={clsx(ui.stack, ui.small)} style={{ gap: 6 }} role="group" aria-label="Its 3D model">
      <div className={ui.row}>
        {(!!parts.data?.length || !!kase.partId) && (
          <label className={ui.row}>
            3D model
            <Select
              size="small"
              value={known ? kase.partId : null}
              allowClear
              disabled={closed}
              placeholder="none of those kept"
              aria-label="3D model"
              onChange={(id: string | undefined) => actions.setPart(id ?? null)}
              options={parts.data?.map((p) => ({ value: p.id, label: p.name }))}
              style={{ width: 190 }}
            />
          </label>
        )}
        {known && <Link to={`/parts/${known.id}`}>See it planned</Link>}
        {!known && !closed && !adding && (
          <Button size="small" onClick={() => setAdding(true)}>
            Add its 3D model
          </Button>
        )}
      </div>
      {adding && !known && (
        <MeshDrop
          hint="Drop the STL or 3MF file of this part."
          to={`/cases/${kase.id}`}
          onMesh={async (mesh, name) => {
            const part = await api.parts.create({ id: newId(), name, mesh })
            client.setQueryData(keys.parts.one(part.id), part)
            await changed.part(client)
            setAdding(false)
            actions.setPart(part.id)
          }}
        />
      )}
      {kase.about && <WhatItSays about={kase.about} pair={pair} />}
      {kase.partId && known && !kase.about && !closed && (
        <Looking key={kase.partId} partId={kase.partId} pair={pair} actions={actions} />
      )}
    </div>
  )
}

/** Opens the model once and notes what it says. */
function Looking({ partId, pair, actions }: { partId: string; pair: PairDetail; actions: CaseActions }) {
  const part = usePart(partId)
  if (part.error) return <Problem error={part.error} />
  return part.data ? <LookingAt part={part.data} pair={pair} actions={actions} /> : null
}

function LookingAt({ part, pair, actions }: { part: PartRecord; pair: PairDetail; actions: CaseActions }) {
  const { work, opened, error } = usePartWork(part.versions.at(-1)!, part)
  const ask = useMemo(
    () =>
      opened && {
        pair: {
          machine: pair.machine.machine,
          filament: pair.filament.filament,
          recipe: pair.version.values,
        },
        own: part.own,
        layout: part.layout,
      },
    [opened, pair, part],
  )
  const facts = useAsked(work, 'facts', ask)
  const { setPart } = actions
  useEffect(() => {
    if (facts.data) setPart(part.id, facts.data)
  }, [facts.data, part.id, setPart])
  const failed = error ?? facts.error
  if (failed) return <Problem error={failed} again={facts.error ? facts.again : undefined} />
  return (
    <div className={ui.row} role="status">
      <span className={ui.faint}>Looking at the 3D model …</span>
      <Progress
        percent={Math.round(facts.share * 100)}
        size="small"
        style={{ width: 160 }}
        aria-label="Looking at the 3D model"
      />
    </div>
  )
}

/** What a model says of the part, each as a sentence; what is out of the ordinary first. */
function WhatItSays({ about, pair }: { about: NonNullable<CaseDetail['about']>; pair: PairDetail }) {
  const line = pair.version.values.outerWidth.value
  const said: { text: string; odd: boolean }[] = [
    ...(about.gap === null
      ? []
      : [
          {
            text: `Its moving pieces are ${quantity(about.gap, 'mm', 2)} apart where they come closest.`,
            odd: about.gap < 0.35,
          },
        ]),
    ...(about.wall === null
      ? []
      : [
          about.wall < line
            ? {
                text: `Its thinnest wall is ${quantity(about.wall, 'mm', 2)}, which is less than one line of ${quantity(line, 'mm', 2)}. Parts of it are not printed.`,
                odd: true,
              }
            : { text: `Its thinnest wall is ${quantity(about.wall, 'mm', 2)}.`, odd: false },
        ]),
    {
      text:
        about.hanging < 1
          ? 'None of its faces hang steeper than 60°.'
          : `${quantity(about.hanging, 'mm²', 0)} of its faces hang steeper than 60°.`,
      odd: about.hanging > 60,
    },
    {
      text: `It stands on ${quantity(about.contact, 'mm²', 0)}${about.islands > 1 ? ` in ${figure(about.islands, 0)} separate places` : ''} and is ${quantity(about.height, 'mm', 0)} tall.`,
      odd: about.push !== null && about.push < 5,
    },
  ]
  return (
    <ul className={ui.plainlist} aria-label="What its 3D model says">
      {[...said]
        .sort((a, b) => Number(b.odd) - Number(a.odd))
        .map(({ text, odd }) => (
          <li key={text} className={odd ? ui.wrap : clsx(ui.faint, ui.wrap)}>
            {text}
          </li>
        ))}
    </ul>
  )
}
