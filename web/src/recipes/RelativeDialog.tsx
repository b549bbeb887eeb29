import { Button, Modal } from 'antd'
import { cardOf } from '@verimend/core/material'
import { keysOf, type RankedRelative } from '@verimend/core/recipe'
import { bareText, likenessWords, settingLabel } from '@verimend/core/words'
import type { PairDetail } from '@verimend/contract'
import { useRelatives } from '../api/queries'
import { Empty, Loaded } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Tested recipes, nearest first, with what each would bring; choosing one makes a new version. */
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
              No similar recipe has tested values yet. Values come from the material card and the label until
              your first trial.
            </Empty>
          ) : (
            <div className={ui.stack}>
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
  relative: RankedRelative
  busy: boolean
  onChoose: () => void
}) {
  return (
    <section className={clsx(ui.sheet, ui.stack)} style={{ gap: 6 }}>
      <div className={clsx(ui.row, ui.between)}>
        <strong className={ui.wrap}>
          {relative.name} on {relative.machineName}
        </strong>
        <Button size="small" type="primary" loading={busy} onClick={onChoose}>
          Start from it
        </Button>
      </div>
      <p className={clsx(ui.faint, ui.small)}>
        {[
          ...(relative.family === pair.filament.filament.family ? [] : [cardOf(relative.family).name]),
          ...relative.shared.map((l) => likenessWords(l, pair.filament.filament.family)),
        ].join(', ')}
      </p>
      <ul className={ui.changes}>
        {keysOf(relative.brings).map((k) => (
          <li key={k}>
            <span>{settingLabel(k)}</span>
            <span className={ui.figure}>
              {bareText(k, pair.version.values[k].value)} → {bareText(k, relative.brings[k]!.value)}
            </span>
          </li>
        ))}
      </ul>
      {relative.differs.length > 0 && (
        <details className={ui.small}>
          <summary className={ui.faint}>
            Another plastic: what is not taken over ({relative.differs.length})
          </summary>
          <ul className={ui.changes}>
            {relative.differs.map((d) => (
              <li key={d.key}>
                <span>{settingLabel(d.key)}</span>
                <span className={ui.figure}>
                  {bareText(d.key, d.theirs)} there, {bareText(d.key, d.own)} here
                </span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}
