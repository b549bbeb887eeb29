import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Form, Input, InputNumber, Radio, Select } from 'antd'
import { machineSchema, type MachineRecord } from '@verimend/contract'
import { SURFACES, SURFACE_NAMES } from '@verimend/core/material'
import {
  assumedOf,
  commandsOf,
  keysOfKinds,
  MACHINE_KINDS,
  stillAssumed,
  type Machine,
  type MachineKindId,
} from '@verimend/core/machine'
import { useMemo, useState, type ReactNode } from 'react'
import { useNavigate, useParams } from 'react-router'
import { api } from '../api/client'
import { useLeadOn } from '../bench/useLeadOn'
import { changed } from '../api/keys'
import { useMachines } from '../api/queries'
import { AssumedPlaces, Named } from './Assumed'
import { ScrewsField } from './ScrewsField'
import { FormEnd } from '../components/FormEnd'
import { Empty, Loaded } from '../components/states'
import { DayField } from '../components/DayField'
import { useRecordForm } from '../components/recordForm'
import { useUndo } from '../components/useUndo'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Machines.module.css'

const newOf = (kind: MachineKindId): Machine => ({ ...MACHINE_KINDS[kind].body, name: '', notes: '' })
const USUAL_KIND: MachineKindId = 'open-tube'
const NEW = newOf(USUAL_KIND)

export default function MachineFormPage() {
  const { id = 'new' } = useParams()
  const machines = useMachines()
  if (id === 'new') return <MachineForm key="new" record={null} />
  return (
    <Loaded query={machines}>
      {(list) => {
        const record = list.find((m) => m.id === id)
        return record ? <MachineForm key={id} record={record} /> : <Empty>This machine was put away.</Empty>
      }}
    </Loaded>
  )
}

const choices = (pairs: [string, string][]) => pairs.map(([value, label]) => ({ value, label }))

function Field({
  name,
  label,
  unit,
  step,
  extra,
}: {
  name: (string | number)[]
  label: string
  unit?: string
  step?: number
  extra?: string
}) {
  return (
    <Form.Item name={name} label={<Named of={name}>{label}</Named>} extra={extra}>
      <InputNumber suffix={unit} step={step} style={{ width: '100%' }} />
    </Form.Item>
  )
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <>
      <h2 className={ui.formpart}>{title}</h2>
      <div className={ui.grid2}>{children}</div>
    </>
  )
}

function MachineForm({ record }: { record: MachineRecord | null }) {
  const navigate = useNavigate()
  const leadOn = useLeadOn()
  const client = useQueryClient()
  const undo = useUndo()
  const { form, keep, forget, check, layProblem, stray } = useRecordForm(
    machineSchema,
    `draft.machine.${record?.id ?? 'new'}`,
    record
      ? { ...record.machine, commands: commandsOf(record.machine) }
      : { ...NEW, commands: commandsOf(NEW) },
  )
  const [kind, setKind] = useState<MachineKindId>(USUAL_KIND)
  const typed = Form.useWatch([], { form, preserve: true }) as Partial<Machine> | undefined
  const [known, setKnown] = useState(false)
  const assumed = useMemo(
    () =>
      known || !typed
        ? []
        : record
          ? stillAssumed(record.machine, typed)
          : assumedOf(typed, MACHINE_KINDS[kind].body),
    [known, typed, record, kind],
  )
  const places = useMemo(() => new Set(assumed), [assumed])
  const drive = Form.useWatch(['drive', 'kind'], { form, preserve: true }) as string | undefined
  const corner = Form.useWatch(['limits', 'corner', 'kind'], { form, preserve: true }) as string | undefined
  const save = useMutation({
    mutationFn: (machine: Machine) =>
      record ? api.machines.update(record.id, record.rev, machine) : api.machines.create(machine),
    onSuccess: (saved) => {
      forget()
      void changed.machine(client)
      if (record)
        undo(`${saved.machine.name} is saved.`, () => {
          void api.machines.update(saved.id, saved.rev, record.machine).then(() => changed.machine(client))
        })
      void (record ? navigate('/machines') : leadOn('/machines'))
    },
    onError: layProblem,
  })
  return (
    <>
      <div className={ui.pagehead}>
        <h1 className={ui.wrap}>{record ? record.machine.name : 'A new machine'}</h1>
      </div>
      <AssumedPlaces value={places}>
        <Form
          form={form}
          layout="vertical"
          requiredMark={false}
          className={ui.sheet}
          onValuesChange={keep}
          onFinish={() => {
            const raw = form.getFieldsValue(true) as Machine
            const c = raw.limits.corner as { kind: string; limit?: number; deviation?: number }
            const value = check({
              ...raw,
              assumed: assumed.length ? assumed : undefined,
              drive: { ...raw.drive, tubeLength: raw.drive.kind === 'direct' ? 0 : raw.drive.tubeLength },
              limits: {
                ...raw.limits,
                corner:
                  c.kind === 'instant-change'
                    ? { kind: c.kind, limit: c.limit }
                    : { kind: c.kind, deviation: c.deviation },
              },
            })
            if (value) save.mutate(value)
          }}
        >
          {!record && (
            <fieldset className={styles.kinds}>
              <legend>Begin with a kind</legend>
              <Radio.Group
                value={kind}
                onChange={(e) => {
                  const chosen = e.target.value as MachineKindId
                  const { name, notes } = form.getFieldsValue(true) as Machine
                  const of = newOf(chosen)
                  setKind(chosen)
                  form.setFieldsValue({ ...of, commands: commandsOf(of), name, notes })
                  keep()
                }}
                options={keysOfKinds().map((k) => ({ value: k, label: MACHINE_KINDS[k].label }))}
              />
              <p className={clsx(ui.notice, ui.small)}>
                What is marked below is assumed from the kind. Change what you know better; the rest can wait.
              </p>
            </fieldset>
          )}
          {!!record && assumed.length > 0 && (
            <div
              className={clsx(ui.notice, ui.caution, ui.row, ui.between)}
              style={{ marginBottom: 14 }}
              data-testid="assumed"
            >
              <span>
                {assumed.length === 1 ? 'One value is' : `${assumed.length} values are`} assumed from its
                kind. Look them over: limits that are too high can harm a machine.
              </span>
              <Button size="small" onClick={() => setKnown(true)}>
                They are right
              </Button>
            </div>
          )}
          <div className={ui.grid2}>
            <Form.Item name="name" label="Name">
              <Input autoFocus={!record} />
            </Form.Item>
            <Field
              name={['nozzle', 'diameter']}
              label="Nozzle"
              unit="mm"
              step={0.05}
              extra="Another nozzle makes another pair"
            />
            <Form.Item
              name={['nozzle', 'material']}
              label={<Named of={['nozzle', 'material']}>Nozzle of</Named>}
            >
              <Select
                options={choices([
                  ['brass', 'brass'],
                  ['hardened', 'hardened steel or coated'],
                ])}
              />
            </Form.Item>
            <Form.Item
              name={['nozzle', 'changedOn']}
              label="Nozzle changed"
              extra="What was tested before is then stale"
            >
              <DayField />
            </Form.Item>
            <Form.Item name={['drive', 'kind']} label={<Named of={['drive', 'kind']}>Drive</Named>}>
              <Select
                options={choices([
                  ['direct', 'direct, on the head'],
                  ['tube', 'through a tube'],
                ])}
              />
            </Form.Item>
            {drive === 'tube' && (
              <Field name={['drive', 'tubeLength']} label="Length of the tube" unit="mm" step={10} />
            )}
            <Form.Item name="frame" label={<Named of={['frame']}>Frame</Named>}>
              <Select
                options={choices([
                  ['open', 'open'],
                  ['enclosed', 'enclosed'],
                ])}
              />
            </Form.Item>
            <Form.Item
              name="hotEnd"
              label={<Named of={['hotEnd']}>Hot end</Named>}
              extra="A liner that reaches the nozzle bears 240 °C"
              // not known is no choice of its own
              getValueProps={(v: string | null) => ({ value: v ?? undefined })}
              normalize={(v: string | undefined) => v ?? null}
            >
              <Select
                allowClear
                placeholder="not known"
                options={choices([
                  ['lined', 'lined down to the nozzle'],
                  ['all-metal', 'all metal'],
                ])}
              />
            </Form.Item>
            <Form.Item
              name="meltZone"
              label="Melt zone"
              extra="A high-flow hot end melts about twice as much"
              getValueProps={(v: string | undefined) => ({ value: v ?? 'usual' })}
            >
              <Select
                options={choices([
                  ['usual', 'usual length'],
                  ['high-flow', 'made for high flow'],
                ])}
              />
            </Form.Item>
            <Form.Item
              name={['fan', 'present']}
              valuePropName="checked"
              label={<Named of={['fan', 'present']}>Part fan</Named>}
            >
              <Checkbox>has one</Checkbox>
            </Form.Item>
            <Field
              name={['fan', 'strength']}
              label="Fan’s strength"
              step={0.1}
              extra="1 = a usual small blower"
            />
            <Field name={['chamber']} label="Chamber heater, up to" unit="°C" extra="Empty: none" />
          </div>
          <Part title="Bed">
            <Form.Item name={['bed', 'shape']} label={<Named of={['bed', 'shape']}>Shape</Named>}>
              <Select
                options={choices([
                  ['rectangle', 'rectangle'],
                  ['round', 'round, origin in the middle'],
                ])}
              />
            </Form.Item>
            <Field name={['bed', 'width']} label="Width (X)" unit="mm" />
            <Field name={['bed', 'depth']} label="Depth (Y)" unit="mm" />
            <Field name={['height']} label="Printable height" unit="mm" />
            <Form.Item name={['bed', 'surface']} label={<Named of={['bed', 'surface']}>Surface</Named>}>
              <Select options={SURFACES.map((s) => ({ value: s, label: SURFACE_NAMES[s] }))} />
            </Form.Item>
            <Form.Item name={['bed', 'levelling']} label={<Named of={['bed', 'levelling']}>Levelling</Named>}>
              <Select
                options={choices([
                  ['screws', 'by screws'],
                  ['probe', 'by probe'],
                ])}
              />
            </Form.Item>
            <Field
              name={['bed', 'printsSinceLevel']}
              label="Prints since levelling"
              extra="Empty: not known"
            />
            <Field name={['bed', 'printsSinceWash']} label="Prints since washing" extra="Empty: not known" />
            <Field
              name={['bed', 'residual']}
              label="Unevenness left"
              unit="mm"
              step={0.01}
              extra="Empty: not measured"
            />
            <Form.Item noStyle shouldUpdate={(a: Machine, b: Machine) => a.bed !== b.bed}>
              {() => {
                const typed = form.getFieldValue('bed') as Machine['bed'] | undefined
                const bed = typed ?? (record?.machine ?? NEW).bed
                return (
                  bed.levelling === 'screws' && (
                    <Form.Item
                      style={{ gridColumn: '1 / -1' }}
                      name={['bed', 'screws']}
                      label="Screws under the bed"
                      extra="For the turns a levelling works out"
                    >
                      <ScrewsField bed={bed} />
                    </Form.Item>
                  )
                )
              }}
            </Form.Item>
          </Part>
          <Part title="Limits">
            <Field name={['limits', 'nozzle']} label="Nozzle, up to" unit="°C" />
            <Field name={['limits', 'bed']} label="Bed, up to" unit="°C" />
            <Field name={['limits', 'speed']} label="Speed, up to" unit="mm/s" />
            <Field name={['limits', 'zSpeed']} label="Z speed, up to" unit="mm/s" />
            <Field name={['limits', 'acceleration']} label="Acceleration, up to" unit="mm/s²" step={100} />
            <Field
              name={['limits', 'travelAcceleration']}
              label="Travel acceleration"
              unit="mm/s²"
              step={100}
            />
            <Form.Item
              name={['limits', 'corner', 'kind']}
              label={<Named of={['limits', 'corner', 'kind']}>Corner rule</Named>}
            >
              <Select
                options={choices([
                  ['instant-change', 'jerk: speed changed at once'],
                  ['junction-deviation', 'junction deviation'],
                ])}
              />
            </Form.Item>
            {corner === 'junction-deviation' ? (
              <Field name={['limits', 'corner', 'deviation']} label="Deviation" unit="mm" step={0.005} />
            ) : (
              <Field name={['limits', 'corner', 'limit']} label="Change at once" unit="mm/s" />
            )}
          </Part>
          <Part title="Screw and belts">
            <Field name={['z', 'lead']} label="Z screw, a turn" unit="mm" />
            <Field name={['z', 'stepsPerTurn']} label="Full steps a turn" />
            <Field name={['drive', 'gear']} label="Drive gear, filament a turn" unit="mm" />
            <Field name={['drive', 'steps']} label="Drive’s steps" unit="steps/mm" />
            <Field name={['belt', 'pitch']} label="Belt pitch" unit="mm" />
            <Field name={['belt', 'teeth']} label="Pulley teeth" />
          </Part>
          <Part title="Firmware commands">
            {(
              [
                [
                  'feed',
                  'Feed',
                  [
                    ['relative', 'relative (M83)'],
                    ['absolute', 'absolute (M82)'],
                  ],
                ],
                [
                  'fan',
                  'Fan',
                  [
                    ['bytes', 'M106 S0 to 255'],
                    ['fraction', 'M106 S0 to 1'],
                  ],
                ],
                [
                  'acceleration',
                  'Acceleration',
                  [
                    ['split', 'M204 P… T…'],
                    ['single', 'M204 S…'],
                    ['none', 'not told'],
                  ],
                ],
                [
                  'corner',
                  'Corners',
                  [
                    ['none', 'not told'],
                    ['change', 'M205 X… Y…'],
                    ['deviation', 'M205 J…'],
                  ],
                ],
                [
                  'pressure',
                  'Pressure compensation',
                  [
                    ['k', 'M900 K…'],
                    ['s', 'M572 S…'],
                    ['none', 'it has none'],
                  ],
                ],
                [
                  'level',
                  'Levelling before a print',
                  [
                    ['none', 'none'],
                    ['probe', 'G29'],
                    ['kept', 'M420 S1: the kept grid'],
                  ],
                ],
              ] as const
            ).map(([name, label, options]) => (
              <Form.Item key={name} name={['commands', name]} label={label}>
                <Select options={choices(options.map(([v, l]) => [v, l]))} />
              </Form.Item>
            ))}
          </Part>
          <Form.Item name="notes" label="Notes">
            <Input.TextArea rows={2} />
          </Form.Item>
          <FormEnd
            save={record ? 'Save' : 'Add the machine'}
            busy={save.isPending}
            stray={stray}
            error={save.error}
            onRebase={() => void changed.machine(client)}
            onLeave={() => {
              forget()
              void navigate('/machines')
            }}
          />
        </Form>
      </AssumedPlaces>
    </>
  )
}
