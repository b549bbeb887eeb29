import { screen, within } from '@testing-library/react'
import { SETTING_KEYS } from '@verimend/core/recipe'
import { SIGN_IDS, SUSPECT_IDS } from '@verimend/core/knowledge'
import { renderToStaticMarkup } from 'react-dom/server'
import { MemoryRouter } from 'react-router'
import Handbook from '../src/handbook/Handbook'
import { CHAPTERS, broughtBy, entriesOf, mendedBy, search } from '../src/handbook/entries'
import { server, show } from './show'

const markup = (chapter: (typeof CHAPTERS)[number]['value']) =>
  entriesOf(chapter).map((e) => ({
    id: e.id,
    html: renderToStaticMarkup(<MemoryRouter>{e.body()}</MemoryRouter>),
  }))
const all = new Map(CHAPTERS.map((c) => [c.value, markup(c.value)]))

test('every link of every entry leads to an entry that is there', () => {
  const lost: string[] = []
  for (const [chapter, entries] of all)
    for (const { id, html } of entries)
      for (const [, to, target] of html.matchAll(/href="\/handbook\/([a-z]+)#([^"]+)"/g))
        if (!all.get(to as 'signs')?.some((e) => e.id === target))
          lost.push(`${chapter}/${id} → ${to}#${target}`)
  expect(lost).toEqual([])
})

test('from each sign one comes to its suspects, and back from each suspect to its signs', () => {
  for (const s of SIGN_IDS)
    for (const x of broughtBy(s)) {
      const suspect = all.get('suspects')!.find((e) => e.id === x)!
      expect([x, suspect.html.includes(`/handbook/signs#${s}`)]).toEqual([x, true])
    }
  for (const x of SUSPECT_IDS) {
    const to = [
      ...all
        .get('suspects')!
        .find((e) => e.id === x)!
        .html.matchAll(/settings#(\w+)/g),
    ]
    for (const [, key] of to)
      expect(mendedBy(key as (typeof SETTING_KEYS)[number]).map((m) => m.suspect)).toContain(x)
  }
})

test('the strongest suspect of a sign stands first', () => {
  expect(broughtBy('bands-regular')[0]).toBe('screw-wobble')
  expect(broughtBy('strings-thin').slice(0, 4)).toEqual(
    expect.arrayContaining(['nozzle-too-hot', 'retraction-too-short', 'retraction-off', 'filament-wet']),
  )
})

test('a search finds the nearest first, whatever the case, and nothing for what nothing is called', () => {
  const found = search('procedures', 'COLD pull').map((e) => e.id)
  expect(found[0]).toBe('cold-pull')
  expect(search('procedures', 'kangaroo zebra')).toEqual([])
  expect(search('signs', '  ')).toHaveLength(SIGN_IDS.length)
})

test('what a search finds in other chapters is said, and one goes there with it', async () => {
  server({})
  const { user, where } = show(<Handbook />, { at: '/handbook/materials', route: '/handbook/:chapter' })
  await user.type(screen.getByLabelText('Find in the handbook'), 'cold pull')
  expect(screen.getByText('Nothing of that name in this chapter.')).toBeTruthy()
  await user.click(within(screen.getByRole('status')).getByRole('link', { name: /in procedures/ }))
  expect(where()).toBe('/handbook/procedures')
  expect(screen.getByRole('heading', { level: 2, name: /cold pull/i })).toBeTruthy()
  expect(screen.getByLabelText<HTMLInputElement>('Find in the handbook').value).toBe('cold pull')
})

test('a link into a chapter shows its entry even while a search would hide it', async () => {
  server({})
  const { user } = show(<Handbook />, { at: '/handbook/suspects', route: '/handbook/:chapter' })
  await user.type(screen.getByLabelText('Find in the handbook'), 'drags')
  const entry = screen.getByRole('heading', { level: 2, name: 'Filament drags' }).closest('section')!
  await user.click(within(entry).getByRole('link', { name: 'uneven layers' }))
  expect(document.getElementById('bands-irregular')?.dataset.aimed).toBe('true')
})
