import { Button } from 'antd'
import type { PairDetail, PairReadiness, Trial } from '@verimend/contract'
import { ASPECTS } from '@verimend/core/casework'
import { PIECES, PIECE_IDS, isPiece, type Outcome } from '@verimend/core/trials'
import { checkOrTrial } from '@verimend/core/knowledge'
import { duration, quantity } from '@verimend/core/quantity'
import { READINESS_WORDS, say } from '@verimend/core/words'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { usePair, useReadiness, useTrialChange, useTrials } from '../api/queries'
import { ReadyMark } from '../bench/Readiness'
import { useCurrentPair } from '../pairs/PairContext'
import { ago } from '../components/format'
import { Empty, Loaded, Waiting } from '../components/states'
import { RemoveButton } from '../components/RemoveButton'
import { useUndo } from '../components/useUndo'
import { usePieceCosts } from './usePieceCosts'
import { progressOf, useOutcomes } from './useOutcomes'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './TrialsScreen.module.css'

/** Test pieces of the pair: in which order, what each costs, and what was found. */
export default function TrialsScreen() {
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId ?? undefined)
  const trials = useTrials(pairId)
  const readiness = useReadiness({ pairId: pairId ?? undefined })
  if (!pairId)
    return (
      <>
        <h1>Trials</h1>
        <Empty>Choose a filament and a machine at the top: a trial is always of a pair.</Empty>
      </>
    )
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Trials</h1>
      </div>
      <Loaded query={pair}>
        {(p) => (
          <Loaded query={trials}>
            {(list) =>
              // it stands above everything: what is below must not jump when it comes
              readiness.isPending ? (
                <Waiting />
              ) : (
                <>
                  <Sequence
                    pair={p}
                    trials={list}
                    readiness={readiness.data?.pairs.find((r) => r.pairId === p.id)}
                  />
                  <h2 style={{ margin: '22px 0 8px' }}>Printed or planned</h2>
                  <List pair={p} trials={list} />
                  <h2 style={{ margin: '22px 0 8px' }}>All pieces</h2>
                  <ul className={styles.pieces}>
                    {PIECE_IDS.map((id) => (
                      <li key={id}>
                        <Link to={`/trials/new/${id}`}>{PIECES[id].name}</Link>
                        <span className={clsx(ui.faint, ui.small)}>{PIECES[id].what}</span>
                      </li>
                    ))}
                  </ul>
                </>
              )
            }
          </Loaded>
        )}
      </Loaded>
    </>
  )
}

/** What is still to be found for this pair, in the order it is worth finding. */
function Sequence({
  pair,
  trials,
  readiness,
}: {
  pair: PairDetail
  trials: Trial[]
  readiness: PairReadiness | undefined
}) {
  const navigate = useNavigate()
  const costs = usePieceCosts(pair)
  if (!readiness) return null
  const rows = readiness.aspects.flatMap((a) => {
    const piece = ASPECTS[a.id].by
    if (!isPiece(piece)) return []
    const known = a.state === 'measured' || a.state === 'verified'
    // the newest of its kind: one that is read to the end has said what it has to say
    const newest = trials.find((t) => t.plan.piece === piece && t.adoptedVersion === null)
    const told = newest && progressOf(newest)
    const read = !!told && told.read === told.of
    // its last print tells what it costs on this machine; else the usual
    const last = trials.find((t) => t.plan.piece === piece)
    const usual = costs?.[piece] ?? checkOrTrial(piece)
    return [
      {
        aspect: a,
        piece,
        known,
        open: read ? undefined : newest,
        read: read ? newest : undefined,
        guessed: !last && !costs?.[piece],
        minutes: last ? last.seconds / 60 : usual.minutes,
        grams: last ? last.grams : usual.grams,
      },
    ]
  })
  const todo = rows.filter((r) => !r.known)
  const minutes = todo.reduce((s, r) => s + r.minutes, 0)
  const grams = todo.reduce((s, r) => s + r.grams, 0)
  const left = pair.filament.filament.weightLeft
  const next = todo.find((r) => !r.read)
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="What is still to be found">
      <div className={clsx(ui.row, ui.between)}>
        <h2>What is still to be found</h2>
        <span className={clsx(ui.faint, ui.small, ui.figure)}>
          {todo.length
            ? `${todo.some((r) => r.guessed) ? 'about ' : ''}${duration(minutes * 60)}, ${quantity(grams, 'g', 0)}${left === null ? '' : ` of ${quantity(left, 'g', 0)} left on the roll`}`
            : 'nothing'}
        </span>
      </div>
      {left !== null && grams > left && (
        <p className={clsx(ui.notice, ui.caution)}>
          The roll does not hold enough for all of them: begin with the first.
        </p>
      )}
      <div className={ui.tablewrap}>
        <table className={clsx(ui.plain, ui.stacks)}>
          <thead>
            <tr>
              <th>Known</th>
              <th>Of</th>
              <th className={ui.wideonly}>Piece</th>
              <th className={clsx(ui.num, ui.wideonly)}>min</th>
              <th className={clsx(ui.num, ui.wideonly)}>g</th>
              <th>
                <span className={ui.visuallyHidden}>Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.aspect.id} data-aspect={r.aspect.id} className={r.known ? ui.faint : undefined}>
                <td className={ui.inline}>
                  <ReadyMark state={r.aspect.state} title={say(r.aspect.reason)} />
                </td>
                <td title={say(r.aspect.reason)}>
                  {ASPECTS[r.aspect.id].label}{' '}
                  <span className={clsx(ui.faint, ui.small)}>{READINESS_WORDS[r.aspect.state]}</span>
                </td>
                <td className={ui.wideonly}>{PIECES[r.piece].name}</td>
                {[r.minutes, r.grams].map((v, i) => (
                  <td
                    key={i}
                    className={
                      r.guessed
                        ? clsx(ui.num, ui.figure, ui.wideonly, ui.faint)
                        : clsx(ui.num, ui.figure, ui.wideonly)
                    }
                  >
                    {Math.round(v)}
                  </td>
                ))}
                <td className={ui.num}>
                  {r.open ? (
                    <Button
                      size="small"
                      type="primary"
                      onClick={() => void navigate(`/trials/${r.open!.id}`)}
                    >
                      Go on with trial {r.open.number}
                    </Button>
                  ) : (
                    <span className={ui.row} style={{ justifyContent: 'flex-end' }}>
                      {r.read && !r.known && (
                        <Link to={`/trials/${r.read.id}`} className={ui.small}>
                          What trial {r.read.number} said
                        </Link>
                      )}
                      <Button
                        size="small"
                        type={r === next ? 'primary' : 'default'}
                        title={PIECES[r.piece].name}
                        onClick={() => void navigate(`/trials/new/${r.piece}`)}
                      >
                        {r.known || r.read ? 'Again' : 'Plan it'}
                      </Button>
                    </span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.some((r) => r.guessed) && (
        <p className={clsx(ui.faint, ui.small)}>
          Minutes and grams in grey are what such a piece usually takes; this pair’s own are on their way.
        </p>
      )}
    </section>
  )
}

function List({ pair, trials }: { pair: PairDetail; trials: Trial[] }) {
  const outcomes = useOutcomes(pair).data
  if (!trials.length)
    return (
      <Empty>
        No trial of this pair yet. Each piece is written from the recipe, within what the machine can do.
      </Empty>
    )
  return (
    <div className={clsx(ui.sheet, ui.tablewrap)}>
      <table className={clsx(ui.plain, ui.stacks)}>
        <thead>
          <tr>
            <th className={ui.num}>No.</th>
            <th>Piece</th>
            <th>Read</th>
            <th>What it says</th>
            <th>When</th>
            <th>
              <span className={ui.visuallyHidden}>Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {trials.map((t) => (
            <Row key={t.id} t={t} outcome={outcomes?.[t.number]} />
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Row({ t, outcome }: { t: Trial; outcome: Outcome | undefined }) {
  const undo = useUndo()
  const restore = useTrialChange(t.id, () => api.trials.restore(t.id))
  const remove = useTrialChange(t.id, () => api.trials.remove(t.id))
  const { read, of } = progressOf(t)
  const says = read === 0 ? 'not read yet' : outcome ? say(outcome.reasons[0]) : ''
  return (
    <tr data-testid="trial">
      <td className={clsx(ui.num, ui.figure, ui.inline)}>{t.number}</td>
      <td>
        <Link to={`/trials/${t.id}`}>{PIECES[t.plan.piece].name}</Link>
      </td>
      <td className={ui.figure} data-label="read">
        {read} of {of}
      </td>
      <td>
        {t.adoptedVersion !== null && (
          <span className={clsx(ui.tag, ui.good)}>in version {t.adoptedVersion}</span>
        )}{' '}
        <span className={ui.faint}>{says}</span>
      </td>
      <td className={clsx(ui.faint, ui.nowrap)}>{ago(t.createdAt)}</td>
      <td className={ui.num}>
        <RemoveButton
          what={`trial ${t.number}`}
          onClick={() =>
            remove.mutate(undefined, {
              onSuccess: () => undo(`Trial ${t.number} is put away.`, () => restore.mutate()),
            })
          }
        />
      </td>
    </tr>
  )
}
