import { Button } from 'antd'
import type { PairDetail, Trial } from '@verimend/contract'
import {
  ASPECTS,
  PIECES,
  PIECE_IDS,
  checkOrTrial,
  duration,
  isPiece,
  quantity,
  type PieceId,
  type TrialId,
} from '@verimend/core'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { usePair, useReadiness, useTrialChange, useTrials } from '../api/queries'
import { ReadyMark } from '../bench/Readiness'
import { useCurrentPair } from '../pairs/PairContext'
import { ago } from '../parts/format'
import { Empty, Loaded } from '../parts/Problem'
import { RemoveButton } from '../parts/RemoveButton'
import { useUndo } from '../parts/useUndo'
import { outcomeWith, progressOf } from './useOutcome'

/** Test pieces of the pair: in which order, what each costs, and what was found. */
export default function TrialsScreen() {
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId ?? undefined)
  const trials = useTrials(pairId)
  if (!pairId)
    return (
      <>
        <h1>Trials</h1>
        <Empty>Choose a filament and a machine at the top: a trial is always of a pair.</Empty>
      </>
    )
  return (
    <>
      <div className="pagehead">
        <h1>Trials</h1>
      </div>
      <Loaded query={pair}>
        {(p) => (
          <Loaded query={trials}>
            {(list) => (
              <>
                <Sequence pair={p} trials={list} />
                <h2 style={{ margin: '22px 0 8px' }}>Printed or planned</h2>
                <List pair={p} trials={list} />
                <h2 style={{ margin: '22px 0 8px' }}>All pieces</h2>
                <ul className="pieces">
                  {PIECE_IDS.map((id) => (
                    <li key={id}>
                      <Link to={`/trials/new/${id}`}>{PIECES[id].name}</Link>
                      <span className="faint small">{PIECES[id].what}</span>
                    </li>
                  ))}
                </ul>
              </>
            )}
          </Loaded>
        )}
      </Loaded>
    </>
  )
}

/** What is still to be found for this pair, in the order it is worth finding. */
function Sequence({ pair, trials }: { pair: PairDetail; trials: Trial[] }) {
  const readiness = useReadiness()
  const navigate = useNavigate()
  const own = readiness.data?.find((r) => r.pairId === pair.id)
  if (!own) return null
  const rows = own.aspects.flatMap((a) => {
    const piece = ASPECTS[a.id].by as TrialId
    if (!isPiece(piece)) return []
    const known = a.state === 'measured' || a.state === 'verified'
    const open = trials.find((t) => t.plan.piece === piece && t.adoptedVersion === null)
    // its last print tells what it costs on this machine; else the usual
    const last = trials.find((t) => t.plan.piece === piece)
    const usual = checkOrTrial(piece)
    return [
      {
        aspect: a,
        piece,
        known,
        open,
        guessed: !last,
        minutes: last ? last.seconds / 60 : usual.minutes,
        grams: last ? last.grams : usual.grams,
      },
    ]
  })
  const todo = rows.filter((r) => !r.known)
  const minutes = todo.reduce((s, r) => s + r.minutes, 0)
  const grams = todo.reduce((s, r) => s + r.grams, 0)
  const left = pair.filament.filament.weightLeft
  const next = todo[0]
  return (
    <section className="sheet stack" aria-label="What is still to be found">
      <div className="row between">
        <h2>What is still to be found</h2>
        <span className="faint small figure">
          {todo.length
            ? `${todo.some((r) => r.guessed) ? 'about ' : ''}${duration(minutes * 60)}, ${quantity(grams, 'g', 0)}${left === null ? '' : ` of ${quantity(left, 'g', 0)} left on the roll`}`
            : 'nothing'}
        </span>
      </div>
      {left !== null && grams > left && (
        <p className="notice caution">The roll does not hold enough for all of them: begin with the first.</p>
      )}
      <div className="tablewrap">
        <table className="plain">
          <thead>
            <tr>
              <th>Known</th>
              <th>Of</th>
              <th>Piece</th>
              <th className="num wideonly">min</th>
              <th className="num wideonly">g</th>
              <th>
                <span className="visually-hidden">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.aspect.id} data-aspect={r.aspect.id} className={r.known ? 'faint' : undefined}>
                <td>
                  <ReadyMark state={r.aspect.state} title={r.aspect.words} />
                </td>
                <td title={r.aspect.words}>
                  {ASPECTS[r.aspect.id].label} <span className="faint small">{r.aspect.state}</span>
                </td>
                <td>{PIECES[r.piece as PieceId].name}</td>
                {[r.minutes, r.grams].map((v, i) => (
                  <td key={i} className={r.guessed ? 'num figure wideonly faint' : 'num figure wideonly'}>
                    {Math.round(v)}
                  </td>
                ))}
                <td className="num">
                  {r.open ? (
                    <Button
                      size="small"
                      type="primary"
                      onClick={() => void navigate(`/trials/${r.open!.id}`)}
                    >
                      Go on with trial {r.open.number}
                    </Button>
                  ) : (
                    <Button
                      size="small"
                      type={r === next ? 'primary' : 'default'}
                      onClick={() => void navigate(`/trials/new/${r.piece}`)}
                    >
                      {r.known ? 'Again' : 'Plan it'}
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.some((r) => r.guessed) && (
        <p className="faint small">
          Minutes and grams in grey are usual ones, from memory; planning a piece works out its own.
        </p>
      )}
    </section>
  )
}

function List({ pair, trials }: { pair: PairDetail; trials: Trial[] }) {
  if (!trials.length)
    return (
      <Empty>
        No trial of this pair yet. Each piece is written from the recipe, within what the machine can do.
      </Empty>
    )
  return (
    <div className="sheet tablewrap">
      <table className="plain">
        <thead>
          <tr>
            <th className="num">No.</th>
            <th>Piece</th>
            <th>Read</th>
            <th>What it says</th>
            <th>When</th>
            <th>
              <span className="visually-hidden">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {trials.map((t) => (
            <Row key={t.id} t={t} all={trials} pair={pair} />
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Row({ t, all, pair }: { t: Trial; all: Trial[]; pair: PairDetail }) {
  const undo = useUndo()
  const restore = useTrialChange(t.id, () => api.trials.restore(t.id))
  const remove = useTrialChange(t.id, () => api.trials.remove(t.id))
  const { read, of } = progressOf(t)
  const outcome = read ? outcomeWith(t, all, pair) : null
  return (
    <tr data-testid="trial">
      <td className="num figure">{t.number}</td>
      <td>
        <Link to={`/trials/${t.id}`}>{PIECES[t.plan.piece].name}</Link>
      </td>
      <td className="figure">
        {read} of {of}
      </td>
      <td>
        {t.adoptedVersion !== null && <span className="tag good">in version {t.adoptedVersion}</span>}{' '}
        <span className="faint">{outcome?.words[0] ?? 'not read yet'}</span>
      </td>
      <td className="faint nowrap">{ago(t.createdAt)}</td>
      <td className="num">
        <RemoveButton
          what={`trial ${t.number}`}
          onClick={() =>
            remove.mutate(undefined as never, {
              onSuccess: () =>
                undo(`Trial ${t.number} is put away.`, () => restore.mutate(undefined as never)),
            })
          }
        />
      </td>
    </tr>
  )
}
