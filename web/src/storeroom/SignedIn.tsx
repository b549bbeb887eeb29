import { useMutation } from '@tanstack/react-query'
import { Button, Popconfirm } from 'antd'
import { access } from '../access/access'
import { useSession } from '../api/queries'
import { Problem } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Where a passphrase is asked for: everybody who is signed in can be sent out at once, this device too. */
export function SignedIn() {
  const session = useSession()
  const leave = useMutation({ mutationFn: () => access.leave(true) })
  if (!session.data?.needed) return null
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Signed in">
      <h2>Signed in</h2>
      <p className={ui.faint}>
        A phone that was lent or lost stays signed in for thirty days. Signing out everywhere ends that for
        every device; the passphrase stays as it is.
      </p>
      {!!leave.error && <Problem error={leave.error} />}
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
