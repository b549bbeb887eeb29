import { useMutation, useQueryClient } from '@tanstack/react-query'
import { App, Button, Switch } from 'antd'
import type { KeptBackup } from '@verimend/contract'
import { bytes } from '@verimend/core/quantity'
import { api } from '../api/client'
import { keys } from '../api/keys'
import { useBackups } from '../api/queries'
import { ago } from '../components/format'
import { Loaded, Problem } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

const day = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' })

/** Backups of everything: the ones there are, one now, and whether one is made each day. */
export function Backups() {
  const backups = useBackups()
  const client = useQueryClient()
  const { notification } = App.useApp()
  const refresh = () => client.invalidateQueries({ queryKey: keys.backups })
  const make = useMutation({
    mutationFn: api.backups.make,
    onSuccess: (made) => {
      void refresh()
      notification.open({ key: made.name, title: `The backup is made, ${bytes(made.bytes)}.`, duration: 8 })
    },
  })
  const daily = useMutation({ mutationFn: api.backups.daily, onSuccess: refresh })
  const remove = useMutation({ mutationFn: api.backups.remove, onSuccess: refresh })
  const error = make.error ?? daily.error ?? remove.error
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Backups">
      <div className={clsx(ui.row, ui.between)}>
        <h2>Backups</h2>
        <Button type="primary" loading={make.isPending} onClick={() => make.mutate()}>
          Make one now
        </Button>
      </div>
      <p className={ui.faint}>
        One file with everything: machines, rolls, recipes, cases, trials, photos and kept files. Copy it to
        another disk now and then. It is restored into a new folder with{' '}
        <code className={ui.figure}>npm run restore -- FILE --data FOLDER</code>.
      </p>
      {!!error && <Problem error={error} />}
      <Loaded query={backups}>
        {({ daily: on, failed, list }) => (
          <>
            {failed && (
              <p className={clsx(ui.notice, ui.caution)}>The last daily backup could not be made: {failed}</p>
            )}
            <label className={ui.row}>
              <Switch
                checked={on}
                loading={daily.isPending}
                onChange={(v) => daily.mutate(v)}
                aria-label="A backup each day"
              />
              One each day; seven days and four weeks are kept
            </label>
            {list.length === 0 ? (
              <p className={ui.faint}>None yet{on ? ': the first is made a minute after the start.' : '.'}</p>
            ) : (
              <div className={ui.tablewrap}>
                <table className={clsx(ui.plain, ui.stacks)}>
                  <thead>
                    <tr>
                      <th>Made</th>
                      <th className={ui.secondary}>Why</th>
                      <th className={ui.num}>Size</th>
                      <th>
                        <span className={ui.visuallyHidden}>Actions</span>
                      </th>
                    </tr>
                  </thead>
                  <tbody>
                    {list.map((b) => (
                      <Row key={b.name} backup={b} onRemove={() => remove.mutate(b.name)} />
                    ))}
                  </tbody>
                </table>
                <p className={clsx(ui.faint, ui.small)}>
                  {bytes(list.reduce((n, b) => n + b.bytes, 0))} in all, in the data folder under backups.
                </p>
              </div>
            )}
          </>
        )}
      </Loaded>
    </section>
  )
}

function Row({ backup: b, onRemove }: { backup: KeptBackup; onRemove: () => void }) {
  return (
    <tr data-testid="backup">
      <td>
        {day.format(new Date(b.madeAt))} <span className={ui.faint}>{ago(b.madeAt)}</span>
      </td>
      <td className={clsx(ui.secondary, ui.faint)}>{b.name.includes('-daily') ? 'daily' : 'asked for'}</td>
      <td className={clsx(ui.num, ui.figure)}>{bytes(b.bytes)}</td>
      <td className={ui.num}>
        <a href={api.backups.href(b.name)} download={b.name}>
          Save a copy
        </a>{' '}
        <Button
          size="small"
          type="text"
          onClick={onRemove}
          aria-label={`Delete the backup of ${day.format(new Date(b.madeAt))}`}
        >
          Delete
        </Button>
      </td>
    </tr>
  )
}
