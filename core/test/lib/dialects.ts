import { filamentArea } from '../../src/extrusion'
import { MoveKind, type Program } from '../../src/gcode'

/** How a hand of its own spells a program: nothing here is the product's writer. */
export interface Dialect {
  feed: 'relative' | 'absolute'
  /** G91 instead of G90. */
  steps: boolean
  inches: boolean
  /** mm³ in the E word. */
  volumetric: boolean
  lowerCase: boolean
  /** No blanks between words. */
  tight: boolean
  numbered: boolean
  lineEnd: '\n' | '\r\n' | '\r'
  /** Noughts at the ends of numbers. */
  padded: boolean
  decimals: number
  feedDecimals: number
  /** F before the axes; on each line, or only where it changes, or on a line of its own. */
  rate: 'first' | 'each' | 'changed' | 'own-line'
  /** The count of the feed begins anew so often, moves. */
  reset: number
  remarks: boolean
  /** Every word is said, also an axis that stays. */
  wordy: boolean
  fraction: boolean
}

export const PLAIN: Dialect = {
  feed: 'relative',
  steps: false,
  inches: false,
  volumetric: false,
  lowerCase: false,
  tight: false,
  numbered: false,
  lineEnd: '\n',
  padded: false,
  decimals: 3,
  feedDecimals: 5,
  rate: 'changed',
  reset: 0,
  remarks: true,
  wordy: false,
  fraction: false,
}

/** Spells the moves of a program in a dialect. */
export function spelt(p: Program, d: Dialect, diameter = 1.75): string {
  const unit = d.inches ? 25.4 : 1
  const decimals = d.inches ? d.decimals + 2 : d.decimals
  const feedDecimals = d.inches ? d.feedDecimals + 1 : d.feedDecimals
  const num = (v: number, digits: number) => {
    let text = v.toFixed(digits)
    if (!d.padded) text = text.replace(/(\.\d*?)0+$/, '$1').replace(/\.$/, '')
    return Number(text) === 0 ? text.replace('-', '') : text
  }
  const out: string[] = []
  let count = 0
  const line = (words: string[], remark = '') => {
    let text = words.join(d.tight ? '' : ' ')
    if (d.lowerCase) text = text.toLowerCase()
    if (d.numbered && words.length) {
      text = `N${++count}${d.tight ? '' : ' '}${text}`
      let sum = 0
      for (const c of text) sum ^= c.charCodeAt(0)
      text += `*${sum}`
    } else if (d.remarks && remark) text += `${words.length ? ' ' : ''}; ${remark}`
    out.push(text)
  }
  line([], 'a file of another hand')
  if (d.remarks) out.push('; picture begin 32x32', '; QUJDREVGR0g=', '; picture end', '')
  line([d.inches ? 'G20' : 'G21'])
  line([d.steps ? 'G91' : 'G90'])
  line([d.feed === 'absolute' ? 'M82' : 'M83'])
  if (d.volumetric) line(['M200', `D${diameter}`])
  line(['G92', 'E0'])
  let e = 0
  let told = -1
  let since = 0
  let state = -1
  let began = false
  const at = { x: 0, y: 0, z: 0 }
  const volume = d.volumetric ? filamentArea(diameter) : 1
  for (let i = 0; i < p.count; i++) {
    if (p.state[i] !== state) {
      const was = state < 0 ? null : p.states[state]
      const now = p.states[p.state[i]]
      state = p.state[i]
      if (now.bed !== null && now.bed !== was?.bed) line([began ? 'M140' : 'M190', `S${now.bed}`], 'bed')
      if (now.nozzle !== null && now.nozzle !== was?.nozzle)
        line([began ? 'M104' : 'M109', `S${now.nozzle}`], 'heat')
      if (now.fan !== (was?.fan ?? 0)) {
        const s = d.fraction ? Number(now.fan.toFixed(3)) : Math.round(now.fan * 255)
        line(s ? ['M106', `S${s}`] : ['M107'])
      }
      if (now.printAcceleration !== null && now.printAcceleration !== was?.printAcceleration)
        line(['M204', `P${now.printAcceleration}`])
      if (now.travelAcceleration !== null && now.travelAcceleration !== was?.travelAcceleration)
        line(['M204', `T${now.travelAcceleration}`])
      if (now.pressure !== null && now.pressure !== was?.pressure) line(['M900', `K${now.pressure}`])
    }
    const kind = p.kind[i]
    if (kind === MoveKind.Jump) {
      line(['G28'], 'home')
      at.x = at.y = at.z = 0
      continue
    }
    if (kind === MoveKind.Dwell) {
      line(['G4', `P${Math.round(p.speed[i] * 1000)}`])
      continue
    }
    began = true
    const rate = num((p.speed[i] * 60) / unit, d.inches ? 3 : 0)
    const changed = Number(rate) !== told
    told = Number(rate)
    if (d.rate === 'own-line' && changed) line(['G1', `F${rate}`])
    const words: string[] = [e > 0 || p.e[i] ? 'G1' : 'G0']
    if (d.rate === 'first') words.push(`F${rate}`)
    for (const axis of ['x', 'y', 'z'] as const) {
      const to = p[axis][i]
      if (!d.wordy && Math.abs(to - at[axis]) < 5e-4) continue
      const text = num((d.steps ? to - at[axis] : to) / unit, decimals)
      words.push(`${axis.toUpperCase()}${text}`)
      at[axis] = d.steps ? at[axis] + Number(text) * unit : Number(text) * unit
    }
    if (p.e[i] !== 0) {
      const step = (p.e[i] * volume * (d.volumetric ? unit * unit : 1)) / unit
      e += step
      const text = num(d.feed === 'absolute' ? e : step, feedDecimals)
      words.push(`E${text}`)
    }
    if (d.rate === 'each' || (d.rate === 'changed' && changed)) words.push(`F${rate}`)
    line(words, p.e[i] < 0 ? 'pull' : '')
    if (d.reset && d.feed === 'absolute' && ++since >= d.reset) {
      since = 0
      e = 0
      line(['G92', 'E0'])
    }
  }
  line(['M104', 'S0'])
  line(['M140', 'S0'])
  line(['M84'], 'done')
  return out.join(d.lineEnd) + d.lineEnd
}
