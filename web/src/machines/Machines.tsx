import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { SURFACE_NAMES } from '@verimend/core/material'
import { fullStep } from '@verimend/core/machine'
import { figure } from '@verimend/core/quantity'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { useLinks, useMachines } from '../api/queries'
import { Empty, Loaded, together } from '../components/states'
import { RemoveButton } from '../components/RemoveButton'
import { useUndo } from '../components/useUndo'
import Practise from '../prints/Practise'
import { SimulatedMachine } from './SimulatedMachine'
import { driveText } from '../pairs/PairName'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Machines.module.css'

/** The machines side by side, property by property. */
export default function Machines() {
  const machines = useMachines()
  const links = useLinks()
  // machines are shown without what is known of their links, if that cannot be had
  const linked = { ...links, data: links.data ?? (links.error ? [] : undefined), error: null }
  const linkOf = (id: string) => links.data?.find((l) => l.machineId === id)
  const navigate = useNavigate()
  const client = useQueryClient()
  const undo = useUndo()
  const refresh = () => void changed.machine(client)
  const restore = useMutation({ mutationFn: api.machines.restore, onSuccess: refresh })
  const copy = useMutation({
    mutationFn: api.links.copy,
    onSuccess: () => {
      refresh()
      void changed.links(client)
    },
  })
  const remove = useMutation({
    mutationFn: api.machines.remove,
    onSuccess: (m) => {
      refresh()
      undo(`${m.machine.name} is put away. Its recipes are kept.`, () => restore.mutate(m.id))
    },
  })
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Machines</h1>
        <span className={ui.grow} />
        <Button type="primary" onClick={() => void navigate('/machines/new')}>
          Add a machine
        </Button>
      </div>
      <Loaded query={together(machines, linked)}>
        {([list]) => (
          <>
            {list.length === 0 ? (
              <Empty
                action={<Button onClick={() => void navigate('/machines/new')}>Add the first machine</Button>}
              >
                No machine yet. Its nozzle, drive and limits decide what a recipe may ask.
              </Empty>
            ) : (
              <div className={styles.machinecards}>
                {list.map(({ id, machine: m }) => (
                  <section key={id} className={ui.sheet} data-testid="machine">
                    <div className={clsx(ui.row, ui.between)}>
                      <h2>
                        <Link to={`/machines/${id}`} className={ui.wrap}>
                          {m.name}
                        </Link>
                      </h2>
                      <RemoveButton what={m.name} onClick={() => remove.mutate(id)} />
                    </div>
                    {!!m.assumed?.length && (
                      <p className={clsx(ui.small, ui.faint)}>
                        <Link to={`/machines/${id}`}>
                          {m.assumed.length === 1 ? 'One value' : `${m.assumed.length} values`}
                        </Link>{' '}
                        assumed from its kind: look them over.
                      </p>
                    )}
                    <table className={ui.plain}>
                      <tbody>
                        {(
                          [
                            [
                              'Nozzle',
                              <span className={ui.figure}>
                                {m.nozzle.diameter} mm {m.nozzle.material}
                              </span>,
                            ],
                            ['Drive', driveText(m.drive)],
                            ['Frame', m.frame],
                            [
                              'Hot end',
                              `${m.hotEnd === null ? 'not known' : m.hotEnd === 'lined' ? 'lined' : 'all metal'}${m.meltZone === 'high-flow' ? ', high flow' : ''}`,
                            ],
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
                                <span className={ui.figure}>{figure(m.bed.residual, 2)} mm</span>
                              ),
                            ],
                            [
                              'Top heat',
                              <span className={ui.figure}>
                                {m.limits.nozzle} °C nozzle, {m.limits.bed} °C bed
                              </span>,
                            ],
                            [
                              'Top speed',
                              <span className={ui.figure}>
                                {m.limits.speed} mm/s, {m.limits.acceleration} mm/s²
                              </span>,
                            ],
                            [
                              'Corners',
                              m.limits.corner.kind === 'instant-change' ? (
                                <span className={ui.figure}>{m.limits.corner.limit} mm/s at once</span>
                              ) : (
                                <span className={ui.figure}>
                                  {m.limits.corner.deviation} mm junction deviation
                                </span>
                              ),
                            ],
                            ['Z full step', <span className={ui.figure}>{figure(fullStep(m), 4)} mm</span>],
                          ] as const
                        ).map(([k, v]) => (
                          <tr key={k}>
                            <td className={ui.faint}>{k}</td>
                            <td>{v}</td>
                          </tr>
                        ))}
                      </tbody>
                    </table>
                    {linkOf(id) ? (
                      <SimulatedMachine link={linkOf(id)!} />
                    ) : (
                      links.data && (
                        <Button
                          size="small"
                          style={{ marginTop: 10 }}
                          loading={copy.isPending}
                          onClick={() => copy.mutate(id)}
                        >
                          Make a simulated copy
                        </Button>
                      )
                    )}
                    {m.notes && (
                      <p className={clsx(ui.faint, ui.wrap)} style={{ marginTop: 8 }}>
                        {m.notes}
                      </p>
                    )}
                  </section>
                ))}
              </div>
            )}
            <section className={clsx(ui.sheet, ui.stack)} style={{ marginTop: 18 }} aria-label="Practice">
              <h2>Practise on a simulated machine</h2>
              <p className={ui.faint}>
                Something is wrong with it, or with its roll. Print, look, find out what, and put it right;
                then see the truth.
              </p>
              <Practise />
            </section>
          </>
        )}
      </Loaded>
    </>
  )
}
