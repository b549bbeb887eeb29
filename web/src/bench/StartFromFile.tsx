import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Form, Input, Select } from 'antd'
import type { FilamentRecord, MachineRecord } from '@verimend/contract'
import { startFrom, UNKNOWN_PAIR, type StartFromFile as Start } from '@verimend/core/casework'
import { assumedOf, keysOfKinds, MACHINE_KINDS, type MachineKindId } from '@verimend/core/machine'
import { cardOf, type FamilyId } from '@verimend/core/material'
import { figure } from '@verimend/core/quantity'
import { say } from '@verimend/core/words'
import { useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { partNameOf } from '../components/partName'
import { Problem } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { readingContext } from '../pairs/readingContext'
import { FileDrop } from '../paths/FileDrop'
import { NEW_ROLL } from '../shelf/newRoll'
import { readInWorker, type Opened } from '../workers/readInWorker'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './FirstSteps.module.css'

/** Begins from a path file alone: it says what roll and machine it was made for, and becomes the file of the first case. */
export default function StartFromFile({
  rolls,
  machines,
}: {
  rolls: readonly FilamentRecord[]
  machines: readonly MachineRecord[]
}) {
  const [opened, setOpened] = useState<Opened | null>(null)
  return (
    <section className={ui.stack} style={{ gap: 6 }} aria-label="From a path file">
      <h3>Only the path file of the print?</h3>
      <p className={ui.faint}>Drop it here: it says for what roll and machine it was made.</p>
      <FileDrop
        context={UNKNOWN_PAIR}
        onRead={setOpened}
        hint={opened ? 'Drop another file here.' : 'Drop the G-code file of the bad print.'}
      />
      {opened?.file && (
        <Proposal key={opened.sha256} opened={opened} file={opened.file} rolls={rolls} machines={machines} />
      )}
    </section>
  )
}

const NEW = 'new'
function Proposal({
  opened,
  file,
  rolls,
  machines,
}: {
  opened: Opened
  file: File
  rolls: readonly FilamentRecord[]
  machines: readonly MachineRecord[]
}) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const { choose } = useCurrentPair()
  const [start] = useState<Start>(() => startFrom(opened.reading))
  const [family, setFamily] = useState<FamilyId>(start.families[0].family)
  const [kind, setKind] = useState<MachineKindId>(start.kind)
  const [roll, setRoll] = useState(rolls[0]?.id ?? NEW)
  const [machine, setMachine] = useState(machines[0]?.id ?? NEW)
  const [part, setPart] = useState(() => partNameOf(opened.name))
  const body = kind === start.kind ? start.machine : MACHINE_KINDS[kind].body
  // what was made before something failed is not made once more
  const made = useRef(new Map<string, string>())
  const once = async (what: string, make: () => Promise<{ id: string }>) => {
    const id = made.current.get(what) ?? (await make()).id
    made.current.set(what, id)
    return id
  }
  const begin = useMutation({
    mutationFn: async () => {
      const rollId =
        roll !== NEW
          ? roll
          : await once(family, () =>
              api.filaments.create({ ...NEW_ROLL, family, name: `${cardOf(family).name} roll` }),
            )
      const machineId =
        machine !== NEW
          ? machine
          : await once(kind, () =>
              api.machines.create({
                ...body,
                name: 'My machine',
                assumed: assumedOf(body, body),
                notes: '',
              }),
            )
      const pair = await api.pairs.open(machineId, rollId)
      client.setQueryData(keys.pairs.one(pair.id), pair)
      // read again with what is known now: times and limits are the machine's
      const own = await readInWorker(
        file,
        readingContext(pair),
        () => undefined,
        new AbortController().signal,
      )
      own.close()
      const called = part.trim() || partNameOf(opened.name) || 'The part'
      const caseId = await once(`${pair.id} ${called}`, () => api.cases.create(pair.id, called, null, null))
      const { name, bytes, sha256, reading } = own
      const withFile = await api.cases.addFile(caseId, { name, bytes, sha256, reading })
      client.setQueryData(keys.cases.one(caseId), withFile)
      await changed.everything(client)
      choose(pair.id)
      void navigate(`/cases/${caseId}`)
    },
  })
  const likely = start.families.filter((f, i) => i < 3 && f.chance > 0.02)
  return (
    <div className={clsx(ui.notice, ui.stack)} style={{ gap: 8 }} data-testid="start-from-file">
      <ul className={clsx(ui.plainlist, ui.stack)} style={{ gap: 2 }}>
        {start.reasons.map((r) => (
          <li key={r.code}>{say(r)}</li>
        ))}
      </ul>
      <Form layout="vertical" requiredMark={false} onFinish={() => begin.mutate()}>
        <div className={styles.guess}>
          <Form.Item label="The roll" htmlFor="start-roll">
            <Select
              id="start-roll"
              value={roll === NEW ? `${NEW} ${family}` : roll}
              onChange={(v: string) => {
                if (!v.startsWith(NEW)) return setRoll(v)
                setRoll(NEW)
                setFamily(v.slice(NEW.length + 1) as FamilyId)
              }}
              options={[
                ...rolls.map((r) => ({ value: r.id, label: r.filament.name })),
                ...likely.map((f) => ({
                  value: `${NEW} ${f.family}`,
                  label: `${cardOf(f.family).name}, new (${figure(100 * f.chance, 0)} %)`,
                })),
                ...start.families
                  .filter((f) => !likely.includes(f))
                  .map((f) => ({
                    value: `${NEW} ${f.family}`,
                    label: `${cardOf(f.family).name}, new`,
                  })),
              ]}
            />
          </Form.Item>
          <Form.Item label="The machine" htmlFor="start-machine">
            <Select
              id="start-machine"
              value={machine === NEW ? `${NEW} ${kind}` : machine}
              onChange={(v: string) => {
                if (!v.startsWith(NEW)) return setMachine(v)
                setMachine(NEW)
                setKind(v.slice(NEW.length + 1) as MachineKindId)
              }}
              options={[
                ...machines.map((m) => ({ value: m.id, label: m.machine.name })),
                ...keysOfKinds().map((k) => ({
                  value: `${NEW} ${k}`,
                  label: MACHINE_KINDS[k].label,
                })),
              ]}
            />
          </Form.Item>
          <Form.Item label="The part" htmlFor="start-part">
            <Input id="start-part" value={part} maxLength={80} onChange={(e) => setPart(e.target.value)} />
          </Form.Item>
        </div>
        <div className={ui.row}>
          <Button type="primary" htmlType="submit" loading={begin.isPending}>
            Begin the case
          </Button>
          <span className={clsx(ui.faint, ui.small)}>All of it can be changed later.</span>
        </div>
      </Form>
      {!!begin.error && <Problem error={begin.error} />}
    </div>
  )
}
