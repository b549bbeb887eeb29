import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Form, Input, InputNumber, Select } from 'antd'
import { filamentSchema, type FilamentRecord } from '@verimend/contract'
import {
  CARDS,
  FAMILIES,
  FINISHES,
  cardOf,
  overlayLabel,
  readLabel,
  type DiameterReading,
  type Drying,
  type FamilyId,
  type Filament,
  type FilledIn,
} from '@verimend/core/material'
import { useRef, useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import { api } from '../api/client'
import { useLeadOn } from '../bench/useLeadOn'
import { changed } from '../api/keys'
import { useFilaments } from '../api/queries'
import { DayField } from '../components/DayField'
import { FormEnd } from '../components/FormEnd'
import { Empty, Loaded } from '../components/states'
import { RangeField } from '../components/RangeField'
import { useRecordForm } from '../components/recordForm'
import { useUndo } from '../components/useUndo'
import { NEW_ROLL } from './newRoll'
import { RollCare } from './RollCare'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './FilamentForm.module.css'

export default function FilamentFormPage() {
  const { id = 'new' } = useParams()
  const filaments = useFilaments()
  if (id === 'new') return <FilamentForm key="new" record={null} />
  return (
    <Loaded query={filaments}>
      {(list) => {
        const record = list.find((f) => f.id === id)
        return record ? (
          <FilamentForm key={id} record={record} />
        ) : (
          <Empty>This roll is not on the shelf any more.</Empty>
        )
      }}
    </Loaded>
  )
}

/** Diameters typed one after another, a place each: "1.74  1.75/1.77  1.73"; a slash for a place measured both ways. */
function DiametersField({
  value,
  onChange,
  id,
}: {
  value?: DiameterReading[]
  onChange?: (v: DiameterReading[]) => void
  id?: string
}) {
  const [typed, setTyped] = useState<string | null>(null) // as typed, so that a half number stays
  const number = (t: string | undefined) => Number(t?.replace(',', '.'))
  return (
    <Input
      id={id}
      value={typed ?? (value ?? []).map((d) => (d.b === null ? `${d.a}` : `${d.a}/${d.b}`)).join('  ')}
      placeholder="1.74/1.76  1.75  1.73"
      onChange={(e) => {
        setTyped(e.target.value)
        onChange?.(
          e.target.value
            .split(/[\s;]+|,\s+/)
            .filter(Boolean)
            .map((t) => t.split('/'))
            .map(([a, b]) => ({ a: number(a), b: b ? number(b) : null })),
        )
      }}
    />
  )
}

/** The last day in the dryer, for a roll that is new on the shelf; later ones are noted in its care. */
function DriedField({
  value,
  onChange,
  id,
}: {
  value?: Drying[]
  onChange?: (v: Drying[]) => void
  id?: string
}) {
  return (
    <DayField
      id={id}
      value={value?.at(-1)?.on ?? null}
      onChange={(on) => onChange?.(on ? [{ on, temperature: null, hours: null }] : [])}
    />
  )
}

function PriceField({
  value,
  onChange,
  id,
}: {
  value?: { amount?: number; currency: string } | null
  onChange?: (v: unknown) => void
  id?: string
}) {
  const set = (part: object) => {
    const next = { currency: '€', ...value, ...part }
    onChange?.(next.amount == null ? null : next)
  }
  return (
    <div className={ui.row} style={{ flexWrap: 'nowrap' }}>
      <InputNumber
        id={id}
        aria-label="Price"
        min={0}
        value={value?.amount ?? null}
        onChange={(v) => set({ amount: v ?? undefined })}
      />
      <Input
        aria-label="Currency"
        value={value?.currency ?? '€'}
        maxLength={6}
        onChange={(e) => set({ currency: e.target.value })}
        style={{ width: 64 }}
      />
    </div>
  )
}

function DryingField({
  value,
  onChange,
  id,
}: {
  value?: Partial<{ temperature: number; hours: number }> | null
  onChange?: (v: unknown) => void
  id?: string
}) {
  const set = (part: object) => {
    const next: { temperature?: number; hours?: number } = { ...value, ...part }
    onChange?.(next.temperature == null && next.hours == null ? null : next)
  }
  return (
    <div className={ui.row} style={{ flexWrap: 'nowrap' }}>
      <InputNumber
        id={id}
        aria-label="Drying temperature"
        value={value?.temperature ?? null}
        onChange={(v) => set({ temperature: v ?? undefined })}
        suffix="°C"
      />
      <InputNumber
        aria-label="Drying time"
        value={value?.hours ?? null}
        onChange={(v) => set({ hours: v ?? undefined })}
        suffix="h"
      />
    </div>
  )
}

/** Takes the label as it is printed, in one go. */
function LabelReader({ onRead }: { onRead: (read: ReturnType<typeof readLabel>) => void }) {
  const [text, setText] = useState('')
  const [said, setSaid] = useState('')
  const read = () => {
    const r = readLabel(text)
    const found = Object.entries(r).filter(([, v]) => v !== null)
    onRead(r)
    setSaid(
      found.length
        ? `Read: ${found
            .map(
              ([k]) =>
                ({
                  nozzle: 'nozzle',
                  bed: 'bed',
                  speed: 'speed',
                  drying: 'drying',
                  diameter: 'diameter',
                  rollWeight: 'weight',
                  family: 'family',
                  finish: 'finish',
                  shore: 'hardness',
                  abrasive: 'wears the nozzle',
                })[k],
            )
            .join(', ')}. Check it below.`
        : 'Nothing of it was understood. Type the numbers below.',
    )
  }
  return (
    <div className={ui.stack} style={{ marginBottom: 16, gap: 6 }}>
      <div className={ui.row}>
        <Input
          aria-label="The label as printed"
          placeholder="Type the label as printed: PETG, 230–250 °C, bed 75 °C, 1 kg"
          value={text}
          maxLength={1000}
          onChange={(e) => setText(e.target.value)}
          onPressEnter={(e) => {
            e.preventDefault()
            read()
          }}
          style={{ maxWidth: 520 }}
        />
        <Button onClick={read} disabled={!text.trim()}>
          Read the label
        </Button>
      </div>
      {said && (
        <span className={clsx(ui.faint, ui.small)} role="status">
          {said}
        </span>
      )}
    </div>
  )
}

function FilamentForm({ record }: { record: FilamentRecord | null }) {
  const leadOn = useLeadOn()
  const navigate = useNavigate()
  const client = useQueryClient()
  const undo = useUndo()
  const { form, keep, forget, check, layProblem, stray } = useRecordForm(
    filamentSchema,
    `draft.filament.${record?.id ?? 'new'}`,
    record?.filament ?? NEW_ROLL,
  )
  const family = (Form.useWatch('family', form) as FamilyId | undefined) ?? record?.filament.family ?? 'pla'
  const card = cardOf(CARDS[family] ? family : 'pla')
  const fromLabel = useRef<FilledIn>({})
  const save = useMutation({
    mutationFn: (filament: Filament) =>
      record ? api.filaments.update(record.id, record.rev, filament) : api.filaments.create(filament),
    onSuccess: (saved) => {
      forget()
      void changed.filament(client)
      if (record)
        undo(`${saved.filament.name} is saved.`, () => {
          void api.filaments.update(saved.id, saved.rev, record.filament).then(() => changed.filament(client))
        })
      void (record ? navigate('/shelf') : leadOn('/shelf'))
    },
    onError: layProblem,
  })
  return (
    <>
      <div className={ui.pagehead}>
        <h1 className={ui.wrap}>{record ? record.filament.name : 'A new roll'}</h1>
      </div>
      {record && <RollCare record={record} />}
      <Form
        form={form}
        layout="vertical"
        requiredMark={false}
        className={ui.sheet}
        onValuesChange={keep}
        onFinish={() => {
          const value = check(form.getFieldsValue(true))
          if (value) save.mutate(value)
        }}
      >
        <LabelReader
          onRead={(read) => {
            const label = form.getFieldValue('label') as Filament['label']
            const roll = form.getFieldsValue(true) as Filament
            const { changes, filled } = overlayLabel({ ...roll, ...label }, fromLabel.current, read)
            fromLabel.current = filled
            const { nozzle, bed, speed, drying, ...rest } = { ...label, ...changes }
            form.setFieldsValue({ ...rest, label: { nozzle, bed, speed, drying } })
            keep()
          }}
        />
        <div className={ui.grid2}>
          <Form.Item name="name" label="Name">
            <Input autoFocus={!record} />
          </Form.Item>
          <Form.Item name="maker" label="Maker">
            <Input />
          </Form.Item>
          <Form.Item
            name="family"
            label="Family"
            extra={`${card.name}: usually ${card.nozzle.min}–${card.nozzle.max} °C, bed ${card.bed.first} °C`}
          >
            <Select options={FAMILIES.map((f) => ({ value: f, label: cardOf(f).name }))} />
          </Form.Item>
          <Form.Item name="finish" label="Finish">
            <Select options={FINISHES.map((f) => ({ value: f, label: f }))} />
          </Form.Item>
          <Form.Item name="colour" label="Colour">
            <input type="color" className={styles.nativecolour} />
          </Form.Item>
        </div>
        <h2 className={ui.formpart}>What the label says</h2>
        <div className={ui.grid2}>
          <Form.Item name={['label', 'nozzle']} label="Nozzle">
            <RangeField unit="°C" label="Nozzle" />
          </Form.Item>
          <Form.Item name={['label', 'bed']} label="Bed">
            <RangeField unit="°C" label="Bed" />
          </Form.Item>
          <Form.Item name={['label', 'speed']} label="Speed">
            <RangeField unit="mm/s" label="Speed" />
          </Form.Item>
          <Form.Item
            name={['label', 'drying']}
            label="Drying"
            extra={`Card: ${card.drying.temperature} °C for ${card.drying.hours} h`}
          >
            <DryingField />
          </Form.Item>
          <Form.Item
            name="shore"
            label="Hardness, Shore A"
            extra={card.flexible ? undefined : 'Only for soft filament'}
          >
            <InputNumber style={{ width: '100%' }} />
          </Form.Item>
          <Form.Item name="abrasive" valuePropName="checked" label="Wears the nozzle">
            <Checkbox>holds fibre, glow or metal</Checkbox>
          </Form.Item>
        </div>
        <h2 className={ui.formpart}>The roll itself</h2>
        <div className={ui.grid2}>
          <Form.Item name="diameter" label="Nominal diameter">
            <InputNumber step={0.05} suffix="mm" style={{ width: '100%' }} />
          </Form.Item>
          <Form.Item
            name="measured"
            label="Measured diameters"
            extra="Six places, half a metre apart; with a slash where you turned it: 1.74/1.76"
          >
            <DiametersField />
          </Form.Item>
          <Form.Item name="rollWeight" label="Plastic on a full roll">
            <InputNumber suffix="g" style={{ width: '100%' }} />
          </Form.Item>
          <Form.Item name="weightLeft" label="Left now">
            <InputNumber suffix="g" style={{ width: '100%' }} />
          </Form.Item>
          <Form.Item name="openedOn" label="Opened">
            <DayField />
          </Form.Item>
          {!record && (
            <Form.Item name="dryings" label="Last dried">
              <DriedField />
            </Form.Item>
          )}
          <Form.Item name="spoolWeight" label="Empty spool" extra="To weigh what is left">
            <InputNumber suffix="g" style={{ width: '100%' }} />
          </Form.Item>
          <Form.Item name="price" label="Price of a full roll">
            <PriceField />
          </Form.Item>
        </div>
        <Form.Item name="notes" label="Notes">
          <Input.TextArea rows={2} />
        </Form.Item>
        <FormEnd
          save={record ? 'Save' : 'Put on the shelf'}
          busy={save.isPending}
          stray={stray}
          error={save.error}
          onRebase={() => void changed.filament(client)}
          onLeave={() => {
            forget()
            void navigate('/shelf')
          }}
        />
      </Form>
    </>
  )
}
