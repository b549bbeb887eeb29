import { Button, InputNumber, Select, Switch } from 'antd'
import {
  SOURCE_NAMES,
  bareText,
  digitsOf,
  figure,
  settingOf,
  shareText,
  valueText,
  type RecipeValues,
  type Resolved,
  type SettingKey,
  type SettingValue,
  type Warning,
} from '@verimend/core'
import { useState } from 'react'

export interface RowProps {
  name: SettingKey
  resolved: Resolved
  before: SettingValue
  values: RecipeValues
  nozzle: number
  off: boolean
  /** Undefined: not edited; null: to be derived again. */
  typed: SettingValue | null | undefined
  plusMinus: number | undefined
  fault: string | null
  warning: Warning | undefined
  /** The other side of a comparison. */
  other: Resolved | undefined
  comparing: boolean
  readOnly: boolean
  canMeasure: boolean
  onEdit: (key: SettingKey, value: SettingValue | null) => void
  onMeasure: (key: SettingKey, value: SettingValue, plusMinus: number | null) => void
}

/** One setting: value edited in place, what it is a share of, why it is so, and the stack behind it. */
export function SettingRow(props: RowProps) {
  const { name, resolved, before, values, nozzle, off, typed, plusMinus, fault, warning, other, readOnly } =
    props
  const s = settingOf(name)
  const [open, setOpen] = useState(false)
  const [editing, setEditing] = useState(false)
  const share = shareText(name, values, nozzle)
  const pinned = ['hand', 'mend', 'measured'].includes(resolved.source)
  const shownValue = typeof typed === 'number' ? typed : Number(resolved.value)
  const pm = plusMinus ?? resolved.plusMinus
  const apart = other !== undefined && other.value !== resolved.value
  return (
    <>
      <tr className={off ? 'off' : undefined} data-setting={name}>
        <td>
          <button type="button" className="linkish" onClick={() => setOpen(!open)} aria-expanded={open}>
            {s.label}
          </button>
          {warning && (
            <span
              className={`mark ${warning.severity}`}
              title={warning.text}
              aria-label={`${warning.severity}: ${warning.text}`}
              role="img"
            >
              {warning.severity === 'note' ? 'i' : '!'}
            </span>
          )}
        </td>
        <td className="num">
          {readOnly ? (
            <span className="figure">{bareText(name, resolved.value)}</span>
          ) : s.kind === 'switch' ? (
            <Switch
              size="small"
              checked={resolved.value === true}
              onChange={(v) => props.onEdit(name, v)}
              aria-label={s.label}
            />
          ) : s.kind === 'choice' ? (
            <Select
              size="small"
              value={resolved.value as string}
              onChange={(v) => props.onEdit(name, v)}
              options={s.choices}
              aria-label={s.label}
              style={{ width: 160 }}
            />
          ) : editing ? (
            <InputNumber
              size="small"
              autoFocus
              defaultValue={shownValue}
              step={s.step}
              aria-label={`${s.label}, ${s.unit}`}
              onChange={(v) => typeof v === 'number' && props.onEdit(name, v)}
              onBlur={() => setEditing(false)}
              onPressEnter={() => setEditing(false)}
              onKeyDown={(e) => {
                if (e.key === 'Escape') {
                  props.onEdit(name, before)
                  setEditing(false)
                }
              }}
              style={{ width: 104 }}
            />
          ) : (
            <button
              type="button"
              className={`valuebutton figure${typed !== undefined ? ' edited' : ''}`}
              onClick={() => setEditing(true)}
              aria-label={`${s.label}: ${valueText(name, resolved.value)}. Change`}
            >
              {figure(shownValue, Math.max(digitsOf(s), 3))}
            </button>
          )}
          {pm !== undefined && pm > 0 && <div className="faint figure small">± {figure(pm, 3)}</div>}
          {fault && <div className="fault small">{fault}</div>}
        </td>
        {props.comparing && (
          <td className="num">
            {other && (
              <span className={apart ? 'figure apart' : 'figure faint'}>{bareText(name, other.value)}</span>
            )}
            {apart && (
              <Button
                size="small"
                type="text"
                onClick={() => props.onEdit(name, other.value)}
                aria-label={`Take ${bareText(name, other.value)} for ${s.label}`}
              >
                Take
              </Button>
            )}
          </td>
        )}
        <td className="faint unit">
          {s.kind === 'number' ? (s.percentOf ? `% of ${s.percentOf}` : s.unit) : ''}
          {share && <div className="small">{share}</div>}
        </td>
        <td className="why" title={resolved.words}>
          <div className="clamp">
            <span
              className={
                resolved.source === 'measured'
                  ? 'tag good'
                  : pinned
                    ? 'tag info'
                    : resolved.source === 'relative'
                      ? 'tag caution'
                      : 'tag'
              }
            >
              {SOURCE_NAMES[resolved.source]}
            </span>{' '}
            <span className="faint">{resolved.words}</span>
          </div>
        </td>
      </tr>
      {open && (
        <tr className="opened">
          <td colSpan={props.comparing ? 5 : 4}>
            <p>
              {s.what}
              {s.up && ` More: ${s.up}.`}
              {s.down && ` Less: ${s.down}.`}
            </p>
            <table className="plain stackrows">
              <tbody>
                {[...resolved.stack].reverse().map((o, i) => (
                  <tr key={`${o.source}${i}`}>
                    <td>
                      {i === 0 ? (
                        <strong>{SOURCE_NAMES[o.source]}</strong>
                      ) : (
                        <span className="faint">{SOURCE_NAMES[o.source]}</span>
                      )}
                    </td>
                    <td className="num figure">{valueText(name, o.value)}</td>
                    <td className="faint">
                      {o.words}{' '}
                      {i > 0 &&
                        `Overruled by: ${SOURCE_NAMES[resolved.stack[resolved.stack.length - i].source]}.`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {resolved.clippedFrom !== undefined && (
              <p className="caution">
                The machine’s limit holds it; {valueText(name, resolved.clippedFrom)} was asked.
              </p>
            )}
            {!!resolved.follows?.length && (
              <p className="faint">
                Follows {resolved.follows.map((k) => settingOf(k).label.toLowerCase()).join(', ')}.
              </p>
            )}
            {!readOnly && (
              <div className="row" style={{ marginTop: 6 }}>
                {pinned && (
                  <Button size="small" onClick={() => props.onEdit(name, null)}>
                    Let it be derived again
                  </Button>
                )}
                {props.canMeasure && s.kind === 'number' && (
                  <label className="row small">
                    I measured {figure(shownValue, Math.max(digitsOf(s), 3))} {s.unit}, ±
                    <InputNumber
                      size="small"
                      min={0}
                      step={s.step}
                      value={plusMinus ?? null}
                      onChange={(v) => props.onMeasure(name, shownValue, v)}
                      aria-label={`Plus or minus of ${s.label}`}
                      style={{ width: 80 }}
                    />
                  </label>
                )}
              </div>
            )}
          </td>
        </tr>
      )}
    </>
  )
}
