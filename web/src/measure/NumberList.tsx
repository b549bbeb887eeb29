import { Button, Input } from 'antd'
import { figure } from '@verimend/core/quantity'
import { typedNumber } from '@verimend/core/measurement'
import { X } from 'lucide-react'
import { useState } from 'react'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Readings of one thing, typed one after the other: Enter takes one, several split by spaces come in one go. */
export function NumberList({
  label,
  unit,
  values,
  digits = 2,
  most = 20,
  onChange,
}: {
  label: string
  unit: string
  values: readonly number[]
  digits?: number
  most?: number
  onChange: (values: number[]) => void
}) {
  const [text, setText] = useState('')
  const [fault, setFault] = useState<string | null>(null)
  const take = () => {
    const parts = text.split(/[\s;]+/).filter(Boolean)
    const numbers = parts.map(typedNumber)
    const bad = parts.find((_, i) => numbers[i] === null)
    if (bad) return setFault(`“${bad}” is no number.`)
    if (values.length + numbers.length > most) return setFault(`${most} readings are the most.`)
    setFault(null)
    setText('')
    if (numbers.length) onChange([...values, ...(numbers as number[])])
  }
  return (
    <div className={ui.stack} style={{ gap: 6 }}>
      <div className={ui.row}>
        <Input
          aria-label={label}
          value={text}
          inputMode="decimal"
          placeholder={values.length ? 'one more' : 'type, Enter'}
          onChange={(e) => setText(e.target.value)}
          onPressEnter={take}
          onBlur={() => text.trim() && take()}
          suffix={unit}
          status={fault ? 'error' : undefined}
          style={{ width: 150 }}
        />
        {values.map((v, i) => (
          <span key={i} className={clsx(ui.tag, ui.figure)}>
            {figure(v, digits)}
            <Button
              type="text"
              size="small"
              aria-label={`Take out ${figure(v, digits)}`}
              icon={<X size={12} aria-hidden="true" />}
              onClick={() => onChange(values.filter((_, k) => k !== i))}
            />
          </span>
        ))}
      </div>
      {fault && (
        <p className={clsx(ui.fault, ui.small)} role="alert">
          {fault}
        </p>
      )}
    </div>
  )
}
