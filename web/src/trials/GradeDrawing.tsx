import type { CriterionId } from '@verimend/core/trials'
import drawingStyles from '../drawing/drawing.module.css'

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
const DRAW: Record<CriterionId, (bad: number) => Parts> = {
  strings: (bad) => ({
    part: 'M14 44V10H26V44M54 44V10H66V44M6 44H74',
    flaw: rows(
      [0, 1, 3, 6, 10][bad],
      (k) => `M26 ${14 + k * 2.9}Q40 ${17 + k * 2.9 + bad} 54 ${13.5 + k * 2.9}`,
    ),
  }),
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
  corners: (bad) => ({
    part: 'M18 46V18H62',
    flaw: bad
      ? `M18 ${26 + bad}Q${16 - bad * 1.5} ${16 - bad * 1.2} ${26 + bad} 18M${32 + bad} 18Q${38} ${18 + bad * 2} 46 18`
      : '',
  }),
  evenness: (bad) => ({
    part: `M8 ${27 - 4}H26M54 ${27 - 4}H72M8 31H26M54 31H72`,
    flaw: `M26 23Q32 ${23 - bad * 2.2} 36 23Q46 ${23 + bad * 1.2} 54 23M26 31Q32 ${31 + bad * 2.2} 36 31Q46 ${31 - bad * 1.2} 54 31`,
  }),
  ripples: (bad) => ({
    part: 'M12 46V20',
    flaw:
      wave(12, 12 + 14 * Math.max(1, bad), 20, bad * 2.4, Math.max(1, bad)) +
      `M${12 + 14 * Math.max(1, bad)} 20H70`,
  }),
  sheet: (bad) => ({
    part: rows(bad > 2 ? 5 : 7, (k) => `M14 ${10 + k * (bad > 2 ? 8.5 : 6)}H66`),
    flaw: rows(bad * 2, (k) => `M${18 + ((k * 19) % 40)} ${13 + ((k * 12) % 32)}h8`),
  }),
  closed: (bad) => ({
    part: 'M14 8H66V46H14Z' + rows(5, (k) => `M14 ${14 + k * 6.5}H66`),
    flaw: rows(bad * 2, (k) => `M${18 + ((k * 23) % 40)} ${15 + ((k * 13) % 28)}l6 3`),
  }),
  seam: (bad) => ({
    part: 'M18 8H62V46H18Z',
    flaw: bad ? rows(6, (k) => `M${40 - bad} ${12 + k * 6}a${bad} ${bad * 0.7} 0 1 0 ${bad * 2} 0`) : '',
  }),
  free: (bad) => ({
    part: 'M40 8a19 19 0 1 1-.1 0M40 18a9 9 0 1 1-.1 0',
    flaw:
      bad < 4
        ? `M40 ${18 - (4 - bad) * 1.1}a${9 + (4 - bad) * 1.1} ${9 + (4 - bad) * 1.1} 0 1 1-.1 0`
        : 'M49 27l4 0M31 27l-4 0M40 18l0-4M40 36l0 4',
  }),
}

/** How a grade looks; decoration beside its words. */
export function GradeDrawing({ criterion, grade }: { criterion: CriterionId; grade: number }) {
  const d = DRAW[criterion](4 - grade)
  return (
    <svg viewBox="0 0 80 54" width={80} height={54} aria-hidden="true" className={drawingStyles.signdrawing}>
      <path d={d.part} className={drawingStyles.part} />
      {d.flaw && <path d={d.flaw} className={drawingStyles.flaw} />}
    </svg>
  )
}
