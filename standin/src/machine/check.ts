import { MoveKind, type Program } from '@verimend/core/gcode'
import type { Machine } from '@verimend/core/machine'

/** °C under which plastic is not pushed. */
const COLD = 150
/** mm that a coordinate may lie past an end by rounding. */
const SLACK = 0.05

/** Why a file cannot be run on a machine; null when it can. One sentence with the line it stands in. */
export function faultOfFile(program: Program, machine: Machine): string | null {
  const { limits, bed, height } = machine
  for (const s of program.states) {
    if (s.nozzle !== null && s.nozzle > limits.nozzle)
      return `The file asks for ${s.nozzle} °C at the nozzle; this machine goes to ${limits.nozzle} °C.`
    if (s.bed !== null && s.bed > limits.bed)
      return `The file asks for ${s.bed} °C on the bed; this machine goes to ${limits.bed} °C.`
  }
  const round = bed.shape === 'round'
  const [x0, x1] = round ? [-bed.width / 2, bed.width / 2] : [0, bed.width]
  const [y0, y1] = round ? [-bed.depth / 2, bed.depth / 2] : [0, bed.depth]
  let fed = false
  for (let i = 0; i < program.count; i++) {
    if (program.kind[i] !== MoveKind.Extrude && program.kind[i] !== MoveKind.Travel) continue
    const [x, y, z] = [program.x[i], program.y[i], program.z[i]]
    if (x < x0 - SLACK || x > x1 + SLACK || y < y0 - SLACK || y > y1 + SLACK)
      return `Line ${program.line[i]} goes to X ${x.toFixed(1)}, Y ${y.toFixed(1)}, which is off this machine’s bed.`
    if (z > height + SLACK || z < -1)
      return `Line ${program.line[i]} goes to Z ${z.toFixed(1)}; this machine is ${height} mm high.`
    if (program.kind[i] !== MoveKind.Extrude) continue
    fed = true
    if ((program.states[program.state[i]]?.nozzle ?? 0) < COLD)
      return `Line ${program.line[i]} feeds filament before the nozzle is hot.`
  }
  return fed ? null : 'Nothing in the file is fed: there is nothing to print.'
}
