import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Form, Input, InputNumber } from 'antd'
import { createCase } from '@verimend/contract'
import { PLACES, type PlaceId } from '@verimend/core/knowledge'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { useCurrentPair } from '../pairs/PairContext'
import PairChooser from '../pairs/PairChooser'
import { Problem } from '../components/states'
import { ofThisTab, useKeptState } from '../components/useKeptState'
import { PlaceDrawing } from '../drawing/PlaceDrawing'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './NewCase.module.css'

const KEY = 'draft.newCase'
interface Draft {
  part: string
  place: PlaceId | null
  longest: number | null
}
const EMPTY: Draft = { part: '', place: null, longest: null }

/** Pair and part: a case begins in a few seconds. */
export default function NewCase() {
  const { pairId } = useCurrentPair()
  const [draft, setDraft, forget] = useKeptState<Draft>(KEY, EMPTY, ofThisTab)
  const { part, place, longest } = draft
  const change = (some: Partial<Draft>) => setDraft((before) => ({ ...before, ...some }))
  const [fault, setFault] = useState<string | null>(null)
  const [choosing, setChoosing] = useState(false)
  const navigate = useNavigate()
  const client = useQueryClient()
  const create = useMutation({
    mutationFn: () => api.cases.create(pairId!, part.trim(), place, longest),
    onSuccess: (c) => {
      forget()
      client.setQueryData(keys.cases.one(c.id), c)
      void changed.cases(client)
      void navigate(`/cases/${c.id}`, { replace: true })
    },
  })
  const go = () => {
    if (!pairId) return setChoosing(true)
    const parsed = createCase.safeParse({ pairId, part })
    if (!parsed.success) return setFault(parsed.error.issues[0].message)
    setFault(null)
    create.mutate()
  }
  return (
    <div style={{ maxWidth: 640 }} className={ui.stack}>
      <h1>A new case</h1>
      <p className={ui.faint}>
        It is read in the pair above. Change the pair first if another roll or machine printed the part.
      </p>
      <Form layout="vertical" onFinish={go}>
        <Form.Item
          label="Which part came out wrong?"
          validateStatus={fault ? 'error' : undefined}
          help={fault}
          htmlFor="part"
        >
          <Input
            id="part"
            autoFocus
            value={part}
            onChange={(e) => change({ part: e.target.value })}
            placeholder="Drip-line clip"
          />
        </Form.Item>
        <Form.Item
          label="Its longest side, if you know it"
          htmlFor="longest"
          extra="A long part pulls harder at its corners."
        >
          <InputNumber
            id="longest"
            min={1}
            max={2000}
            value={longest}
            onChange={(longest) => change({ longest })}
            suffix="mm"
            style={{ width: 120 }}
          />
        </Form.Item>
        <fieldset className={styles.places} data-testid="places">
          <legend>Where on the part is it?</legend>
          {PLACES.map((p) => (
            <label key={p.id} data-on={place === p.id || undefined}>
              <input
                type="radio"
                name="place"
                className={ui.visuallyHidden}
                checked={place === p.id}
                onChange={() => change({ place: p.id })}
              />
              <PlaceDrawing place={p.id} />
              {p.label}
            </label>
          ))}
        </fieldset>
        <p className={clsx(ui.faint, ui.small)}>
          The few signs that belong there come next. Leave it open if you are not sure.
        </p>
        {create.error && <Problem error={create.error} />}
        <div className={ui.row} style={{ marginTop: 12 }}>
          <Button type="primary" htmlType="submit" loading={create.isPending}>
            Begin
          </Button>
          {!pairId && <Button onClick={() => setChoosing(true)}>Choose a pair</Button>}
        </div>
      </Form>
      {choosing && <PairChooser onClose={() => setChoosing(false)} />}
    </div>
  )
}
