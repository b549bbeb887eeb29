import {
  CHECKS,
  PROCEDURES,
  SIGN_IDS,
  SUSPECT_IDS,
  TRIAL_IDS,
  searchWords,
  signOf,
  suspectOf,
} from '../src/knowledge'
import { SETTING_KEYS, keysOf } from '../src/recipe'
import { PIECES } from '../src/trials'
import { PIECE_IDS } from '../src/trials/types'
import {
  finder,
  procedureFindable,
  settingFindable,
  settingMatches,
  signFindable,
  suspectFindable,
} from '../src/words'
import { PHRASINGS } from './lib/phrasings'

const signs = finder(SIGN_IDS.map((id) => ({ id, ...signFindable(id) })))
/** All that the search over everything looks through. */
const everything = finder([
  ...SIGN_IDS.map((id) => ({ id: id as string, ...signFindable(id) })),
  ...SUSPECT_IDS.map((id) => ({ id: id as string, ...suspectFindable(id) })),
  ...keysOf(PROCEDURES).map((id) => ({ id: id as string, ...procedureFindable(id) })),
  ...SETTING_KEYS.map((id) => ({ id: id as string, ...settingFindable(id) })),
  ...PIECE_IDS.map((id) => ({
    id: id as string,
    title: PIECES[id].name,
    also: searchWords(id),
    text: PIECES[id].what,
  })),
])

test('what people say finds its sign among the first three', () => {
  expect(PHRASINGS.length).toBeGreaterThanOrEqual(200)
  const missed = PHRASINGS.flatMap(([said, ...meant]) => {
    const found = signs(said)
      .slice(0, 3)
      .map((s) => s.id)
    return meant.some((m) => found.includes(m)) ? [] : [`${said}: ${found.join(', ')}`]
  })
  expect(missed).toEqual([])
})

test('every phrasing finds it, or what brings it, among the first twelve of everything', () => {
  const missed = PHRASINGS.flatMap(([said, ...meant]) => {
    const found = everything(said)
      .slice(0, 12)
      .map((s) => s.id)
    const brings = SUSPECT_IDS.filter((s) => meant.some((m) => suspectOf(s).signs[m]))
    return [...meant, ...brings].some((m) => found.includes(m)) ? [] : [`${said}: ${found.join(', ')}`]
  })
  expect(missed).toEqual([])
})

test.each([
  ['pressure advance', 'pressure-compensation-too-low', 'pressureCompensation', 'pressure-lines'],
  ['linear advance', 'pressureCompensation', 'corner-columns'],
  ['heat creep', 'heat-creep', 'cool-cold-end'],
  ['hotend fan', 'heat-creep', 'cool-cold-end'],
  ['leaking nozzle', 'nozzle-leaks', 'tighten-nozzle'],
  ['temp tower', 'temperature-tower'],
  ['retraction test', 'retraction-tower'],
  ['stringing test', 'string-posts', 'retraction-tower'],
  ['perimeters', 'wallCount'],
  ['calibration cube', 'size-plate', 'axis-scale-off'],
  ['clearance test', 'joint-ladder'],
  ['level the bed', 'level-screws'],
  ['unclog the nozzle', 'clear-nozzle', 'cold-pull', 'partial-blockage'],
  ['dry my filament', 'dry-filament', 'filament-wet'],
  ['loose belt', 'tension-belts', 'axis-loose', 'secure-axes'],
  ['e-steps', 'set-feed-steps', 'feed-steps-off'],
  ['stuck part off the plate', 'free-part', 'stuck-fast', 'hard-to-remove'],
])('%s', (said, ...meant) => {
  const found = everything(said)
    .slice(0, 6)
    .map((s) => s.id)
  expect([found, meant.some((m) => found.includes(m))]).toEqual([found, true])
})

test('whole words: a lid is not found in what is solid', () => {
  const found = everything('lid').map((s) => s.id)
  expect(found).not.toContain('gaps-in-solid-fill')
  expect(found).toContain('joint-too-loose')
})

test('nothing is found for what nothing is called, and everything is found by its own name first', () => {
  expect(everything('zebra kangaroo')).toEqual([])
  expect(everything('   ')).toEqual([])
  for (const id of SIGN_IDS) expect(signs(signOf(id).name)[0].id).toBe(id)
})

test('a word is found while it is typed', () => {
  for (const typed of ['str', 'stri', 'strin', 'string', 'stringi', 'stringin', 'stringing'])
    expect(signs(typed).map((s) => s.id)).toContain('strings-thin')
})

test('a setting is found by the trade’s words for it, and all of them without words', () => {
  expect(SETTING_KEYS.filter((k) => settingMatches(k, ''))).toHaveLength(SETTING_KEYS.length)
  expect(settingMatches('pressureCompensation', 'linear advance')).toBe(true)
  expect(settingMatches('nozzle', 'linear advance')).toBe(false)
})

test('every check and trial has a name of its own', () => {
  const names = [...Object.values(CHECKS).map((c) => c.name), ...TRIAL_IDS]
  expect(new Set(names).size).toBe(names.length)
})
