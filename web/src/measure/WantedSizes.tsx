import { Button, Input, InputNumber, Select } from 'antd'
import type { MeasuredOf, WantedSize } from '@verimend/core/measurement'
import { RemoveButton } from '../components/RemoveButton'
import ui from '../components/ui.module.css'

type Sizes = MeasuredOf<'sizes'>

/** Sizes of the part that is really wanted: what they would come out as is foretold. */
export function WantedSizes({ value, onChange }: { value: Sizes; onChange: (value: Sizes) => void }) {
  const { wanted } = value
  const put = (list: WantedSize[]) => onChange({ ...value, wanted: list })
  const edit = (i: number, change: Partial<WantedSize>) =>
    put(wanted.map((o, k) => (k === i ? { ...o, ...change } : o)))
  return (
    <details>
      <summary className={ui.small}>Sizes of the real part, to be foretold</summary>
      <div className={ui.stack} style={{ gap: 6, marginTop: 8 }}>
        {wanted.map((w, i) => (
          <div key={i} className={ui.row}>
            <Input
              size="small"
              aria-label="What it is"
              value={w.name}
              maxLength={80}
              onChange={(e) => edit(i, { name: e.target.value || ' ' })}
              style={{ width: 150 }}
            />
            <InputNumber
              size="small"
              aria-label="Its drawn size"
              min={0.1}
              max={3000}
              value={w.nominal}
              onChange={(v) => v && edit(i, { nominal: v })}
              suffix="mm"
              style={{ width: 110 }}
            />
            <Select<WantedSize['kind']>
              size="small"
              aria-label="Outside or inside"
              value={w.kind}
              onChange={(kind) => edit(i, { kind })}
              options={[
                { value: 'outside', label: 'outside' },
                { value: 'inside', label: 'inside' },
              ]}
              style={{ width: 92 }}
            />
            <Select<WantedSize['axis']>
              size="small"
              aria-label="Along which axis"
              value={w.axis}
              onChange={(axis) => edit(i, { axis })}
              options={[
                { value: 'x', label: 'X' },
                { value: 'y', label: 'Y' },
                { value: 'z', label: 'Z' },
              ]}
              style={{ width: 58 }}
            />
            <RemoveButton what={w.name} onClick={() => put(wanted.filter((_, k) => k !== i))} />
          </div>
        ))}
        <div>
          <Button
            size="small"
            disabled={wanted.length >= 20}
            onClick={() => put([...wanted, { name: 'Seat', nominal: 22, kind: 'inside', axis: 'x' }])}
          >
            A size of the part
          </Button>
        </div>
      </div>
    </details>
  )
}
