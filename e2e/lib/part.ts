import { expect, type Page } from '@playwright/test'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { App } from './app'

/** Works with a pair of the demo, as chosen at the top. */
export async function withPair(app: App, page: Page, roll: string): Promise<void> {
  const list = async (path: string) => (await fetch(`${app.url}/api/${path}`)).json()
  const rolls = (await list('filaments')) as { id: string; filament: { name: string } }[]
  const { id } = rolls.find((r) => r.filament.name.startsWith(roll))!
  const pairs = (await list('pairs')) as { id: string; filamentId: string }[]
  const pair = pairs.find((p) => p.filamentId === id)!.id
  await page.addInitScript((chosen) => localStorage.setItem('verimend.pair', chosen), pair)
}

/** Opens a part of the demo with a pair; a change may be tried at once. */
export async function openPart(app: App, page: Page, name: string, change = ''): Promise<void> {
  const parts = (await (await fetch(`${app.url}/api/parts`)).json()) as { id: string; name: string }[]
  const { id } = parts.find((p) => p.name === name)!
  await page.goto(`${app.url}/parts/${id}${change && `?change=${change}`}`)
  await expect(page.getByTestId('figures')).toBeVisible()
}
export const figure = (page: Page, id: string) => page.locator(`[data-figure="${id}"]`)
/** A figure as it is, with the change, and what differs. */
export async function figures(page: Page, id: string): Promise<string[]> {
  const cells = await figure(page, id).locator('td').allInnerTexts()
  return cells.slice(1).map((t) => t.replaceAll('\u2009', ' '))
}
export const changed = (page: Page) =>
  expect(page.getByTestId('figures').getByText('With the change')).toBeVisible()
export const number = (text: string) => Number(text.replace('−', '-').replace(/[^\d.+-].*$/, ''))
export async function trySetting(page: Page, label: string, value: string): Promise<void> {
  await page.getByLabel('With a change: choose a setting').fill(label)
  await page.locator('.ant-select-item-option', { hasText: label }).first().click()
  const field = page
    .getByRole('group', { name: 'With a change' })
    .getByLabel(new RegExp(`^${label}`))
    .first()
  await field.fill(value)
  await field.press('Enter')
}
export const save = (app: App, name: string, content: string | Uint8Array) => {
  const path = join(app.folder, name)
  writeFileSync(path, content)
  return path
}
export const putIn = (page: Page, path: string) => page.setInputFiles('input[aria-label="Mesh file"]', path)
/** A block as STL in words; `inside` turns its faces inside out. */
export function block(w: number, d: number, h: number, { inside = false, faces = 12 } = {}): string {
  const v = [0, 1, 2, 3, 4, 5, 6, 7].map((i) => [i & 1 ? w : 0, i & 2 ? d : 0, i & 4 ? h : 0])
  const quads = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ]
  const triangles = quads.flatMap(([a, b, c, e]) => [
    [a, b, c],
    [a, c, e],
  ])
  const facets = triangles.slice(0, faces).map((t) => {
    const corners = (inside ? [...t].reverse() : t).map((i) => `vertex ${v[i].join(' ')}`)
    return `facet normal 0 0 0\nouter loop\n${corners.join('\n')}\nendloop\nendfacet`
  })
  return `solid block\n${facets.join('\n')}\nendsolid block\n`
}
