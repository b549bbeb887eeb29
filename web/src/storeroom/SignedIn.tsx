import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Popconfirm } from 'antd'
import type { SignedInDevice } from '@verimend/contract'
import { access } from '../access/access'
import { api } from '../api/client'
import { keys } from '../api/keys'
import { useDevices, useSession } from '../api/queries'
import { ago } from '../components/format'
import { Loaded, Problem } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

const KIND_WORDS: Record<SignedInDevice['kind'], string> = {
  phone: 'A phone',
  tablet: 'A tablet',
  computer: 'A computer',
  program: 'A program',
}

/** Where a passphrase is asked for: every device that is signed in; one of them or all can be sent out. */
export function SignedIn() {
  const session = useSession()
  const needed = !!session.data?.needed
  const devices = useDevices(needed)
  const client = useQueryClient()
  const leave = useMutation({ mutationFn: () => access.leave(true) })
  const out = useMutation({
    mutationFn: api.session.signOut,
    onSuccess: (list) => client.setQueryData(keys.devices, list),
  })
  if (!needed) return null
  const error = leave.error ?? out.error
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Signed in">
      <h2>Signed in</h2>
      <p className={ui.faint}>
        A phone that was lent or lost stays signed in for thirty days. Sign it out here; the passphrase stays
        as it is.
      </p>
      {!!error && <Problem error={error} />}
      <Loaded query={devices}>
        {(list) => (
          <ul className={clsx(ui.plainlist, ui.stack)} style={{ gap: 6 }}>
            {list.map((d) => (
              <li key={d.id} className={clsx(ui.row, ui.between)} data-testid="device">
                <span>
                  {KIND_WORDS[d.kind]}
                  {d.own && <strong>, this one</strong>}
                  <span className={ui.faint}>
                    {' '}
                    signed in {ago(d.since)}, used {ago(d.used)}
                  </span>
                </span>
                {!d.own && (
                  <Button
                    size="small"
                    loading={out.isPending && out.variables === d.id}
                    onClick={() => out.mutate(d.id)}
                  >
                    Sign out
                  </Button>
                )}
              </li>
            ))}
          </ul>
        )}
      </Loaded>
      <div>
        <Popconfirm
          title="Every device, this one too, has to enter the passphrase again."
          okText="Sign out everywhere"
          cancelText="Leave it"
          onConfirm={() => leave.mutate()}
        >
          <Button loading={leave.isPending}>Sign out everywhere</Button>
        </Popconfirm>
      </div>
    </section>
  )
}
