import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { SURFACE_NAMES, figure, fullStep } from '@verimend/core'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { useMachines } from '../api/queries'
import { Empty, Loaded } from '../parts/Problem'
import { RemoveButton } from '../parts/RemoveButton'
import { useUndo } from '../parts/useUndo'
import { driveText } from '../pairs/PairName'

/** The machines side by side, property by property. */
export default function Machines() {
  const machines = useMachines()
  const navigate = useNavigate()
  const client = useQueryClient()
  const undo = useUndo()
  const refresh = () => {
    void client.invalidateQueries({ queryKey: ['machines'] })
    void client.invalidateQueries({ queryKey: ['pairs'] })
  }
  const restore = useMutation({ mutationFn: api.machines.restore, onSuccess: refresh })
  const remove = useMutation({
    mutationFn: api.machines.remove,
    onSuccess: (m) => {
      refresh()
      undo(`${m.machine.name} is put away. Its recipes are kept.`, () => restore.mutate(m.id))
    },
  })
  return (
    <>
      <div className="pagehead">
        <h1>Machines</h1>
        <span className="grow" />
        <Button type="primary" onClick={() => void navigate('/machines/new')}>
          Add a machine
        </Button>
      </div>
      <Loaded query={machines}>
        {(list) =>
          list.length === 0 ? (
            <Empty
              action={<Button onClick={() => void navigate('/machines/new')}>Add the first machine</Button>}
            >
              No machine yet. Its nozzle, drive and limits decide what a recipe may ask.
            </Empty>
          ) : (
            <div className="machinecards">
              {list.map(({ id, machine: m }) => (
                <section key={id} className="sheet" data-testid="machine">
                  <div className="row between">
                    <h2>
                      <Link to={`/machines/${id}`} className="wrap">
                        {m.name}
                      </Link>
                    </h2>
                    <RemoveButton what={m.name} onClick={() => remove.mutate(id)} />
                  </div>
                  <table className="plain">
                    <tbody>
                      {(
                        [
                          [
                            'Nozzle',
                            <span className="figure">
                              {m.nozzle.diameter} mm {m.nozzle.material}
                            </span>,
                          ],
                          ['Drive', driveText(m.drive)],
                          ['Frame', m.frame],
                          [
                            'Part fan',
                            m.fan.present ? `yes, ${figure(m.fan.strength, 1)} × the usual` : 'none',
                          ],
                          [
                            'Bed',
                            `${SURFACE_NAMES[m.bed.surface]}, ${figure(m.bed.width, 0)} × ${figure(m.bed.depth, 0)} mm${m.bed.shape === 'round' ? ', round' : ''}`,
                          ],
                          [
                            'Levelling',
                            `${m.bed.levelling === 'screws' ? 'by screws' : 'by probe'}${m.bed.printsSinceLevel === null ? '' : `, ${m.bed.printsSinceLevel} prints ago`}`,
                          ],
                          [
                            'Unevenness left',
                            m.bed.residual === null ? (
                              'not measured'
                            ) : (
                              <span className="figure">{figure(m.bed.residual, 2)} mm</span>
                            ),
                          ],
                          [
                            'Top heat',
                            <span className="figure">
                              {m.limits.nozzle} °C nozzle, {m.limits.bed} °C bed
                            </span>,
                          ],
                          [
                            'Top speed',
                            <span className="figure">
                              {m.limits.speed} mm/s, {m.limits.acceleration} mm/s²
                            </span>,
                          ],
                          [
                            'Corners',
                            m.limits.corner.kind === 'instant-change' ? (
                              <span className="figure">{m.limits.corner.limit} mm/s at once</span>
                            ) : (
                              <span className="figure">
                                {m.limits.corner.deviation} mm junction deviation
                              </span>
                            ),
                          ],
                          ['Z full step', <span className="figure">{figure(fullStep(m), 4)} mm</span>],
                        ] as const
                      ).map(([k, v]) => (
                        <tr key={k}>
                          <td className="faint">{k}</td>
                          <td>{v}</td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                  {m.notes && (
                    <p className="faint wrap" style={{ marginTop: 8 }}>
                      {m.notes}
                    </p>
                  )}
                </section>
              ))}
            </div>
          )
        }
      </Loaded>
    </>
  )
}
