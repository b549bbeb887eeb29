import { solidSpacing } from '../extrusion/bead'
import { figure, quantity } from '../quantity/format'
import { featureLoads, type ValuesOnly } from '../recipe/derive'
import { isNumberKey, settingOf, type NumberKey, type SettingKey } from '../recipe/settings'
import { lower } from './names'

/** What a value is a share of, in words: "120 % of the nozzle"; empty where it is none. */
export function shareText(key: SettingKey, values: ValuesOnly, nozzle: number): string {
  const s = settingOf(key)
  if (s.kind !== 'number' || !isNumberKey(key)) return ''
  if (s.percentOf) {
    const of = percentBase(key, values)
    return of ? `= ${of}` : ''
  }
  const { shareOf } = s
  if (!shareOf) return ''
  const [base, name] =
    shareOf === 'nozzle-diameter'
      ? [nozzle, 'nozzle']
      : isNumberKey(shareOf)
        ? [values[shareOf].value, lower(settingOf(shareOf).label)]
        : [0, '']
  return base > 0 ? `${figure((values[key].value / base) * 100, 0)} % of ${name}` : ''
}

/** The speed whose lines a flow is shown on. */
const FLOW_OF: Partial<Record<NumberKey, NumberKey>> = {
  flow: 'outerSpeed',
  flowFirst: 'firstSpeed',
  flowOuter: 'outerSpeed',
  flowInner: 'innerSpeed',
  flowSolid: 'solidSpeed',
  flowSparse: 'sparseSpeed',
  flowBridge: 'outerSpeed',
  flowOverRaft: 'firstSpeed',
}
/** Width and height of the lines a density is made of. */
const LINES_OF: Partial<Record<NumberKey, [width: NumberKey, height: NumberKey]>> = {
  sparseDensity: ['fillWidth', 'layerHeight'],
  raftDensity: ['raftBottomWidth', 'firstHeight'],
  raftTopDensity: ['raftTopWidth', 'layerHeight'],
}

/**
 * What a percentage comes to: flow as mm³ for each mm of line, a density as the distance of its lines, fan duty as
 * the command's 0–255. A scale is shown against the drawn size alone: the part decides what it comes to.
 */
function percentBase(key: NumberKey, values: ValuesOnly): string {
  const n = (k: NumberKey) => values[k].value
  if (key === 'fan' || key === 'fanOverhang' || key === 'fanBridge')
    return `${Math.round((n(key) / 100) * 255)} of 255`
  const lines = LINES_OF[key]
  if (lines)
    return n(key) > 0
      ? `lines ${quantity(solidSpacing(n(lines[0]), n(lines[1])) / (n(key) / 100), 'mm', 2)} apart`
      : ''
  const load = featureLoads(values).find((f) => f.key === FLOW_OF[key])
  if (!load) return ''
  // bridges and the layer on a raft are laid with these lines, at a flow of their own
  const own = key === 'flowBridge' || key === 'flowOverRaft'
  const share = own ? (n('flow') / 100) * (n(key) / 100) * load.area : load.rate / load.speed
  return `${quantity(share, 'mm³', 4)} a mm`
}
