import { Button, Modal } from 'antd'
import { keysOf } from '@verimend/core/recipe'
import { MEASURED_WORDS, signName } from '@verimend/core/words'
import { Link } from 'react-router'
import { outbox, type KeptNote, type Noted } from '../api/outbox'
import { ago } from '../components/format'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** What was noted, in a few words. */
function inWords(what: Noted): string {
  switch (what.of) {
    case 'reading':
      return `A reading of a trial, at ${what.cell.replaceAll('-', ' ')}`
    case 'sign':
      return `${signName(what.sign)}: ${what.state === null ? 'not looked at' : what.state === 'present' ? 'seen' : 'not there'}`
    case 'outcome':
      return `What came of attempt ${what.attempt}: ${keysOf(what.results)
        .map((s) => `${signName(s).toLowerCase()} ${what.results[s]}`)
        .join(', ')}`
    case 'heights':
      return `Heights of the flaw, ${what.ranges.map((r) => `${r.from} to ${r.to} mm`).join(', ')}`
    case 'measurement':
      return `What was measured: ${MEASURED_WORDS[what.kind].toLowerCase()}`
  }
}

/** Each thing that was noted and not sent yet, and what can be done with one that was refused. */
export default function KeptList({ notes, onClose }: { notes: readonly KeptNote[]; onClose: () => void }) {
  return (
    <Modal open title="Noted, and not sent yet" footer={null} onCancel={onClose} width={520}>
      <ul className={clsx(ui.plainlist, ui.stack)}>
        {notes.map((n) => (
          <li
            key={n.id}
            className={clsx(ui.notice, n.refused && ui.fault, ui.stack)}
            style={{ gap: 6 }}
            data-testid="kept-note"
          >
            <span className={clsx(ui.row, ui.between)}>
              <strong className={ui.wrap}>{inWords(n.what)}</strong>
              <span className={clsx(ui.faint, ui.small)}>{ago(n.at)}</span>
            </span>
            {n.refused ? (
              <>
                <span>{n.refused}</span>
                <span className={ui.row}>
                  <Link to={n.href} onClick={onClose}>
                    See what stands there now
                  </Link>
                  <Button size="small" onClick={() => void outbox.again(n.id)}>
                    Send mine all the same
                  </Button>
                  <Button size="small" type="text" onClick={() => outbox.drop(n.id)}>
                    Leave mine out
                  </Button>
                </span>
              </>
            ) : (
              <span className={ui.faint}>Waits, and is sent by itself.</span>
            )}
          </li>
        ))}
      </ul>
    </Modal>
  )
}
