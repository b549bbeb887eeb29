import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync } from 'node:zlib'
import type {
  CaseDetail,
  CasePage,
  CaseSummary,
  FilamentRecord,
  MachineRecord,
  PairDetail,
  PairSummary,
  Problem,
  ReadinessPage,
  Trial,
  VersionSummary,
} from '@verimend/contract'
import { upgradeRecipe } from '@verimend/core/recipe'
import { fireEvent, screen, waitFor } from '@testing-library/react'
import { server, type Answers, type Asked } from './show'

/** What the 3D model of the hinge says. */
const HINGE: NonNullable<CaseDetail['about']> = {
  gap: 0.3,
  wall: null,
  contact: 2357,
  islands: 2,
  hanging: 57,
  bridge: 2,
  longest: 62,
  height: 8,
  push: null,
}

/** What the server answers on a fresh demo; made by record.mjs. */
const RECORDED = gunzipSync(readFileSync(join(__dirname, 'fixtures', 'demo.json.gz'))).toString()
export function recorded(): Answers {
  const answers = JSON.parse(RECORDED) as Answers
  // what is kept grows up when it is read: so it is with what was recorded before a setting was there
  const pairs = Object.values(answers).filter(
    (a): a is PairDetail => !!a && typeof a === 'object' && 'version' in a && 'filament' in a,
  )
  for (const pair of pairs) {
    const bench = { machine: pair.machine.machine, filament: pair.filament.filament }
    Object.assign(pair.version, upgradeRecipe(pair.version, bench))
    for (const [asked, version] of Object.entries(answers))
      if (asked.startsWith(`GET pairs/${pair.id}/versions/`))
        Object.assign(version as object, upgradeRecipe(version as PairDetail['version'], bench))
  }
  for (const [asked, answer] of Object.entries(answers))
    if (/^GET cases\/[\w-]{36}$/.test(asked)) {
      const kase = answer as CaseDetail
      kase.about ??= kase.partId ? HINGE : null
    }
  return answers
}
const DEMO = recorded()

export const DEMO_CASES = (DEMO['GET cases'] as CasePage).cases
export const DEMO_PAIRS = DEMO['GET pairs'] as PairSummary[]
export const DEMO_ROLLS = DEMO['GET filaments'] as FilamentRecord[]
export const DEMO_PRINTERS = DEMO['GET machines'] as MachineRecord[]
export const DEMO_READINESS = (DEMO['GET pairs/readiness'] as ReadinessPage).pairs

/** The recorded answer to a question, once more. */
export const answerTo = <T>(path: string): T => copyOf(DEMO[`GET ${path}`]) as T
/** Plain data once more, to be changed at will. */
export const copyOf = <T>(data: T): T => JSON.parse(JSON.stringify(data)) as T
export function caseOf(part: string): CaseDetail {
  const { id } = DEMO_CASES.find((c) => c.part === part)!
  return answerTo(`cases/${id}`)
}
export function pairOf(roll: string): PairDetail {
  const { id } = DEMO_ROLLS.find((r) => r.filament.name === roll)!
  return answerTo(`pairs/${DEMO_PAIRS.find((p) => p.filamentId === id)!.id}`)
}
export const versionsOf = (pair: { id: string }) => answerTo<VersionSummary[]>(`pairs/${pair.id}/versions`)
export const trialsOf = (pair: { id: string }) => answerTo<Trial[]>(`trials?pairId=${pair.id}`)

/** The demo's server; what is given answers instead. */
export const demoServer = (instead: Answers = {}): Asked[] =>
  server({ 'GET prints': { prints: [], total: 0 }, ...recorded(), ...instead })

/** A page of cases that holds all there are. */
export const pageOf = (cases: CaseSummary[]): CasePage => ({ cases, total: cases.length })

/** A problem as the server sends it. */
export const problem = (status: number, detail: string, more: Partial<Problem> = {}): Problem => ({
  type: 'about:blank',
  title: 'Not done',
  status,
  code: 'problem',
  detail,
  ...more,
})

/** What was sent by a method, in order. */
export const sent = (asked: Asked[], method: string) => asked.filter((a) => a.method === method)
/** The body of the only thing sent by a method. */
export async function only<T>(asked: Asked[], method: string): Promise<T> {
  await waitFor(() => expect(sent(asked, method)).toHaveLength(1))
  return sent(asked, method)[0].body as T
}

/** Chooses in a list that unfolds. */
export async function pick(label: string, option: RegExp | string) {
  fireEvent.mouseDown(screen.getByLabelText(label, { selector: 'input' }))
  const shown = () =>
    [...document.querySelectorAll<HTMLElement>('.ant-select-item-option')].find((o) =>
      typeof option === 'string' ? o.textContent === option : option.test(o.textContent ?? ''),
    )
  await waitFor(() => expect(shown()).toBeTruthy())
  fireEvent.click(shown()!)
}
/** Presses "Undo" in the note that says this. */
export async function undo(said: RegExp) {
  await screen.findByText(said)
  fireEvent.click(screen.getByRole('button', { name: 'Undo' }))
}
/** The rows of a table by what they are. */
export const rows = (kind: string) => [...document.querySelectorAll<HTMLElement>(`[data-testid="${kind}"]`)]
