import { Button, InputNumber, Select, Switch } from 'antd'
import { SOURCE_NAMES, bareText, say, sayWarning, valueText } from '@verimend/core/words'
import {
  digitsOf,
  isPinned,
  keysOf,
  settingOf,
  type Resolved,
  type SettingKey,
  type SettingValue,
  type Warning,
} from '@verimend/core/recipe'
import { figure } from '@verimend/core/quantity'
import { clsx } from 'clsx'
import { memo, useState } from 'react'
import ui from '../components/ui.module.css'
import tableStyles from './table.module.css'

/** What a person does to a setting. The functions stay the same, so that only rows that change are drawn anew. */
export interface RowActions {
  /** null lets it be derived again. */
  edit: (key: SettingKey, value: SettingValue | null) => void
  measure: (key: SettingKey, value: SettingValue, plusMinus: number | null) => void
}

export interface RowProps {
  name: SettingKey
  resolved: Resolved
  /** The value that is kept. */
  before: SettingValue
  /** What the value is a share of, in words. */
  share: string
  /** It does not matter for this recipe. */
  off: boolean
  /** Undefined: not edited; null: to be derived again. */
  typed: SettingValue | null | undefined
  plusMinus: number | undefined
  fault: string | null
  warning: Warning | undefined
  /** The other side of a comparison. */
  other: Resolved | undefined
  comparing: boolean
  canMeasure: boolean
  actions: RowActions
}

/** The tag of a value's source. */
function sourceTag(source: Resolved['source']): string {
  const tone =
    source === 'measured' ? ui.good : isPinned(source) ? ui.info : source === 'relative' && ui.caution
  return clsx(ui.tag, tone)
}

/** What a person sees of a setting: the same as before means the row stays as it is. */
const sameRow = (a: RowProps, b: RowProps) =>
  keysOf(a).every((k) => (k === 'resolved' || k === 'other' ? sameResolved(a[k], b[k]) : a[k] === b[k]))
const sameResolved = (a: Resolved | undefined, b: Resolved | undefined) =>
  a === b || (!!a && !!b && a.value === b.value && JSON.stringify(a) === JSON.stringify(b))

/** One setting: value edited in place, what it is a share of, why it is so, and the stack behind it. */
export const SettingRow = memo(function SettingRow(props: RowProps) {
  const { name, resolved, before, share, off, typed, plusMinus, fault, warning, other, actions } = props
  const s = settingOf(name)
  const [open, setOpen] = useState(false)
  const [editing, setEditing] = useState(false)
  const pinned = isPinned(resolved.source)
  const why = say(resolved.reason)
  const bite = warning && sayWarning(warning).text
  const shownValue = typeof typed === 'number' ? typed : Number(resolved.value)
  const pm = plusMinus ?? resolved.plusMinus
  const apart = other !== undefined && other.value !== resolved.value
  return (
    <>
      <tr data-off={off || undefined} data-setting={name}>
        <td>
          <button type="button" className={ui.linkish} onClick={() => setOpen(!open)} aria-expanded={open}>
            {s.label}
          </button>
          {warning && (
            <span
              className={tableStyles.mark}
              data-severity={warning.severity}
              title={bite}
              aria-label={`${warning.severity}: ${bite}`}
              role="img"
            >
              {warning.severity === 'note' ? 'i' : '!'}
            </span>
          )}
        </td>
        <td className={ui.num}>
          {s.kind === 'switch' ? (
            <Switch
              size="small"
              checked={resolved.value === true}
              onChange={(v) => actions.edit(name, v)}
              aria-label={s.label}
            />
          ) : s.kind === 'choice' ? (
            <Select
              size="small"
              value={resolved.value as string}
              onChange={(v) => actions.edit(name, v)}
              options={[...s.choices]}
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
              onChange={(v) => typeof v === 'number' && actions.edit(name, v)}
              onBlur={() => setEditing(false)}
              onPressEnter={() => setEditing(false)}
              onKeyDown={(e) => {
                if (e.key === 'Escape') {
                  actions.edit(name, before)
                  setEditing(false)
                }
              }}
              style={{ width: 104 }}
            />
          ) : (
            <button
              type="button"
              className={clsx(tableStyles.valuebutton, ui.figure)}
              data-edited={typed !== undefined || undefined}
              data-testid="value"
              onClick={() => setEditing(true)}
              aria-label={`${s.label}: ${valueText(name, resolved.value)}. Change`}
            >
              {figure(shownValue, Math.max(digitsOf(s), 3))}
            </button>
          )}
          {pm !== undefined && pm > 0 && (
            <div className={clsx(ui.faint, ui.figure, ui.small)}>± {figure(pm, 3)}</div>
          )}
          {fault && <div className={clsx(ui.fault, ui.small)}>{fault}</div>}
        </td>
        {props.comparing && (
          <td className={ui.num}>
            {other && (
              <span className={apart ? clsx(ui.figure, ui.apart) : clsx(ui.figure, ui.faint)}>
                {bareText(name, other.value)}
              </span>
            )}
            {apart && (
              <Button
                size="small"
                type="text"
                onClick={() => actions.edit(name, other.value)}
                aria-label={`Take ${bareText(name, other.value)} for ${s.label}`}
              >
                Take
              </Button>
            )}
          </td>
        )}
        <td className={clsx(ui.faint, tableStyles.unit)}>
          {s.kind === 'number' ? (s.percentOf ? `% of ${s.percentOf}` : s.unit) : ''}
          {share && <div className={ui.small}>{share}</div>}
        </td>
        <td className={tableStyles.why} title={why}>
          <div className={tableStyles.clamp}>
            <span className={sourceTag(resolved.source)}>{SOURCE_NAMES[resolved.source]}</span>{' '}
            <span className={ui.faint}>{why}</span>
          </div>
        </td>
      </tr>
      {open && (
        <tr className={tableStyles.opened}>
          <td colSpan={props.comparing ? 5 : 4}>
            <p>
              {s.what}
              {s.up && ` More: ${s.up}.`}
              {s.down && ` Less: ${s.down}.`}
            </p>
            <table className={clsx(ui.plain, tableStyles.stackrows)}>
              <tbody>
                {[...resolved.stack].reverse().map((o, i) => (
                  <tr key={`${o.source}${i}`}>
                    <td>
                      {i === 0 ? (
                        <strong>{SOURCE_NAMES[o.source]}</strong>
                      ) : (
                        <span className={ui.faint}>{SOURCE_NAMES[o.source]}</span>
                      )}
                    </td>
                    <td className={clsx(ui.num, ui.figure)}>{valueText(name, o.value)}</td>
                    <td className={ui.faint}>
                      {say(o.reason)}{' '}
                      {i > 0 &&
                        `Overruled by: ${SOURCE_NAMES[resolved.stack[resolved.stack.length - i].source]}.`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {resolved.clippedFrom !== undefined && (
              <p className={ui.caution}>
                The machine’s limit holds it; {valueText(name, resolved.clippedFrom)} was asked.
              </p>
            )}
            {!!resolved.follows?.length && (
              <p className={ui.faint}>
                Follows {resolved.follows.map((k) => settingOf(k).label.toLowerCase()).join(', ')}.
              </p>
            )}
            <div className={ui.row} style={{ marginTop: 6 }}>
              {pinned && (
                <Button size="small" onClick={() => actions.edit(name, null)}>
                  Let it be derived again
                </Button>
              )}
              {props.canMeasure && s.kind === 'number' && (
                <label className={clsx(ui.row, ui.small)}>
                  I measured {figure(shownValue, Math.max(digitsOf(s), 3))} {s.unit}, ±
                  <InputNumber
                    size="small"
                    min={0}
                    step={s.step}
                    value={plusMinus ?? null}
                    onChange={(v) => actions.measure(name, shownValue, v)}
                    aria-label={`Plus or minus of ${s.label}`}
                    style={{ width: 80 }}
                  />
                </label>
              )}
            </div>
          </td>
        </tr>
      )}
    </>
  )
}, sameRow)
