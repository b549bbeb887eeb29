// Where the minutes of `npm test` go, as tables.

const SLOWEST = 20
const figure = (s) => (s >= 100 ? s.toFixed(0) : s.toFixed(1))

/** Rows as a Markdown table; the first column is text, the others are numbers. */
function table(head, rows) {
  const all = [
    head,
    ...rows.map((row) => row.map((cell) => (typeof cell === 'number' ? figure(cell) : cell))),
  ]
  const widths = head.map((_, i) => Math.max(...all.map((row) => row[i].length)))
  const line = (row) =>
    `| ${row.map((cell, i) => (i ? cell.padStart(widths[i]) : cell.padEnd(widths[i]))).join(' | ')} |`
  const rule = `| ${widths.map((w, i) => (i ? `${'-'.repeat(w - 1)}:` : '-'.repeat(w))).join(' | ')} |`
  return [line(all[0]), rule, ...all.slice(1).map(line)].join('\n')
}

/**
 * Tables of what took how long.
 * @param times what checks.mjs has noted: stages, unit test files and journeys, in seconds
 * @param total seconds from begin to end
 */
export function timesTables(times, total) {
  const of = (kind) => times.filter((t) => t.kind === kind)
  const unit = of('unit').sort((a, b) => b.cpu - a.cpu)
  const rest = unit.slice(SLOWEST)
  const sum = (list, key) => list.reduce((s, t) => s + t[key], 0)
  const journeys = of('journey').sort((a, b) => b.s - a.s)
  return [
    table(
      ['stage', 's'],
      [...of('stage').map(({ what, s }) => [what, s]), ['everything, from begin to end', total]],
    ),
    unit.length &&
      table(
        ['test file', 'CPU s', 's'],
        [
          ...unit.slice(0, SLOWEST).map(({ what, cpu, s }) => [what, cpu, s]),
          ...(rest.length ? [[`${rest.length} other files`, sum(rest, 'cpu'), sum(rest, 's')]] : []),
        ],
      ),
    journeys.length &&
      table(
        ['journey', 's'],
        journeys.map(({ what, s }) => [what.replaceAll('|', '/'), s]),
      ),
  ].filter(Boolean)
}
