import type { PairDetail } from '@verimend/contract'
import {
  FILE_KEYS,
  asksPrintedWith,
  compareWithRecipe,
  faultOf,
  machineLimit,
  printedWith,
  roundTo,
  settingOf,
  straysIn,
  writesIntoFile,
  type SettingChange,
  type SettingKey,
  type SettingValue,
} from '@verimend/core/recipe'
import type { PathReading } from '@verimend/core/toolpath'
import { say, settingLabel, valueText } from '@verimend/core/words'
import { Button, Checkbox, InputNumber, Select, Switch } from 'antd'
import { clsx } from 'clsx'
import { useMemo, useState } from 'react'
import ui from '../components/ui.module.css'
import { ChangedFileView } from './ChangedFileView'
import { ChangeMany } from './ChangeMany'
import { PrintedAt } from './PrintedAt'
import { PauseInFile } from './PauseInFile'
import { StepsInFile, type WholeFile } from './StepsInFile'
import { StrayTag } from './ReadingView'

/** All that can be made of a finished file: a change, steps up its height, a pause. */
export default function ChangeFile({
  whole,
  ...of
}: {
  whole: WholeFile
  name: string
  reading: PathReading
  pair: PairDetail
}) {
  return (
    <div className={ui.stack}>
      <OneChange source={whole.source} {...of} />
      <StepsInFile whole={whole} {...of} />
      <PauseInFile whole={whole} {...of} />
    </div>
  )
}

/** Changes a finished file: one setting chosen here, or what it does otherwise than the recipe. */
function OneChange({
  source,
  name,
  reading,
  pair,
}: {
  source: File | string
  name: string
  reading: PathReading
  pair: PairDetail
}) {
  const { values } = pair.version
  const differing = useMemo(() => compareWithRecipe(reading, values), [reading, values])
  const strays = useMemo(
    () => new Map(straysIn(differing, pair.filament.filament).map((s) => [s.key, s])),
    [differing, pair.filament.filament],
  )
  const [chosen, setChosen] = useState<readonly SettingChange[]>([])
  const [adding, setAdding] = useState<SettingKey | null>(null)
  const put = (change: SettingChange) =>
    setChosen((old) => [...old.filter((c) => c.key !== change.key), change])
  const drop = (key: SettingKey) => setChosen((old) => old.filter((c) => c.key !== key))
  const ofRecipe = differing.filter((d) => writesIntoFile(d.key))
  const leftovers = ofRecipe.filter((d) => strays.has(d.key))
  const toRecipe = (d: (typeof differing)[number]): SettingChange => ({
    key: d.key,
    from: d.file,
    to: d.recipe,
  })
  const wrongWith = ({ key, to }: SettingChange): string | null => {
    const fault = faultOf(key, to)
    if (fault) return say(fault)
    const limit = machineLimit(key, pair.machine.machine)
    return limit !== undefined && typeof to === 'number' && to > limit
      ? `This machine allows at most ${valueText(key, limit)}.`
      : null
  }
  const faulty = chosen.some((c) => wrongWith(c) !== null)
  return (
    <section className={ui.stack} aria-label="Change this file">
      <p>
        Change one thing in this file. Everything else stays as it is, byte for byte, so the next print shows
        what that one thing does.
      </p>
      <div className={ui.row}>
        <Select
          aria-label="Setting to change"
          showSearch
          placeholder="Which setting?"
          value={adding}
          style={{ width: 280 }}
          filterOption={(typed, option) => !!option && option.search.includes(typed.toLowerCase())}
          onChange={(key: SettingKey) => {
            setAdding(null)
            const from = printedWith(key, reading, values[key].value)
            put({ key, from: from ?? undefined, to: rounded(key, from ?? values[key].value) })
          }}
          options={FILE_KEYS.filter((key) => !chosen.some((c) => c.key === key)).map((key) => ({
            value: key,
            label: settingLabel(key),
            search: [settingLabel(key), ...(settingOf(key).aka ?? [])].join(' ').toLowerCase(),
          }))}
        />
        {leftovers.length > 0 && (
          <Button onClick={() => leftovers.map(toRecipe).forEach(put)}>
            Put leftovers of another job right ({leftovers.length})
          </Button>
        )}
      </div>
      {ofRecipe.length > 0 && (
        <details>
          <summary>
            {ofRecipe.length === 1 ? 'One setting differs' : `${ofRecipe.length} settings differ`} from the
            recipe
          </summary>
          <ul className={ui.plainlist}>
            {ofRecipe.map((d) => (
              <li key={d.key}>
                <Checkbox
                  checked={chosen.some((c) => c.key === d.key)}
                  onChange={(e) => (e.target.checked ? put(toRecipe(d)) : drop(d.key))}
                >
                  {settingLabel(d.key)}: {valueText(d.key, d.file)} → {valueText(d.key, d.recipe)}{' '}
                  {strays.has(d.key) && <StrayTag stray={strays.get(d.key)!} />}
                </Checkbox>
              </li>
            ))}
          </ul>
        </details>
      )}
      {chosen.map((c) => (
        <Chosen
          key={c.key}
          change={c}
          asks={asksPrintedWith(c, values)}
          fault={wrongWith(c)}
          onChange={put}
          onDrop={() => drop(c.key)}
        />
      ))}
      {chosen.length > 1 && (
        <p className={clsx(ui.notice, ui.caution)}>
          With {chosen.length} changes in one print you cannot tell which of them made the difference.
        </p>
      )}
      {chosen.length > 0 && (
        <ChangedFileView
          key={JSON.stringify(chosen)}
          source={source}
          name={name}
          settings={faulty ? [] : chosen.filter((c) => c.from !== c.to)}
          recipe={values}
          pair={pair}
          label="Change the file"
        />
      )}
      {chosen.length > 0 && !faulty && <ChangeMany settings={chosen} pair={pair} />}
    </section>
  )
}

const rounded = (key: SettingKey, value: SettingValue): SettingValue => {
  const s = settingOf(key)
  return s.kind === 'number' ? roundTo(s, Number(value)) : value
}

/** One setting with the value it is to have. */
function Chosen({
  change: c,
  asks,
  fault,
  onChange,
  onDrop,
}: {
  change: SettingChange
  /** What it was printed with has to be said. */
  asks: boolean
  /** What is wrong with its value. */
  fault: string | null
  onChange: (change: SettingChange) => void
  onDrop: () => void
}) {
  const s = settingOf(c.key)
  return (
    <div className={ui.stack} style={{ gap: 4 }} data-change={c.key}>
      <div className={ui.row}>
        <strong>{s.label}</strong>
        {asks ? (
          <PrintedAt change={c} onChange={onChange} />
        ) : (
          <span className={ui.faint}>
            {c.from === undefined
              ? 'not known for this file'
              : `${valueText(c.key, c.from)}${s.inFile ? '' : ' in the recipe'} →`}
          </span>
        )}
        {s.kind === 'number' ? (
          <InputNumber
            aria-label={`${s.label}, new value`}
            value={c.to as number}
            step={s.step}
            suffix={s.unit}
            status={fault ? 'error' : undefined}
            style={{ width: 140 }}
            onChange={(v) => onChange({ ...c, to: v ?? Number.NaN })}
          />
        ) : s.kind === 'switch' ? (
          <Switch
            aria-label={`${s.label}, new value`}
            checked={c.to === true}
            onChange={(to) => onChange({ ...c, to })}
          />
        ) : (
          <Select
            aria-label={`${s.label}, new value`}
            value={c.to as string}
            style={{ width: 220 }}
            onChange={(to) => onChange({ ...c, to })}
            options={s.choices.map(({ value, label }) => ({ value, label }))}
          />
        )}
        <Button size="small" type="text" onClick={onDrop}>
          Leave it out
        </Button>
      </div>
      {fault && (
        <span className={clsx(ui.fault, ui.small)} role="alert">
          {fault}
        </span>
      )}
    </div>
  )
}
