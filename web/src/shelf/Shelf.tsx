import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { cardOf, diameterFacts, dryness } from '@verimend/core/material'
import { figure } from '@verimend/core/quantity'
import type { FilamentRecord } from '@verimend/contract'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { useFilaments } from '../api/queries'
import { Empty, Loaded } from '../components/states'
import { RemoveButton } from '../components/RemoveButton'
import { useUndo } from '../components/useUndo'
import { DryText, Swatch } from '../pairs/PairName'
import { today } from '../components/format'
import { DryingForm, useRollChange } from './RollCare'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Shelf.module.css'

/** The rolls: what each is, what is left, whether it is dry. */
export default function Shelf() {
  const filaments = useFilaments()
  const navigate = useNavigate()
  const client = useQueryClient()
  const undo = useUndo()
  const refresh = () => void changed.filament(client)
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
      <div className={ui.pagehead}>
        <h1>Shelf</h1>
        <span className={ui.grow} />
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
              <div className={clsx(ui.sheet, ui.tablewrap)}>
                <table className={clsx(ui.plain, ui.stacks)}>
                  <thead>
                    <tr>
                      <th>Roll</th>
                      <th>Family</th>
                      <th className={ui.num}>Label, nozzle °C</th>
                      <th className={clsx(ui.num, ui.secondary)}>Label, bed °C</th>
                      <th className={ui.num}>Diameter mm</th>
                      <th className={ui.num}>Left g</th>
                      <th className={clsx(ui.num, ui.secondary)}>Price, kg</th>
                      <th>Dry</th>
                      <th>
                        <span className={ui.visuallyHidden}>Actions</span>
                      </th>
                    </tr>
                  </thead>
                  <tbody>
                    {list.map(({ id, filament: f }) => {
                      const d = diameterFacts(f)
                      return (
                        <tr key={id} data-testid="roll">
                          <td className={styles.rollname}>
                            <Swatch colour={f.colour} />{' '}
                            <Link to={`/shelf/${id}`} className={ui.wrap}>
                              {f.name}
                            </Link>
                            <div className={clsx(ui.faint, ui.wrap)}>{f.maker}</div>
                          </td>
                          <td>
                            {cardOf(f.family).name}
                            {f.finish !== 'plain' && <div className={ui.faint}>{f.finish}</div>}
                          </td>
                          <td className={clsx(ui.num, ui.figure)} data-label="nozzle, °C">
                            {f.label.nozzle ? `${f.label.nozzle.min}–${f.label.nozzle.max}` : '–'}
                          </td>
                          <td className={clsx(ui.num, ui.figure, ui.secondary)}>
                            {f.label.bed ? `${f.label.bed.min}–${f.label.bed.max}` : '–'}
                          </td>
                          <td className={clsx(ui.num, ui.figure)} data-label="mm">
                            {d ? figure(d.mean, 3) : figure(f.diameter, 2)}
                            <div className={ui.faint}>
                              {d
                                ? `spread ${figure(d.spread, 2)}${d.ovality === null ? '' : `, oval ${figure(d.ovality, 2)}`}`
                                : 'nominal'}
                            </div>
                          </td>
                          <td className={clsx(ui.num, ui.figure)} data-label="left, g">
                            {f.weightLeft === null ? '–' : figure(f.weightLeft, 0)}
                            <div className={ui.faint}>of {figure(f.rollWeight, 0)}</div>
                            {f.weightLeft !== null && (
                              <div className={ui.gauge} aria-hidden="true">
                                <i style={{ width: `${(f.weightLeft / f.rollWeight) * 100}%` }} />
                              </div>
                            )}
                          </td>
                          <td className={clsx(ui.num, ui.figure, ui.secondary)}>
                            {f.price
                              ? `${figure((f.price.amount / f.rollWeight) * 1000, 2)} ${f.price.currency}`
                              : '–'}
                          </td>
                          <td>
                            <DryText filament={f} />
                          </td>
                          <td className={ui.num}>
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
      className={clsx(ui.notice, ui.caution, ui.stack)}
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
    <div className={clsx(ui.row, ui.between)} data-due>
      <span>
        <Swatch colour={f.colour} /> {f.name} <span className={ui.faint}>{cardOf(f.family).name}</span>{' '}
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
