import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { cardOf, diameterFacts, dryness, figure } from '@verimend/core'
import type { FilamentRecord } from '@verimend/contract'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { useFilaments } from '../api/queries'
import { Empty, Loaded } from '../parts/Problem'
import { RemoveButton } from '../parts/RemoveButton'
import { useUndo } from '../parts/useUndo'
import { DryText, Swatch } from '../pairs/PairName'
import { today } from '../parts/format'
import { DryingForm, useRollChange } from './RollCare'

/** The rolls: what each is, what is left, whether it is dry. */
export default function Shelf() {
  const filaments = useFilaments()
  const navigate = useNavigate()
  const client = useQueryClient()
  const undo = useUndo()
  const refresh = () => {
    void client.invalidateQueries({ queryKey: ['filaments'] })
    void client.invalidateQueries({ queryKey: ['pairs'] })
  }
  const restore = useMutation({ mutationFn: api.filaments.restore, onSuccess: refresh })
  const remove = useMutation({
    mutationFn: api.filaments.remove,
    onSuccess: (f) => {
      refresh()
      undo(`${f.filament.name} is off the shelf. Its recipes are kept.`, () => restore.mutate(f.id))
    },
  })
  return (
    <>
      <div className="pagehead">
        <h1>Shelf</h1>
        <span className="grow" />
        <Button type="primary" onClick={() => void navigate('/shelf/new')}>
          Add a roll
        </Button>
      </div>
      <Loaded query={filaments}>
        {(list) =>
          list.length === 0 ? (
            <Empty action={<Button onClick={() => void navigate('/shelf/new')}>Add the first roll</Button>}>
              The shelf is empty. A roll brings its label’s ranges, from which the first recipe is made.
            </Empty>
          ) : (
            <>
              <ToDry rolls={list} />
              <div className="sheet tablewrap">
                <table className="plain">
                  <thead>
                    <tr>
                      <th>Roll</th>
                      <th>Family</th>
                      <th className="num">Label, nozzle °C</th>
                      <th className="num secondary">Label, bed °C</th>
                      <th className="num">Diameter mm</th>
                      <th className="num">Left g</th>
                      <th className="num secondary">Price, kg</th>
                      <th>Dry</th>
                      <th>
                        <span className="visually-hidden">Actions</span>
                      </th>
                    </tr>
                  </thead>
                  <tbody>
                    {list.map(({ id, filament: f }) => {
                      const d = diameterFacts(f)
                      return (
                        <tr key={id} data-testid="roll">
                          <td className="rollname">
                            <Swatch colour={f.colour} />{' '}
                            <Link to={`/shelf/${id}`} className="wrap">
                              {f.name}
                            </Link>
                            <div className="faint wrap">{f.maker}</div>
                          </td>
                          <td>
                            {cardOf(f.family).name}
                            {f.finish !== 'plain' && <div className="faint">{f.finish}</div>}
                          </td>
                          <td className="num figure">
                            {f.label.nozzle ? `${f.label.nozzle.min}–${f.label.nozzle.max}` : '–'}
                          </td>
                          <td className="num figure secondary">
                            {f.label.bed ? `${f.label.bed.min}–${f.label.bed.max}` : '–'}
                          </td>
                          <td className="num figure">
                            {d ? figure(d.mean, 3) : figure(f.diameter, 2)}
                            <div className="faint">
                              {d
                                ? `spread ${figure(d.spread, 2)}${d.ovality === null ? '' : `, oval ${figure(d.ovality, 2)}`}`
                                : 'nominal'}
                            </div>
                          </td>
                          <td className="num figure">
                            {f.weightLeft === null ? '–' : figure(f.weightLeft, 0)}
                            <div className="faint">of {figure(f.rollWeight, 0)}</div>
                            {f.weightLeft !== null && (
                              <div className="gauge" aria-hidden="true">
                                <i style={{ width: `${(f.weightLeft / f.rollWeight) * 100}%` }} />
                              </div>
                            )}
                          </td>
                          <td className="num figure secondary">
                            {f.price
                              ? `${figure((f.price.amount / f.rollWeight) * 1000, 2)} ${f.price.currency}`
                              : '–'}
                          </td>
                          <td>
                            <DryText filament={f} />
                          </td>
                          <td className="num">
                            <RemoveButton what={f.name} onClick={() => remove.mutate(id)} />
                          </td>
                        </tr>
                      )
                    })}
                  </tbody>
                </table>
              </div>
            </>
          )
        }
      </Loaded>
    </>
  )
}

/** Rolls that want the dryer before their next print, worst first. */
function ToDry({ rolls }: { rolls: FilamentRecord[] }) {
  const due = rolls.filter((r) => dryness(r.filament, today()) === 'due')
  if (!due.length) return null
  return (
    <section
      className="notice caution stack"
      style={{ marginBottom: 14 }}
      aria-label="Dry before the next print"
    >
      <strong>Dry before the next print</strong>
      {due.map((r) => (
        <DueRoll key={`${r.id}${r.rev}`} record={r} />
      ))}
    </section>
  )
}

function DueRoll({ record }: { record: FilamentRecord }) {
  const change = useRollChange(record)
  const { filament: f } = record
  return (
    <div className="row between dueroll">
      <span>
        <Swatch colour={f.colour} /> {f.name} <span className="faint">{cardOf(f.family).name}</span>{' '}
        <DryText filament={f} />
      </span>
      <DryingForm
        filament={f}
        onChange={(c, said) => change.mutate({ change: c, said })}
        busy={change.isPending}
      />
    </div>
  )
}
