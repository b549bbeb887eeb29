import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Modal, Radio } from 'antd'
import { cardOf } from '@verimend/core/material'
import { useState } from 'react'
import { Link } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { useFilaments, useMachines, usePair } from '../api/queries'
import { Empty, Problem } from '../components/states'
import { useCurrentPair } from './PairContext'
import { driveText, Swatch } from './PairName'
import ui from '../components/ui.module.css'
import styles from './PairChooser.module.css'

/** Chooses a roll and a machine; the pair and its first recipe are made where there is none. */
export default function PairChooser({
  onClose,
  onChosen,
}: {
  onClose: () => void
  onChosen?: (id: string) => void
}) {
  const { pairId, choose } = useCurrentPair()
  const current = usePair(pairId)
  const filaments = useFilaments()
  const machines = useMachines()
  const client = useQueryClient()
  const [chosenRoll, setRoll] = useState<string | undefined>(current.data?.filamentId)
  const [chosenMachine, setMachine] = useState<string | undefined>(current.data?.machineId)
  // where there is only one, that is it
  const only = (list: readonly { id: string }[] | undefined) => (list?.length === 1 ? list[0].id : undefined)
  const roll = chosenRoll ?? only(filaments.data)
  const machine = chosenMachine ?? only(machines.data)
  const open = useMutation({
    mutationFn: () => api.pairs.open(machine!, roll!),
    onSuccess: (pair) => {
      client.setQueryData(keys.pairs.one(pair.id), pair)
      void changed.pairs(client).then(() => choose(pair.id))
      choose(pair.id)
      onChosen?.(pair.id)
      onClose()
    },
  })
  const none = filaments.data?.length === 0 || machines.data?.length === 0
  return (
    <Modal
      open
      title="Which filament on which machine?"
      onCancel={onClose}
      onOk={() => open.mutate()}
      okText="Work with this pair"
      okButtonProps={{ disabled: !roll || !machine, loading: open.isPending }}
      width={640}
    >
      {none ? (
        <Empty
          action={
            <span className={ui.row}>
              <Link to="/shelf/new" onClick={onClose}>
                Add a roll
              </Link>
              <Link to="/machines/new" onClick={onClose}>
                Add a machine
              </Link>
            </span>
          }
        >
          A pair needs a roll from the shelf and a machine.
        </Empty>
      ) : (
        <div className={ui.grid2}>
          <fieldset className={styles.choices}>
            <legend>Filament</legend>
            <Radio.Group value={roll} onChange={(e) => setRoll(e.target.value as string)}>
              {filaments.data?.map((f) => (
                <Radio key={f.id} value={f.id}>
                  <Swatch colour={f.filament.colour} /> {f.filament.name}{' '}
                  <span className={ui.faint}>{cardOf(f.filament.family).name}</span>
                </Radio>
              ))}
            </Radio.Group>
          </fieldset>
          <fieldset className={styles.choices}>
            <legend>Machine</legend>
            <Radio.Group value={machine} onChange={(e) => setMachine(e.target.value as string)}>
              {machines.data?.map((m) => (
                <Radio key={m.id} value={m.id}>
                  {m.machine.name}{' '}
                  <span className={ui.faint}>
                    {m.machine.nozzle.diameter}&#8201;mm, {driveText(m.machine.drive)}
                  </span>
                </Radio>
              ))}
            </Radio.Group>
          </fieldset>
        </div>
      )}
      {open.error && <Problem error={open.error} />}
    </Modal>
  )
}
