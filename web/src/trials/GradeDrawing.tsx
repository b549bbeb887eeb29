import type { CriterionId } from '@verimend/core/trials'
import drawingStyles from '../drawing/drawing.module.css'
import { GRADE_PICTURES } from './gradePictures'
import styles from './ReadTrial.module.css'

type Pictured = (typeof GRADE_PICTURES)[number]
type Drawn = Exclude<CriterionId, Pictured>

interface Parts {
  part: string
  flaw?: string
}
const wave = (x0: number, x1: number, y: number, size: number, turns: number) => {
  const n = turns * 2
  let d = `M${x0} ${y}`
  for (let i = 1; i <= n; i++) {
    const x = x0 + ((x1 - x0) * i) / n
    d += `Q${x - (x1 - x0) / n / 2} ${y + (i % 2 ? size : -size)} ${x} ${y}`
  }
  return d
}
const rows = (count: number, draw: (k: number) => string) =>
  Array.from({ length: count }, (_, k) => draw(k)).join('')

/** How far from flawless, 0 to 4, as lines. */
const DRAW: Record<Drawn, (bad: number) => Parts> = {
  bonding: (bad) => ({
    part: bad === 0 ? 'M16 44Q24 22 58 14M24 46Q32 27 62 20' : `M14 44L${40 - bad} 28M22 47L${46 - bad} 34`,
    flaw:
      bad === 0
        ? ''
        : bad === 1
          ? 'M40 28L44 26L43 30L48 27L47 33'
          : `M${44 + bad * 3} ${24 - bad}L66 14M${50 + bad * 3} ${30 - bad}L70 20`,
  }),
  overhang: (bad) => ({
    part: 'M20 46V8M20 8H62',
    flaw: wave(22, 62, 44 - 8, bad * 2.2, 4).replace(/ 36/g, ' 36') + 'M62 8V36',
  }),
  bridge: (bad) => ({
    part: 'M10 46V16H20V46M60 46V16H70V46M20 18H60',
    flaw: `M20 21Q40 ${21 + bad * 7} 60 21${bad > 2 ? `M26 21Q40 ${30 + bad * 5} 54 21` : ''}`,
  }),
  detail: (bad) => ({
    part: 'M20 46H60',
    flaw: bad
      ? `M34 46Q${34 - bad} 30 ${35 + bad} ${16 + bad * 2}Q40 ${10 + bad * 2} ${46 + bad} ${16 + bad * 2}Q${46 + bad * 2} 30 46 46`
      : 'M34 46V12H46V46',
  }),
  surface: (bad) => ({
    part: 'M18 8H62V46H18Z',
    flaw: rows(bad * 3, (k) => `M${22 + ((k * 13) % 36)} ${12 + ((k * 17) % 30)}h5`),
  }),
  closed: (bad) => ({
    part: 'M14 8H66V46H14Z' + rows(5, (k) => `M14 ${14 + k * 6.5}H66`),
    flaw: rows(bad * 2, (k) => `M${18 + ((k * 23) % 40)} ${15 + ((k * 13) % 28)}l6 3`),
  }),
}

/** Whether a criterion's grades have pictures from a simulated print; the others are drawn as lines. */
export const hasGradePictures = (criterion: CriterionId): criterion is Pictured =>
  (GRADE_PICTURES as readonly CriterionId[]).includes(criterion)

/** How a grade looks; decoration beside its words. */
export function GradeDrawing({ criterion, grade }: { criterion: CriterionId; grade: number }) {
  if (hasGradePictures(criterion))
    return (
      <img
        src={`/grades/${criterion}-${grade}.webp`}
        width={96}
        height={64}
        alt=""
        className={styles.gradepicture}
      />
    )
  const d = DRAW[criterion](4 - grade)
  return (
    <svg viewBox="0 0 80 54" width={96} height={64} aria-hidden="true" className={drawingStyles.signdrawing}>
      <path d={d.part} className={drawingStyles.part} />
      {d.flaw && <path d={d.flaw} className={drawingStyles.flaw} />}
    </svg>
  )
}
