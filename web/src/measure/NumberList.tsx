import { Button, Input } from 'antd'
import { figure } from '@verimend/core/quantity'
import { typedNumber } from '@verimend/core/measurement'
import { X } from 'lucide-react'
import { useState } from 'react'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** The newest that are shown of a long list. */
const SHOWN = 24

/** Readings typed one after the other: Enter takes one, several split by spaces come in one go. */
export function TypedList<T>({
  label,
  unit,
  values,
  most,
  hint = 'type, Enter',
  read,
  show,
  fault: faultOf,
  onChange,
}: {
  label: string
  unit: string
  values: readonly T[]
  most: number
  hint?: string
  /** null when the text is none. */
  read: (text: string) => T | null
  show: (value: T) => string
  /** What is said of a text that is none. */
  fault: (text: string) => string
  onChange: (values: T[]) => void
}) {
  const [text, setText] = useState('')
  const [fault, setFault] = useState<string | null>(null)
  const [whole, setWhole] = useState(false)
  const hidden = whole ? 0 : Math.max(0, values.length - SHOWN)
  const take = () => {
    const parts = text.split(/[\s;]+/).filter(Boolean)
    const taken = parts.map(read)
    const bad = parts.find((_, i) => taken[i] === null)
    if (bad) return setFault(faultOf(bad))
    if (values.length + taken.length > most) return setFault(`${most} readings are the most.`)
    setFault(null)
    setText('')
    if (taken.length) onChange([...values, ...(taken as T[])])
  }
  return (
    <div className={ui.stack} style={{ gap: 6 }}>
      <div className={ui.row}>
        <Input
          aria-label={label}
          value={text}
          inputMode="decimal"
          placeholder={values.length ? 'one more' : hint}
          onChange={(e) => setText(e.target.value)}
          onPressEnter={take}
          onBlur={() => text.trim() && take()}
          suffix={unit}
          status={fault ? 'error' : undefined}
          style={{ width: 150 }}
        />
        {hidden > 0 && (
          <Button type="text" size="small" onClick={() => setWhole(true)}>
            {hidden} before these
          </Button>
        )}
        {values.map(
          (v, i) =>
            i >= hidden && (
              <span key={i} className={clsx(ui.tag, ui.figure)}>
                {show(v)}
                <Button
                  type="text"
                  size="small"
                  aria-label={`Take out ${show(v)}`}
                  icon={<X size={12} aria-hidden="true" />}
                  onClick={() => onChange(values.filter((_, k) => k !== i))}
                />
              </span>
            ),
        )}
      </div>
      {fault && (
        <p className={clsx(ui.fault, ui.small)} role="alert">
          {fault}
        </p>
      )}
    </div>
  )
}

/** Numbers, one after the other. */
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
  return (
    <TypedList
      label={label}
      unit={unit}
      values={values}
      most={most}
      read={typedNumber}
      show={(v) => figure(v, digits)}
      fault={(text) => `“${text}” is no number.`}
      onChange={onChange}
    />
  )
}
