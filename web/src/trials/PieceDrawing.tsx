import { keysOf } from '@verimend/core/recipe'
import { JOINT_SHAPES, JOINT_WORDS, type Cell, type JointShape } from '@verimend/core/trials'
import { variedText } from '@verimend/core/words'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './PieceDrawing.module.css'

/** How the steps of a cell are written beside it. */
export function cellValues(cell: Cell): string {
  return keysOf(cell.values)
    .map((k) => variedText(k, cell.values[k]!))
    .join(', ')
}

/** Which kind of joint a place is: round or flat, with the bed's line under those that lie. */
function JointMark({ shape, x, y }: { shape: JointShape; x: number; y: number }) {
  return (
    <g className={styles.joint}>
      {shape.startsWith('round') ? (
        <circle cx={x} cy={y} r={3.4} />
      ) : (
        <rect x={x - 4.5} y={y - 2.5} width={9} height={5} />
      )}
      {shape.endsWith('lying') && <line x1={x - 6} x2={x + 6} y1={y + 5} y2={y + 5} />}
    </g>
  )
}

/**
 * A piece with its values: bands upright from the front, patches and columns from above, each with the ribs or ticks it
 * carries.
 */
export function PieceDrawing({
  cells,
  view,
  done,
  current,
  onChoose,
}: {
  cells: readonly Cell[]
  view: 'front' | 'above'
  /** Cells that are read already. */
  done?: (id: string) => boolean
  current?: string
  onChoose?: (id: string) => void
}) {
  const front = view === 'front'
  const kinds = JOINT_SHAPES.filter((s) => cells.some((c) => c.joint === s))
  const x0 = Math.min(...cells.map((c) => c.box.x0))
  const x1 = Math.max(...cells.map((c) => c.box.x1))
  const low = front ? Math.min(0, ...cells.map((c) => c.box.z0)) : Math.min(...cells.map((c) => c.box.y0))
  const high = front ? Math.max(...cells.map((c) => c.box.z1)) : Math.max(...cells.map((c) => c.box.y1))
  const wide = x1 - x0
  const tall = high - low
  // towers are slim: they are drawn with room for the words beside them, a line of them beside each band
  const band = Math.min(...cells.map((c) => c.box.z1 - c.box.z0))
  const scale = front
    ? Math.min(420 / tall, Math.max(Math.min(4, 300 / tall), 16 / band))
    : Math.min(6, 420 / wide, 340 / tall)
  const words = front ? 190 : 0
  const rows = new Set(cells.map((c) => c.box.z0)).size
  const rowsOfFront = front && cells.length > rows
  const w = (front ? Math.min(wide * scale, 180) : wide * scale) + words + 20
  const h = tall * scale + 26
  const sx = front ? Math.min(wide * scale, 180) / wide : scale
  // values that do not fit are listed below, by number
  const numbered = !front && cells.some((c) => cellValues(c).length * 7.4 > (c.box.x1 - c.box.x0) * sx)
  const px = (x: number) => 10 + (x - x0) * sx
  const py = (v: number) => 12 + (high - v) * scale
  return (
    <div className={styles.piecebox}>
      <svg
        viewBox={`0 0 ${w} ${h}`}
        width={w}
        height={h}
        className={styles.piece}
        role="img"
        aria-label={`${cells.length} places, seen from ${front ? 'the front' : 'above'}`}
      >
        {front && <line x1={4} x2={px(x1) + 6} y1={py(low)} y2={py(low)} className={styles.bed} />}
        {cells.map((c, i) => {
          const [a, b] = front ? [c.box.z0, c.box.z1] : [c.box.y0, c.box.y1]
          const left = px(c.box.x0)
          const width = px(c.box.x1) - left
          const top = py(b)
          const height = py(a) - top
          const small = numbered || height < 15
          return (
            <g
              key={c.id}
              className={styles.cell}
              data-current={current === c.id || undefined}
              data-done={done?.(c.id) || undefined}
              onClick={onChoose && (() => onChoose(c.id))}
              data-cell={c.id}
            >
              <rect x={left} y={top} width={width} height={height} />
              {Array.from({ length: c.marks }, (_, k) => (
                <line
                  key={k}
                  x1={left + 4 + k * 4}
                  x2={left + 4 + k * 4}
                  y1={top + height - 3}
                  y2={top + height - Math.min(9, height - 2)}
                  className={styles.rib}
                />
              ))}
              {kinds.length > 1 && c.joint && (
                <JointMark shape={c.joint} x={left + width - 9} y={top + height - 8} />
              )}
              {front ? (
                (!rowsOfFront || i % (cells.length / rows) === 0) && (
                  <text x={px(x1) + 10} y={top + height / 2 + 4}>
                    {cellValues(c)}
                    {c.marks > 0 ? ` · ${c.marks} ${c.marks === 1 ? 'rib' : 'ribs'}` : ''}
                  </text>
                )
              ) : (
                <text
                  x={left + width / 2}
                  y={top + height / 2 + (small ? 3 : 4)}
                  textAnchor="middle"
                  data-small={small || undefined}
                >
                  {small ? i + 1 : cellValues(c)}
                </text>
              )}
            </g>
          )
        })}
      </svg>
      {kinds.length > 1 && (
        <p className={clsx(ui.row, ui.small, ui.faint)}>
          {kinds.map((shape) => (
            <span key={shape} className={ui.row} style={{ gap: 4 }}>
              <svg width={16} height={14} aria-hidden="true" className={styles.piece}>
                <JointMark shape={shape} x={8} y={6} />
              </svg>
              {JOINT_WORDS[shape]}
            </span>
          ))}
        </p>
      )}
      {numbered && !current && (
        <ol className={clsx(ui.small, ui.figure)}>
          {cells.map((c) => (
            <li key={c.id}>{c.measure ? c.name : cellValues(c)}</li>
          ))}
        </ol>
      )}
    </div>
  )
}
