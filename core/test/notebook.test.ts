import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { POLICY_IDS, SETTING_KEYS, deriveRecipe } from '../src/recipe'
import { FAMILIES } from '../src/material'
import { PLACES, PROCEDURES, SIGNS_AT, SIGN_IDS, SUSPECT_IDS, sourceOf } from '../src/knowledge'
import { asksAfter, curesOf, signsAfter, type NotedAttempt } from '../src/casework'
import { caseMarkdown, caseReport, sayAll } from '../src/words'
import { said } from '../src/quantity'
import { diagnose } from './lib/diagnose'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').terracotta
const recipe = deriveRecipe({ machine, filament })
const hotter: NotedAttempt = {
  number: 1,
  mends: [{ suspect: 'nozzle-too-cold', kind: 'setting', key: 'nozzle', from: 200, to: 210 }],
  signsBefore: { 'weak-layers': 'present' },
  results: { 'weak-layers': 'gone' },
  newSigns: ['strings-thin'],
}

test('one mend must not bring back another: going back on a cure is said', () => {
  const signs = { 'weak-layers': 'absent', 'strings-thin': 'present' } as const
  const cooler = (notebook: NotedAttempt[]) =>
    diagnose({
      machine,
      filament,
      recipe,
      signs,
      notebook: notebook.map((a) => ({ ...a, fromVersion: 1, toVersion: 2 })),
      today: '2026-01-01',
    }).proposals.find((p) => p.kind === 'setting' && p.key === 'nozzle' && Number(p.to) < Number(p.from))!
  expect(curesOf([hotter])).toEqual([
    { attempt: 1, key: 'nozzle', from: 200, to: 210, signs: ['weak-layers'] },
  ])
  expect(sayAll(cooler([hotter]).cautions)).toMatch(/undoes attempt 1.*weak/i)
  expect(sayAll(cooler([]).cautions)).not.toMatch(/undoes/)
})

test('after a change its side effects are asked for, and what was cured before', () => {
  const cooler: NotedAttempt = {
    number: 2,
    mends: [{ suspect: 'nozzle-too-hot', kind: 'setting', key: 'nozzle', from: 210, to: 205 }],
    signsBefore: { 'strings-thin': 'present', 'weak-layers': 'absent' },
    results: null,
    newSigns: [],
  }
  const asked = asksAfter(cooler, [hotter, cooler], cooler.signsBefore)
  expect(asked).toEqual(expect.arrayContaining(['weak-layers', 'dull-finish']))
  expect(asked).not.toContain('strings-thin') // it is seen already
  expect(signsAfter(cooler.signsBefore, { 'strings-thin': 'gone' }, [], ['dull-finish'])).toEqual({
    'strings-thin': 'absent',
    'weak-layers': 'absent',
    'dull-finish': 'absent',
  })
})

test('the report and its Markdown say the same; markup in names stays text', () => {
  const c = {
    part: 'Peg | *two*',
    note: '<b>since Monday</b>',
    machine,
    filament,
    signs: { 'weak-layers': 'absent' } as const,
    attempts: [{ ...hotter, note: 'snaps clean', fromVersion: 1, toVersion: 2 }],
    checks: [{ by: 'listen-nozzle', suspect: 'filament-wet', found: false }] as const,
    marks: [],
    keptVersion: 2,
    learnt: [said('Hotter bonds.')],
    begun: '2026-01-01T00:00:00Z',
    closed: '2026-01-02T00:00:00Z',
  }
  const report = caseReport(c)
  expect(report.sections.map((s) => s.title)).toEqual([
    'The fault',
    'The cause',
    'The proof',
    'The changes',
    'Before and after',
  ])
  expect(report.sections[1].paragraphs).toEqual(['Nozzle too cold.'])
  const text = caseMarkdown(c)
  expect(text).toContain('# Peg \\| \\*two\\*')
  expect(text).toContain('&lt;b>since Monday')
  expect(text).toMatch(/\| 1 \| Nozzle.*200.*210.*\| 1 → 2 \| .*gone.* “snaps clean” \|/)
  expect(text).toContain('Kept: version 2')
  // what was measured carries its table
  const sized = caseMarkdown({
    ...c,
    measured: [
      {
        kind: 'sizes',
        says: [said('The contour is off.')],
        sizes: [{ name: 'Lid | across', nominal: 40, error: 0.16, after: -0.004 }],
      },
    ],
  })
  expect(sized).toContain('## Sizes')
  expect(sized).toContain('| Lid \\| across | 40 | +0.16 | −0.004 |')
})

test('every entry of the handbook says where it comes from; every place has signs', () => {
  const all = [
    ...SIGN_IDS.map((id) => sourceOf('signs', id)),
    ...SUSPECT_IDS.map((id) => sourceOf('suspects', id)),
    ...Object.keys(PROCEDURES).map((id) => sourceOf('procedures', id)),
    ...SETTING_KEYS.map((id) => sourceOf('settings', id)),
    ...FAMILIES.map((id) => sourceOf('materials', id)),
    ...POLICY_IDS.map((id) => sourceOf('policies', id)),
  ]
  for (const s of all) expect(s.words).toMatch(/^[A-Z].*\.$/)
  expect(new Set(all.map((s) => s.tag))).toEqual(new Set(['published', 'common practice', 'from memory']))
  for (const p of PLACES) expect(SIGNS_AT[p.id].length).toBeGreaterThan(2)
})
