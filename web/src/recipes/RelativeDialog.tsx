import { Button, Modal } from 'antd'
import { bareText, settingOf, type SettingKey } from '@verimend/core'
import type { PairDetail, Relative } from '@verimend/contract'
import { useRelatives } from '../api/queries'
import { Empty, Loaded } from '../parts/Problem'

/** Tested recipes of the family, nearest first, with what each would bring; choosing one makes a new version. */
export function RelativeDialog({
  pair,
  busy,
  onChoose,
  onClose,
}: {
  pair: PairDetail
  busy: boolean
  onChoose: (relative: string | null) => void
  onClose: () => void
}) {
  const relatives = useRelatives(pair.machineId, pair.filamentId)
  const from = Object.values(pair.version.values).some((r) => r.stack.some((o) => o.source === 'relative'))
  return (
    <Modal
      open
      title="Start from a tested relative"
      footer={
        from ? (
          <Button loading={busy} onClick={() => onChoose(null)}>
            Start from none
          </Button>
        ) : null
      }
      onCancel={onClose}
      width={620}
    >
      <Loaded query={relatives}>
        {(list) =>
          list.length === 0 ? (
            <Empty>
              No other recipe of this family holds anything measured or found in a case yet. The card and the
              label stand until a first trial.
            </Empty>
          ) : (
            <div className="stack">
              {list.map((r) => (
                <RelativeCard
                  key={r.pairId}
                  pair={pair}
                  relative={r}
                  busy={busy}
                  onChoose={() => onChoose(r.pairId)}
                />
              ))}
            </div>
          )
        }
      </Loaded>
    </Modal>
  )
}

function RelativeCard({
  pair,
  relative,
  busy,
  onChoose,
}: {
  pair: PairDetail
  relative: Relative
  busy: boolean
  onChoose: () => void
}) {
  return (
    <section className="sheet stack" style={{ gap: 6 }}>
      <div className="row between">
        <strong className="wrap">
          {relative.name} on {relative.machineName}
        </strong>
        <Button size="small" type="primary" loading={busy} onClick={onChoose}>
          Start from it
        </Button>
      </div>
      <p className="faint small">{relative.shared.join(', ')}</p>
      <ul className="changes">
        {Object.entries(relative.brings).map(([k, v]) => (
          <li key={k}>
            <span>{settingOf(k as SettingKey).label}</span>
            <span className="figure">
              {bareText(k as SettingKey, pair.version.values[k as SettingKey].value)} →{' '}
              {bareText(k as SettingKey, v.value)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
