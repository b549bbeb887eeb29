import type { SignId } from '@verimend/core/knowledge'
import { DRAWINGS } from './signDrawings'
import drawingStyles from './drawing.module.css'

/** The drawing of a sign; decoration beside its name, so it is hidden from screen readers. */
export function SignDrawing({ sign, width = 96 }: { sign: SignId; width?: number }) {
  const d = DRAWINGS[sign]
  return (
    <svg
      viewBox="0 0 96 64"
      width={width}
      height={(width * 64) / 96}
      aria-hidden="true"
      className={drawingStyles.signdrawing}
    >
      {d.aid && <path d={d.aid} className={drawingStyles.aid} />}
      {d.part && <path d={d.part} className={drawingStyles.part} />}
      {d.flaw && <path d={d.flaw} className={drawingStyles.flaw} />}
      {d.spot && <path d={d.spot} className={drawingStyles.spot} />}
    </svg>
  )
}
