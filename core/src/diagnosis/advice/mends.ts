import { checkOrTrial, isCheckId, type LookId } from '../../knowledge/checks'
import { factOf, type Facts } from '../../knowledge/facts'
import type { ProcedureId } from '../../knowledge/procedures'
import { SIGN_IDS, type SignId } from '../../knowledge/signs'
import { isSuspectId, suspectOf, type SuspectId } from '../../knowledge/suspects'
import type { HandlingMend, Mend, MendFit } from '../../knowledge/types'
import type { Machine } from '../../machine/machine'
import { cardFor } from '../../material/filling'
import type { Filament } from '../../material/filament'
import type { Reason } from '../../quantity/reason'
import { asPrinted, type FileDifference } from '../../recipe/againstFile'
import { spoilsPrint, straysIn } from '../../recipe/strays'
import type { RecipeValues } from '../../recipe/derive'
import type { SettingKey, SettingValue } from '../../recipe/settings'
import type { PathReading } from '../../toolpath/reading'
import type { LookResult } from '../evidence/looks'
import { fires, type Balance, type SignStates } from '../inference/balance'
import { because, type Departure } from '../reasons'
import { movedOff, signsAgainst, sizesOff } from './sideEffects'
import type { Proposal } from './proposal'
import { inOrder, withoutContradictions, worthwhile } from './ranking'
import { makeTarget, movesTo, type Target } from './target'
import { leftOf, stepFailed, type Change, type TriedMend } from './tried'

export type { Change, TriedMend }

/** A mend that would be there, and what cuts it away. */
export interface BlockedMend {
  suspect: SuspectId
  key: SettingKey
  why: Reason
}

/** A setting whose change made signs go away or better: going back on it may bring them back. */
export interface Cure {
  attempt: number
  key: SettingKey
  from: SettingValue
  to: SettingValue
  signs: SignId[]
}
export interface AdviceInput {
  balance: Balance
  facts: Facts
  recipe: RecipeValues
  /** The file of the print the signs were seen on. */
  reading?: PathReading | null
  machine: Machine
  filament: Filament
  /** ISO date. */
  today: string
  signs?: SignStates
  /** Earlier changes of this case that helped. */
  cures?: readonly Cure[]
  tried?: readonly TriedMend[]
  /** Checks and trials that were done. */
  done?: readonly LookId[]
  /** What checks, trials and measurements of this part found. */
  found?: readonly LookResult[]
  /** Minutes the machine needs to print the part again. */
  printMinutes?: number
}

/** A minute of the machine against a minute of the person. From memory. */
const MACHINE_WEIGHT = 0.25
const TYPICAL_PRINT = 60
/** Suspects less likely than this are not mended. */
const LEAST_PROBABILITY = 0.003
/** Chance that a mend cures its suspect: a handling step nearly always, a bounded step of a setting often. From memory. */
export const WORKS = { handling: 0.85, setting: 0.7 }
/** A suspect's later mends are second choices: they work where those before them, not tried yet, do not. From memory. */
const SECOND_CHOICE = 0.5
/** A mend of a suspect that was found by a check which points to another of its mends. From memory. */
const NOT_WHAT_WAS_FOUND = 0.3
/** Of making a file anew that was made from the recipe. From memory. */
const FROM_RECIPE = 0.1
/** Of making the file anew where a suspect has nothing else left. From memory. */
const NOTHING_LEFT = 0.05
/** Under this share nothing of a tried mend is offered again. */
const LEAST_LEFT = 0.05

/** What can be done about the weighed suspects, and what is cut away by limits and rules. */
export interface Mends {
  proposals: Proposal[]
  blocked: BlockedMend[]
}

/**
 * Mends of the weighed suspects, the one with the least expected cost to the fix first: p/C order
 * (Kalagnanam & Henrion 1990). Each starts from the value as it was printed, keeps within machine, melt cap and the
 * rules of severity fault, and says what it can make worse. Where the file departs from the recipe on what a suspect
 * cares about, printing the recipe's value comes first. Every likely suspect gets something to do.
 */
export function proposeMends(input: AdviceInput): Mends {
  const printed = asPrinted(input.recipe, input.reading)
  const target = makeTarget(input, printed.values)
  // a file that has the recipe's values is made no other by making it anew
  const asRecipe = !!input.reading && !printed.departs.length
  const offSizes = sizesOff(input.signs ?? {}, input.found ?? [])
  const proposals: Proposal[] = []
  const blocked: BlockedMend[] = []
  const least = Math.min(LEAST_PROBABILITY, 0.1 * (input.balance.suspects.at(0)?.probability ?? 0))
  for (const { id: suspect, probability } of input.balance.suspects) {
    if (probability < least || probability <= 0) continue
    const { mends, watch } = suspectOf(suspect)
    const own: Proposal[] = []
    let fresh = 0
    const foundBy = (input.found ?? []).filter((l) => l.found && l.suspect === suspect).map((l) => l.by)
    const fitsWhatWasFound = ({ foundBy: by }: MendFit) => !!by?.some((look) => foundBy.includes(look))
    const pointed = mends.some(fitsWhatWasFound)
    const add = (
      place: string,
      change: Change,
      minutes: number,
      why: Reason,
      cautions: Reason[] = [],
      { later = SECOND_CHOICE ** fresh, fit = {} }: { later?: number; fit?: MendFit } = {},
    ) => {
      const left = leftOf(input.tried ?? [], suspect, change)
      const fits = foundBy.length > 0 && (pointed ? fitsWhatWasFound(fit) : own.length === 0)
      // where the first choice was tried, the second is the first
      if (left === 1) fresh++
      if (left < LEAST_LEFT) return
      const share = isMadeAnew(change) && asRecipe ? left * FROM_RECIPE : left
      const works =
        WORKS[change.kind] * share * (pointed ? (fits ? 1 : Math.min(later, NOT_WHAT_WAS_FOUND)) : later)
      own.push({
        id: `${suspect}/${place}`,
        suspect,
        probability,
        also: [],
        works: [works],
        fits: fits && left === 1,
        costly: fit.costly === true,
        choice: own.length,
        why,
        watch,
        minutes,
        expectedMinutes: 0,
        cautions,
        ...change,
      })
    }
    const departs = departuresOf(suspect, printed.departs, target)
    if (departs.length)
      add(
        FILE_PLACE,
        { ...MAKE_ANEW, departs: departs.map(bare) },
        PREPARE_MINUTES,
        because('print-recipe', { departs: departs.map(bare) }),
      )
    mends.forEach((mend, place) => {
      const why = because('mend-helps', { suspect, mend: place })
      if (mend.kind === 'handling') {
        if (!mend.notWhen || input.facts[mend.notWhen]?.value !== true)
          add(String(place), { kind: 'handling', procedure: mend.procedure }, mend.minutes, why, [], {
            fit: mend,
          })
        return
      }
      const t = target(mend)
      if (t.kind === 'blocked') blocked.push({ suspect, key: mend.key, why: t.why })
      else if (t.kind === 'there') {
        const { value } = input.recipe[mend.key]
        if (!departs.length && value === t.value && showsInFile(suspect, mend.key, input.facts))
          add(
            String(place),
            MAKE_ANEW,
            PREPARE_MINUTES,
            because('recipe-has-it', { setting: mend.key, value, why }),
          )
      } else if (t.kind === 'change') {
        const sign = movedOff(mend.key, t.from, t.to, offSizes)
        if (sign) {
          blocked.push({
            suspect,
            key: mend.key,
            why: because('moves-size-off', { setting: mend.key, to: t.to, sign }),
          })
          return
        }
        // what the recipe has already, or goes beyond, needs no new value: the file has to be made anew
        if (departs.some((d) => d.key === mend.key) && reaches(t.from, t.to, input.recipe[mend.key].value))
          return
        if (t.to === input.recipe[mend.key].value) return
        add(
          String(place),
          { kind: 'setting', key: mend.key, from: t.from, to: t.to },
          mend.minutes,
          why,
          cautionsOf(input, mend.key, t.from, t.to),
          { fit: mend },
        )
      }
    })
    const open = suspectOf(suspect).by.filter((look) => !(input.done ?? []).includes(look))
    const trial = open.find((look) => !isCheckId(look))
    if (!own.length) {
      const look = trial ?? open.at(0)
      add(
        TRIAL_PLACE,
        look ? { kind: 'handling', procedure: 'find-by-trial' } : MAKE_ANEW,
        10,
        look ? because('nothing-left-but', { look }) : because('nothing-left', { suspect }),
        [],
        { later: look ? 1 : NOTHING_LEFT },
      )
    } else if (trial && stepFailed(input.tried ?? [], suspect)) {
      // one step did not do: a trial finds the value itself, instead of another guess and another print
      const { minutes } = checkOrTrial(trial)
      add(
        TRIAL_PLACE,
        { kind: 'handling', procedure: 'find-by-trial' },
        10 + MACHINE_WEIGHT * minutes,
        because('step-failed', { look: trial }),
        [],
        { later: 1 },
      )
    }
    proposals.push(...own)
  }
  const kept = leadingFile(withoutContradictions(merged(proposals)), input, printed.departs)
  const again = MACHINE_WEIGHT * (input.printMinutes ?? TYPICAL_PRINT)
  const chances = new Map(input.balance.suspects.map((s) => [s.id, s.probability]))
  const chanceOf = (p: Proposal) =>
    [p.suspect, ...p.also].reduce((sum, s, i) => sum + chances.get(s)! * p.works[i], 0)
  for (const p of kept) {
    p.expectedMinutes = (p.minutes + again) / chanceOf(p)
    const signs = worsened(p, input.signs ?? {})
    if (signs.length) p.cautions = [...p.cautions, because('worsens', { signs })]
  }
  return {
    proposals: inOrder(
      worthwhile(kept, chanceOf, (s) => chances.get(s)!, input.found ?? []),
      input.balance,
    ),
    blocked,
  }
}

/**
 * Where the file has values that were hardly meant, printing it without them leads: as long as they are there, little can be
 * said of the machine.
 */
function leadingFile(
  proposals: Proposal[],
  { reading, filament, tried, balance, signs }: AdviceInput,
  departs: readonly FileDifference[],
): Proposal[] {
  const strays = reading ? straysIn(departs, filament).filter(spoilsPrint) : []
  const [leader] = balance.suspects
  if (!strays.length || !leader || !Object.values(signs ?? {}).includes('present')) return proposals
  if (tried?.some((t) => t.kind === 'handling' && t.procedure === MAKE_ANEW.procedure)) return proposals
  const own = proposals.find((p) => isMadeAnew(p))
  const known = own?.kind === 'handling' ? (own.departs ?? []) : []
  const odd = new Set(strays.map((s) => s.key))
  const why = because('strays-in-file', {
    strays: strays.map(({ key, file, outside }) => ({ setting: key, file, ...(outside && { outside }) })),
    departs: known.filter((d) => !odd.has(d.setting)),
  })
  const others = strays.filter((s) => !known.some((d) => d.setting === s.key)).map(bare)
  const change = { ...MAKE_ANEW, departs: [...known, ...others] }
  // whatever the likeliest cause is, it was seen on that print
  const forLeader = own && own.suspect !== leader.id && !own.also.includes(leader.id)
  const lead: Proposal = own
    ? {
        ...own,
        ...change,
        ...(forLeader && { also: [...own.also, leader.id], works: [...own.works, WORKS.handling] }),
        why,
        leads: true,
      }
    : {
        id: `${leader.id}/${FILE_PLACE}`,
        suspect: leader.id,
        probability: leader.probability,
        also: [],
        works: [WORKS.handling],
        fits: false,
        costly: false,
        choice: 0,
        why,
        watch: [],
        minutes: PREPARE_MINUTES,
        expectedMinutes: 0,
        cautions: [],
        leads: true,
        ...change,
      }
  return [lead, ...proposals.filter((p) => p !== own)]
}

const isMadeAnew = (change: Change) => change.kind === 'handling' && change.procedure === 'prepare-paths'
const MAKE_ANEW = { kind: 'handling', procedure: 'prepare-paths' } as const
/** Places of mends that are in no table. */
const FILE_PLACE = 'file'
const TRIAL_PLACE = 'trial'
const PREPARE_MINUTES = 2

const bare = ({ key, file, recipe }: FileDifference): Departure => ({ setting: key, file, recipe })

/** Departures of the file from the recipe that a suspect cares about, and that the recipe's value would mend. */
function departuresOf(
  suspect: SuspectId,
  departs: readonly FileDifference[],
  target: Target,
): FileDifference[] {
  if (!departs.length) return []
  const { mends } = suspectOf(suspect)
  return departs.filter((d) =>
    mends.some((m) => m.kind === 'setting' && m.key === d.key && movesTo(m, d.file, d.recipe, target)),
  )
}

/** Whether the recipe's value lies at least as far from the printed one as the mend's, on the same side. */
const reaches = (from: SettingValue, to: SettingValue, recipe: SettingValue) =>
  typeof from === 'number' &&
  typeof to === 'number' &&
  typeof recipe === 'number' &&
  (recipe - from) * Math.sign(to - from) >= Math.abs(to - from)

/** Whether a rule that speaks of the setting fires on what the path file shows. */
const showsInFile = (suspect: SuspectId, key: SettingKey, facts: Facts) =>
  suspectOf(suspect).context.some((rule) => {
    const fact = facts[rule.fact]
    const { of } = factOf(rule.fact)
    return fact?.from === 'path' && rule.decibans > 0 && of === key && fires(rule, fact.value)
  })

/** The trial that a value is to be found by: two trials are two changes, whatever the procedure is called. */
const trialOf = ({ why }: Proposal): string =>
  why.code === 'nothing-left-but' || why.code === 'step-failed' ? `:${String(why.values.look)}` : ''

/** One and the same change for several suspects is one proposal. */
function merged(proposals: readonly Proposal[]): Proposal[] {
  const byChange = new Map<string, Proposal>()
  for (const p of proposals) {
    const key = p.kind === 'setting' ? `${p.key}=${String(p.to)}` : `${p.procedure}${trialOf(p)}`
    const first = byChange.get(key)
    if (!first) {
      byChange.set(key, { ...p, also: [...p.also], works: [...p.works] })
      continue
    }
    first.fits ||= p.fits
    if (first.suspect !== p.suspect && !first.also.includes(p.suspect)) {
      first.also.push(p.suspect)
      first.works.push(p.works[0])
    }
    first.watch = [...new Set([...first.watch, ...p.watch])]
    // a departure from the recipe says more than a general word
    if (p.why.code === 'print-recipe')
      first.why = first.why.code === 'print-recipe' ? joined(first.why, p.why) : p.why
    if (first.kind === 'handling' && first.why.code === 'print-recipe')
      first.departs = (first.why.values as unknown as { departs: readonly Departure[] }).departs
  }
  return [...byChange.values()]
}

/** Departures named by two suspects, each once. */
function joined(a: Reason, b: Reason): Reason {
  type Departs = { departs: readonly Departure[] }
  const all = [...(a.values as unknown as Departs).departs, ...(b.values as unknown as Departs).departs]
  return because('print-recipe', {
    departs: all.filter((d, i) => all.findIndex((o) => o.setting === d.setting) === i),
  })
}

/** What is to be said of a change before it is made. */
function cautionsOf(
  { machine, filament, cures, reading }: AdviceInput,
  key: SettingKey,
  from: SettingValue,
  to: SettingValue,
): Reason[] {
  return [
    rangeCaution(key, to, machine, filament),
    undoes(cures, key, from, to),
    noCorner(reading, to),
  ].filter((c) => c !== null)
}

/** Signs that are there already and that a mend can make worse. */
function worsened(p: Proposal, signs: SignStates): SignId[] {
  const against = p.kind === 'setting' ? signsAgainst(p.key, p.from, p.to) : []
  return [...new Set([...p.watch, ...against])].filter((s) => signs[s] === 'present')
}

/** Share of starts at corners under which a file shows none to hide a seam in. From memory. */
const NO_CORNERS = 0.02

/** A corner hides a seam only where the part has one. */
function noCorner(reading: PathReading | null | undefined, to: SettingValue): Reason | null {
  if (to !== 'tucked' || !reading || reading.seam.count <= 8) return null
  return reading.seam.outwardCorner + reading.seam.inwardCorner < NO_CORNERS ? because('no-corner') : null
}

/** What an earlier change had cured when this one goes back on it. */
function undoes(
  cures: readonly Cure[] = [],
  key: SettingKey,
  from: SettingValue,
  to: SettingValue,
): Reason | null {
  const back = cures.find(
    (c) =>
      c.key === key &&
      (typeof to === 'number' && typeof from === 'number' && typeof c.to === 'number'
        ? (to - from) * (c.to - Number(c.from)) < 0
        : to === c.from),
  )
  return back ? because('goes-back-on', { attempt: back.attempt, signs: back.signs }) : null
}

function rangeCaution(
  key: SettingKey,
  to: SettingValue,
  machine: Machine,
  filament: Filament,
): Reason | null {
  const card = cardFor(filament)
  if (typeof to !== 'number') return null
  if (key === 'nozzle' || key === 'nozzleFirst') {
    const { min, max } = filament.label.nozzle ?? card.nozzle
    if (to < min || to > max)
      return because('outside-range', { of: filament.label.nozzle ? 'label' : 'card', min, max })
  }
  if ((key === 'bed' || key === 'bedFirst') && to > card.bed.top)
    return because('above-card-bed', { top: card.bed.top })
  if (key === 'retractLength' && card.flexible && machine.drive.kind === 'tube' && to > 3)
    return because('soft-on-tube-bears')
  return null
}

/**
 * What can no longer be told apart when several mends go into one print.
 * @returns null for one mend
 */
export function confounded(chosen: readonly Pick<Proposal, 'suspect'>[]): Reason | null {
  const suspects = [...new Set(chosen.map((c) => c.suspect))]
  if (suspects.length < 2) return null
  const sign = SIGN_IDS.find((s) => suspects.every((id) => suspectOf(id).signs[s]))
  return sign ? because('cannot-tell-which', { suspects, sign }) : because('each-by-its-own', { suspects })
}

const outOfTable = (procedure: ProcedureId): HandlingMend => ({
  kind: 'handling',
  procedure,
  minutes: PREPARE_MINUTES,
  why: '',
})

/** The mend behind a proposal's id; undefined when the knowledge has no such mend. */
export function mendOf(id: string): { suspect: SuspectId; place: number; mend: Mend } | undefined {
  const [suspect, at] = id.split('/')
  if (!isSuspectId(suspect)) return undefined
  if (at === FILE_PLACE) return { suspect, place: -1, mend: outOfTable('prepare-paths') }
  if (at === TRIAL_PLACE) return { suspect, place: -1, mend: outOfTable('find-by-trial') }
  const place = Number(at)
  const mend = suspectOf(suspect).mends[place]
  return mend && { suspect, place, mend }
}
