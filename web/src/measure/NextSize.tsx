import { Button } from 'antd'
import { doubtOf, typedNumber, type MeasuredOf } from '@verimend/core/measurement'
import { figure } from '@verimend/core/quantity'
import { say } from '@verimend/core/words'
import { useRef, useState } from 'react'
import { SizeDrawing } from './SizeDrawing'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './measure.module.css'

type Sizes = MeasuredOf<'sizes'>

/** The fast way: says what to measure next; Enter takes it and moves on. What is odd is asked about first. */
export function NextSize({ value, onChange }: { value: Sizes; onChange: (value: Sizes) => void }) {
  const { readings } = value
  const [text, setText] = useState('')
  const [doubt, setDoubt] = useState<{ said: string; as: number | null; value: number } | null>(null)
  const [skipped, setSkipped] = useState<string[]>([])
  const field = useRef<HTMLInputElement>(null)
  const least = Math.min(...readings.map((r) => r.measures.length))
  const next =
    readings.find((r) => r.measures.length === least && !skipped.includes(r.id)) ??
    readings.find((r) => r.measures.length === least)!
  const keep = (v: number) => {
    setText('')
    setDoubt(null)
    onChange({
      ...value,
      readings: readings.map((r) =>
        r.id === next.id ? { ...r, measures: [...r.measures, v].slice(0, 20) } : r,
      ),
    })
    field.current?.focus()
  }
  const take = () => {
    const v = typedNumber(text)
    const odd = doubtOf(next, v, readings)
    if (!odd) return keep(v!)
    const as = odd.code === 'maybe-inches' ? Number(odd.values.as) : null
    setDoubt({ said: say(odd), as, value: v ?? NaN })
  }
  return (
    <div className={clsx(styles.nextsize, ui.row)} data-next={next.id}>
      <SizeDrawing reading={next} />
      <div className={ui.stack} style={{ gap: 6 }}>
        <span>
          {next.measures.length ? 'Once more: ' : 'Next: '}
          <strong>{next.name.trim() || 'this size'}</strong>,{' '}
          <span className={ui.figure}>{figure(next.nominal, 2)} mm</span> as drawn
        </span>
        <div className={ui.row}>
          <input
            ref={field}
            className={styles.bigfield}
            aria-label="What it measures"
            inputMode="decimal"
            autoComplete="off"
            value={text}
            onChange={(e) => {
              setText(e.target.value)
              setDoubt(null)
            }}
            onKeyDown={(e) => e.key === 'Enter' && take()}
          />
          <Button type="primary" onClick={take} disabled={!text.trim()}>
            Take it
          </Button>
          <Button type="text" onClick={() => setSkipped([...skipped, next.id])}>
            Skip
          </Button>
        </div>
        {doubt && (
          <div className={clsx(ui.row, ui.caution)} role="alert">
            <span>{doubt.said}</span>
            {doubt.as !== null && (
              <Button size="small" onClick={() => keep(doubt.as!)}>
                Take {figure(doubt.as, 2)} mm
              </Button>
            )}
            {Number.isFinite(doubt.value) && doubt.value > 0 && (
              <Button size="small" onClick={() => keep(doubt.value)}>
                It is {figure(doubt.value, 2)}
              </Button>
            )}
          </div>
        )}
      </div>
    </div>
  )
}
