import type { Reason } from '../quantity/reason'
import { measuredReason } from './reasons'
import type { BedPoint } from './types'

/** Where the places of a grid lie, mm, and which row comes first. */
export interface GridFrame {
  fromX: number
  toX: number
  fromY: number
  toY: number
  firstRow: 'front' | 'back'
}
export type ReadGrid = { ok: true; points: BedPoint[] } | { ok: false; fault: Reason }

const MOST_PLACES = 2500
/** A height beyond this is no bed, mm. */
const FAR = 10
/** Repeatability of a probe, mm. From memory. */
const PROBE = 0.008
const NUMBER = '[+-]?\\d+(?:[.,]\\d+)?(?:e[+-]?\\d+)?'
const LABELLED = new RegExp(
  `x\\s*[:=]?\\s*(${NUMBER}).*?y\\s*[:=]?\\s*(${NUMBER}).*?z\\s*[:=]?\\s*(${NUMBER})`,
  'i',
)

const faulty = (fault: Reason): ReadGrid => ({ ok: false, fault })

/**
 * Reads a probe grid: rows of numbers split by spaces, semicolons, tabs or commas, with or without a row of column
 * numbers at the head and row numbers at the side; or lines that name X, Y and Z, as machines report them. Other lines
 * are passed over. A hole or a short row is a fault, never filled.
 */
export function readGrid(text: string, frame: GridFrame): ReadGrid {
  const lines = text
    .slice(0, 400_000)
    .split(/\r?\n/)
    .map((l) => l.trim())
    .filter(Boolean)
  if (!lines.length) return faulty(measuredReason('grid-empty'))
  const named = lines.flatMap((line) => {
    const m = LABELLED.exec(line)
    return m ? [m.slice(1, 4).map((v) => Number(v.replace(',', '.')))] : []
  })
  if (named.length >= 3) return checked(named.map(([x, y, z]) => ({ x, y, z, u: PROBE })))
  const rows: number[][] = []
  for (const line of lines) {
    // 0,1, 0,2: within numbers and between them
    if (!line.includes('.') && /\d,\d/.test(line) && /\d,\s+[+-]?\d/.test(line))
      return faulty(measuredReason('grid-commas', { row: rows.length + 1 }))
    // a comma is a decimal one where something else splits
    const decimal = /\d,\d/.test(line) && /[;\t]|\d\s+[+-]?\d/.test(line)
    const cells = line
      .replace(/[|[\]()]/g, ' ')
      .split(decimal ? /[;\t\s]+/ : /[,;\t\s]+/)
      .map((c) => c.trim())
      .filter(Boolean)
    const numbers = cells.map((c) =>
      /^[+-]?\d*[.,]?\d+(e[+-]?\d+)?$/i.test(c) ? Number(c.replace(',', '.')) : NaN,
    )
    if (numbers.every(Number.isNaN)) continue // words
    const bad = numbers.findIndex(Number.isNaN)
    // a line that begins with words and goes on with figures is no row
    if (bad === 0 && !rows.length) continue
    if (bad >= 0)
      return faulty(
        measuredReason('grid-not-number', { row: rows.length + 1, text: cells[bad].slice(0, 20) }),
      )
    rows.push(numbers)
  }
  const bare = withoutNumbering(rows)
  if (bare.length < 2 || bare[0].length < 2) return faulty(measuredReason('grid-no-shape'))
  const wanted = Math.max(...bare.map((r) => r.length))
  const short = bare.findIndex((r) => r.length !== wanted)
  if (short >= 0)
    return faulty(measuredReason('grid-row-short', { row: short + 1, count: bare[short].length, wanted }))
  if (bare.length * wanted > MOST_PLACES) return faulty(measuredReason('grid-too-large'))
  const at = (from: number, to: number, i: number, n: number) => from + ((to - from) * i) / Math.max(1, n - 1)
  return checked(
    bare.flatMap((row, r) =>
      row.map((z, c): BedPoint => ({
        x: at(frame.fromX, frame.toX, c, wanted),
        y: at(frame.fromY, frame.toY, frame.firstRow === 'front' ? r : bare.length - 1 - r, bare.length),
        z,
        u: PROBE,
      })),
    ),
  )
}

/** A head of column numbers 0, 1, 2 … and a side of row numbers are no heights. */
function withoutNumbering(rows: readonly number[][]): number[][] {
  const counts = (list: readonly number[]) =>
    list.length > 1 &&
    list.every((v, i) => Number.isInteger(v) && v === list[0] + i) &&
    (list[0] === 0 || list[0] === 1)
  let out = rows.map((r) => [...r])
  if (out.length > 2 && counts(out[0]) && !out.slice(1).every((r) => r.every(Number.isInteger)))
    out = out.slice(1)
  const side = out.map((r) => r[0])
  const back = [...side].reverse()
  if (
    out.length > 1 &&
    (counts(side) || counts(back)) &&
    out.some((r) => r.slice(1).some((v) => !Number.isInteger(v)))
  )
    out = out.map((r) => r.slice(1))
  return out
}

function checked(points: BedPoint[]): ReadGrid {
  const far = points.find((p) => !Number.isFinite(p.z) || Math.abs(p.z) > FAR)
  if (far) return faulty(measuredReason('grid-far', { value: far.z }))
  if (points.length > MOST_PLACES) return faulty(measuredReason('grid-too-large'))
  return { ok: true, points }
}
