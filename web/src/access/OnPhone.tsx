import { useQuery } from '@tanstack/react-query'
import { Button, Modal, QRCode, Select } from 'antd'
import { useState } from 'react'
import { useLocation } from 'react-router'
import { api } from '../api/client'
import { Loaded } from '../components/states'
import ui from '../components/ui.module.css'
import styles from './access.module.css'
import { clsx } from 'clsx'

/** This very screen, to be opened on a phone in the same network. */
export default function OnPhone({ onClose }: { onClose: () => void }) {
  const { pathname, search } = useLocation()
  // an invitation is for one phone and five minutes: a new one each time
  const [opened] = useState(() => Date.now())
  const phone = useQuery({
    queryKey: ['phone', opened],
    queryFn: api.session.phone,
    staleTime: Infinity,
    gcTime: 0,
  })
  const [chosen, setChosen] = useState<string | null>(null)
  return (
    <Modal open title="This screen on the phone" footer={null} onCancel={onClose} width={400}>
      <Loaded query={phone}>
        {({ addresses, invitation }) => {
          const address = chosen ?? addresses[0]
          if (!address)
            return (
              <div className={ui.stack}>
                <p>
                  Verimend is served on this machine only. To open it on a phone in the same network, stop it
                  and start it with
                </p>
                <pre className={ui.figure}>npm start -- --share</pre>
                <p className={ui.faint}>It then asks everybody for a passphrase that it makes for you.</p>
              </div>
            )
          const plain = `${address}${pathname}${search}`
          return (
            <div className={styles.phone}>
              <QRCode
                value={invitation ? `${plain}#invitation=${invitation}` : plain}
                type="svg"
                size={232}
                color="#1c2826"
                bgColor="#ffffff"
                errorLevel="L"
                aria-label={`QR code of ${plain}`}
              />
              <span className={clsx(ui.figure, ui.wrap, ui.small)} style={{ whiteSpace: 'normal' }}>
                {plain}
              </span>
              {addresses.length > 1 && (
                <Select
                  aria-label="Address"
                  value={address}
                  onChange={setChosen}
                  options={addresses.map((a) => ({ value: a, label: a }))}
                />
              )}
              <p className={clsx(ui.faint, ui.small)}>
                {invitation
                  ? 'The code lets one phone in without the passphrase, within five minutes.'
                  : 'The phone has to be in the same network.'}
              </p>
              <Button onClick={() => void phone.refetch()}>New code</Button>
            </div>
          )
        }}
      </Loaded>
    </Modal>
  )
}
