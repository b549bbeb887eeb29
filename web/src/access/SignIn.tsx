import { useMutation } from '@tanstack/react-query'
import { Button, Form, Input } from 'antd'
import { useState } from 'react'
import { Problem, Waiting } from '../components/states'
import { access } from './access'
import ui from '../components/ui.module.css'
import styles from './access.module.css'
import { clsx } from 'clsx'

/** The passphrase, asked for before anything is shown. */
export default function SignIn({ entering }: { entering: boolean }) {
  const [passphrase, setPassphrase] = useState('')
  const enter = useMutation({ mutationFn: () => access.enter({ passphrase: passphrase.trim() }) })
  const error = enter.error ?? (enter.isIdle ? access.problem() : null)
  return (
    <main className={styles.over} aria-label="Sign in">
      <section className={clsx(ui.sheet, ui.stack, styles.door)}>
        <h1 className={clsx(ui.row, styles.name)}>
          <img src="/mark.svg" width={30} height={30} alt="" />
          Verimend
        </h1>
        {entering ? (
          <Waiting />
        ) : (
          <Form layout="vertical" onFinish={() => enter.mutate()}>
            <Form.Item label="Passphrase" htmlFor="passphrase" extra="It stands where Verimend was started.">
              <Input.Password
                id="passphrase"
                name="passphrase"
                autoComplete="current-password"
                autoCapitalize="none"
                spellCheck={false}
                autoFocus
                value={passphrase}
                onChange={(e) => setPassphrase(e.target.value)}
              />
            </Form.Item>
            <div className={ui.stack}>
              {error && <Problem error={error instanceof Error ? error : new Error(String(error))} />}
              <Button
                type="primary"
                htmlType="submit"
                size="large"
                block
                loading={enter.isPending}
                disabled={!passphrase.trim()}
              >
                Sign in
              </Button>
            </div>
          </Form>
        )}
      </section>
    </main>
  )
}
