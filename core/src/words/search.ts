import MiniSearch from 'minisearch'
import { stemmer } from 'stemmer'
import { searchWords } from '../knowledge/aka'
import { procedureOf, type ProcedureId } from '../knowledge/procedures'
import { signOf, type SignId } from '../knowledge/signs'
import { suspectOf, type SuspectId } from '../knowledge/suspects'
import { SETTING_KEYS, settingOf, type SettingKey } from '../recipe/settings'

/** Something that is found by words. */
export interface Findable {
  /** Its name on the screen. */
  title: string
  /** What the trade and people call it besides. */
  also?: readonly string[]
  /** What it says. */
  text?: string
}

/** Words that say nothing of what is looked for. */
const EMPTY = new Set(
  (
    'a all an and are as at be been but by can cant could couldnt did didnt do does doesnt dont for from get gets got had ' +
    'has have i im in is isnt it its just like my not no of on one or so some that the their them then there these they ' +
    'this to no up very was wasnt were what when which while will with wont would you your ' +
    'print prints printed printing printer'
  ).split(' '),
)
/** Words for the same thing, of which the first stands for all. */
const SAME = new Map(
  [['bed', 'plate', 'sheet', 'platform', 'buildplate']].flatMap(([first, ...others]) =>
    others.map((other) => [other, first] as const),
  ),
)
/** What is left of a name between words and signs. */
const BETWEEN = /[^\p{L}\p{N}]+/u
/** Hits that match so much worse than the best are none. */
const WORTH_SHOWING = 0.25
/** Fewer of the words than this share found are a chance likeness. */
const LEAST_SHARE = 0.3
/** Where hits match a rare word of the trade, not only words in passing. */
const BOOST = { title: 2, also: 4, text: 0.7 }

/** A word as it is looked for: itself, its stem, and what stands for it. Empty for a word that says nothing. */
function termsOf(word: string): string[] {
  const low = word.toLowerCase()
  if (!low || EMPTY.has(low)) return []
  const same = SAME.get(low)
  return [...new Set([low, stemmer(low), ...(same ? [same] : [])])]
}
const wordsOf = (text: string) => text.replace(/[’']/g, '').split(BETWEEN).filter(Boolean)

/**
 * A search over a list, best first: whole words and their stems (Porter 1980) in any order, small slips of the finger,
 * and the beginning of the last word while it is typed. Ranked by BM25+ (Lv and Zhai 2011) over names, other names and
 * text, times the share of the words that are found.
 */
export function finder<T extends Findable>(items: readonly T[]): (wanted: string) => T[] {
  /** What is known is meant as it stands: neither a slip nor a beginning of something else. */
  const known = new Set<string>()
  const index = new MiniSearch<{ id: number; title: string; also: string; text: string }>({
    fields: ['title', 'also', 'text'],
    tokenize: wordsOf,
    processTerm: (word) => {
      const terms = termsOf(word)
      for (const term of terms) known.add(term)
      return terms
    },
  })
  index.addAll(
    items.map(({ title, also = [], text = '' }, id) => ({ id, title, also: also.join(' . '), text })),
  )
  return (wanted) => {
    const words = wordsOf(wanted)
    const asked = words.map(termsOf).filter((terms) => terms.length)
    const typed = new Set(termsOf(words.at(-1) ?? ''))
    const hits = index.search(wanted, {
      boost: BOOST,
      processTerm: termsOf,
      prefix: (term) => term.length > 2 && typed.has(term) && !known.has(term),
      fuzzy: (term) => !known.has(term) && (term.length > 8 ? 2 : term.length > 5 ? 1 : false),
      weights: { fuzzy: 0.35, prefix: 0.6 },
      // neither a long list of other names nor a word that comes again in it says more
      bm25: { k: 0.2, b: 0.1, d: 0.5 },
    })
    const share = (terms: readonly string[]) =>
      asked.filter((word) => word.some((t) => terms.includes(t))).length / asked.length
    const ranked = hits
      .map((h) => ({ item: items[h.id as number], share: share(h.queryTerms), score: h.score }))
      .filter((h) => h.share >= LEAST_SHARE)
      .map((h) => ({ ...h, score: h.score * h.share }))
      .sort((a, b) => b.score - a.score)
    return ranked.filter((h) => h.score >= WORTH_SHOWING * ranked[0].score).map((h) => h.item)
  }
}

/** What a setting is found by: its label, the trade’s other words for it, and what it is. */
export const settingFindable = (key: SettingKey): Findable => {
  const { label, what, aka = [] } = settingOf(key)
  return { title: label, also: [key, ...aka], text: what }
}

/** What a sign is found by. */
export const signFindable = (id: SignId): Findable => {
  const { name, text, where } = signOf(id)
  return { title: name, also: searchWords(id), text: `${text} ${where}` }
}
/** What a suspect is found by. */
export const suspectFindable = (id: SuspectId): Findable => {
  const { name, what, tell } = suspectOf(id)
  return { title: name, also: searchWords(id), text: `${what} ${tell}` }
}
/** What a procedure is found by. */
export const procedureFindable = (id: ProcedureId): Findable => {
  const { name, steps } = procedureOf(id)
  return { title: name, also: searchWords(id), text: steps.join(' ') }
}

let settings: ((wanted: string) => { key: SettingKey }[]) | null = null
let last: { wanted: string; keys: ReadonlySet<SettingKey> } | null = null

/** Whether a setting is meant by some words. */
export function settingMatches(key: SettingKey, wanted: string): boolean {
  if (!wanted.trim()) return true
  settings ??= finder(SETTING_KEYS.map((k) => ({ key: k, ...settingFindable(k) })))
  if (last?.wanted !== wanted) last = { wanted, keys: new Set(settings(wanted).map((s) => s.key)) }
  return last.keys.has(key)
}
