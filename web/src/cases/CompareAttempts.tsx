import { Select } from 'antd'
import type { CaseDetail, PairDetail, RecipeVersion } from '@verimend/contract'
import { SETTING_KEYS } from '@verimend/core/recipe'
import { duration, quantity } from '@verimend/core/quantity'
import { signsThat } from '@verimend/core/casework'
import type { SignId } from '@verimend/core/knowledge'
import type { PathReading } from '@verimend/core/toolpath'
import { changeText, comparedLabel, settingLabel, signNames, valueText } from '@verimend/core/words'
import { useMemo, useState } from 'react'
import { useVersion } from '../api/queries'
import { BeforeAfter } from '../photos/BeforeAfter'
import { Loaded } from '../components/states'
import { useComputed } from '../workers/useComputed'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** A print of a case: the one that was bad (0), or the one after an attempt. */
interface Print {
  number: number
  version: number
  seen: SignId[]
  file: CaseDetail['files'][number] | undefined
}

function printsOf(c: CaseDetail): Print[] {
  const fileAt = (n: number) => c.files.filter((f) => f.afterAttempt <= n).at(-1)
  const done = c.attempts.filter((a) => a.recordedAt)
  return [
    {
      number: 0,
      version: c.startVersion,
      seen: signsThat('present', done[0]?.signsBefore ?? c.signs),
      file: fileAt(0) ?? c.files[0],
    },
    ...done.map((a, i) => ({
      number: a.number,
      version: a.toVersion,
      // what was seen after it is what the next one began with
      seen: signsThat('present', done[i + 1]?.signsBefore ?? c.signs),
      file: fileAt(a.number),
    })),
  ]
}

/** What differs between two prints as their path files show it. */
function AsPrinted({ a, b }: { a: PathReading; b: PathReading }) {
  const input = useMemo(() => ({ a, b }), [a, b])
  const { data } = useComputed('compare', input)
  if (!data) return null
  const text = (v: string | number | boolean | null, digits: number, unit: string) => {
    if (typeof v === 'number') return quantity(v, unit, digits)
    return v === null ? '–' : typeof v === 'boolean' ? (v ? 'yes' : 'no') : v
  }
  if (!data.differences.length)
    return (
      <tr>
        <td>As printed</td>
        <td colSpan={2} className={ui.faint}>
          Nothing differs in the files.
        </td>
      </tr>
    )
  return (
    <>
      {data.differences.map((d) => (
        <tr key={`${d.id}${d.feature ?? ''}`} data-printed={d.id}>
          <td>
            {comparedLabel(d.id, d.feature)} <span className={clsx(ui.faint, ui.small)}>in the file</span>
          </td>
          <td className={ui.figure}>{text(d.a, d.digits, d.unit)}</td>
          <td className={ui.figure}>{text(d.b, d.digits, d.unit)}</td>
        </tr>
      ))}
    </>
  )
}

/** Any two prints of a case side by side: settings that differ, signs, time and grams, photos. */
export function CompareAttempts({ kase, pair }: { kase: CaseDetail; pair: PairDetail }) {
  const prints = printsOf(kase)
  const [left, setLeft] = useState(0)
  const [right, setRight] = useState(prints.at(-1)!.number)
  const a = prints.find((p) => p.number === left) ?? prints[0]
  const b = prints.find((p) => p.number === right) ?? prints.at(-1)!
  const before = useVersion(pair.id, a.version)
  const after = useVersion(pair.id, b.version)
  const label = (n: number) => (n === 0 ? 'The bad print' : `After attempt ${n}`)
  const options = prints.map((p) => ({ value: p.number, label: label(p.number) }))
  const { photos } = kase
  const photoAt = (n: number) => photos.filter((p) => p.afterAttempt === n).at(-1)
  return (
    <div className={ui.stack} data-testid="compare-attempts">
      <div className={ui.row}>
        <Select
          aria-label="One print"
          value={a.number}
          onChange={setLeft}
          options={options}
          style={{ minWidth: 170 }}
        />
        <span className={ui.faint}>against</span>
        <Select
          aria-label="The other print"
          value={b.number}
          onChange={setRight}
          options={options}
          style={{ minWidth: 170 }}
        />
      </div>
      <div className={ui.tablewrap}>
        <table className={ui.plain}>
          <thead>
            <tr>
              <th>What</th>
              <th>{label(a.number)}</th>
              <th>{label(b.number)}</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <td>Recipe</td>
              <td className={ui.figure}>version {a.version}</td>
              <td className={ui.figure}>version {b.version}</td>
            </tr>
            {before.data && after.data ? (
              <Settings a={before.data} b={after.data} />
            ) : (
              <tr>
                <td colSpan={3}>
                  <Loaded query={before.data ? after : before}>{() => null}</Loaded>
                </td>
              </tr>
            )}
            {a.file && b.file && a.file.id !== b.file.id && (
              <AsPrinted a={a.file.reading} b={b.file.reading} />
            )}
            <tr>
              <td>Signs seen</td>
              {[a, b].map((p, i) => (
                <td key={i} className={ui.wrap}>
                  {signNames(p.seen) || 'none'}
                </td>
              ))}
            </tr>
            <tr>
              <td>Time and grams</td>
              {[a, b].map((p, i) => (
                <td key={i} className={ui.figure}>
                  {p.file
                    ? `${duration(p.file.reading.seconds)}, ${quantity(p.file.reading.filament.mass, 'g', 1)}`
                    : 'no path file'}
                </td>
              ))}
            </tr>
            <tr>
              <td>Changed for it</td>
              {[a, b].map((p, i) => (
                <td key={i} className={clsx(ui.wrap, ui.faint)}>
                  {kase.attempts
                    .find((x) => x.number === p.number)
                    ?.mends.map(changeText)
                    .join('; ') ?? 'nothing'}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      </div>
      {photoAt(a.number) && photoAt(b.number) && a.number !== b.number && (
        <BeforeAfter
          key={`${a.number}-${b.number}`}
          photos={photos}
          from={photoAt(a.number)!.id}
          to={photoAt(b.number)!.id}
        />
      )}
    </div>
  )
}

/** Settings of two versions that differ. */
function Settings({ a, b }: { a: RecipeVersion; b: RecipeVersion }) {
  const keys = SETTING_KEYS.filter((k) => a.values[k].value !== b.values[k].value)
  if (!keys.length)
    return (
      <tr>
        <td>Settings</td>
        <td colSpan={2} className={ui.faint}>
          None differ between the versions.
        </td>
      </tr>
    )
  return keys.map((k) => (
    <tr key={k} data-setting={k}>
      <td>{settingLabel(k)}</td>
      <td className={ui.figure}>{valueText(k, a.values[k].value)}</td>
      <td className={ui.figure}>{valueText(k, b.values[k].value)}</td>
    </tr>
  ))
}
