import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { App } from './lib/app'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

/** Works with a pair of the demo, as chosen at the top. */
async function withPair(page: Page, roll: string): Promise<void> {
  const list = async (path: string) => (await fetch(`${app.url}/api/${path}`)).json()
  const rolls = (await list('filaments')) as { id: string; filament: { name: string } }[]
  const { id } = rolls.find((r) => r.filament.name.startsWith(roll))!
  const pairs = (await list('pairs')) as { id: string; filamentId: string }[]
  const pair = pairs.find((p) => p.filamentId === id)!.id
  await page.addInitScript((chosen) => localStorage.setItem('verimend.pair', chosen), pair)
}

/** Opens a part of the demo with a pair; a change may be tried at once. */
async function openPart(page: Page, name: string, change = ''): Promise<void> {
  const parts = (await (await fetch(`${app.url}/api/parts`)).json()) as { id: string; name: string }[]
  const { id } = parts.find((p) => p.name === name)!
  await page.goto(`${app.url}/parts/${id}${change && `?change=${change}`}`)
  await expect(page.getByTestId('figures')).toBeVisible({ timeout: 60_000 })
}
const figure = (page: Page, id: string) => page.locator(`[data-figure="${id}"]`)
/** A figure as it is, with the change, and what differs. */
async function figures(page: Page, id: string): Promise<string[]> {
  const cells = await figure(page, id).locator('td').allInnerTexts()
  return cells.slice(1).map((t) => t.replaceAll('\u2009', ' '))
}
const changed = (page: Page) =>
  expect(page.getByTestId('figures').getByText('With the change')).toBeVisible({ timeout: 60_000 })
const number = (text: string) => Number(text.replace('−', '-').replace(/[^\d.+-].*$/, ''))
async function trySetting(page: Page, label: string, value: string): Promise<void> {
  await page.getByLabel('With a change: choose a setting').fill(label)
  await page.locator('.ant-select-item-option', { hasText: label }).first().click()
  const field = page
    .getByRole('group', { name: 'With a change' })
    .getByLabel(new RegExp(`^${label}`))
    .first()
  await field.fill(value)
  await field.press('Enter')
}
const save = (name: string, content: string | Uint8Array) => {
  const path = join(app.folder, name)
  writeFileSync(path, content)
  return path
}
const putIn = (page: Page, path: string) => page.setInputFiles('input[aria-label="Mesh file"]', path)
/** A block as STL in words; `inside` turns its faces inside out. */
function block(w: number, d: number, h: number, { inside = false, faces = 12 } = {}): string {
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

test('a wide first layer and a brim, before and after: minutes, grams, contact; the first layers over each other', async ({
  page,
}) => {
  await withPair(page, 'Morning')
  await openPart(page, 'Vent hinge')
  await trySetting(page, 'Brim lines', '8')
  await changed(page)
  await trySetting(page, 'First-layer line width', '0.6')
  await expect(figure(page, 'first-width')).toContainText('0.6')
  const [, , minutes] = await figures(page, 'time')
  const [, , grams] = await figures(page, 'grams')
  expect(minutes).toMatch(/^[+−]\d/)
  expect(number(grams.replace('+', ''))).toBeGreaterThan(0)
  await page.getByText('What differs', { exact: true }).click()
  await expect(page.locator('[data-differs="Brim lines"], [data-differs="Brim"]').first()).toBeVisible()
  await expect(page.getByText('thin strokes: before')).toBeVisible()
  // the address keeps what is tried
  await page.reload()
  await changed(page)
  await page.mouse.move(1, 1)
  await page.waitForTimeout(600)
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 120)}`)).toEqual([])
})

test('tabs instead of a brim; one is taken off by a click and stays off', async ({ page }) => {
  await withPair(page, 'Morning')
  await openPart(page, 'Seed-tray label', 'cornerTabs:12')
  await changed(page)
  const tabs = page.getByRole('button', { name: /^Tab \d+$/ })
  await expect(tabs.first()).toBeVisible()
  const before = await tabs.count()
  expect(before).toBeGreaterThan(3)
  const [, then] = await figures(page, 'grams')
  await page.getByRole('button', { name: 'Keep for this part' }).click()
  await expect(page.getByRole('group', { name: 'For this part' })).toContainText('Corner tabs')
  await expect(figure(page, 'grams')).toContainText(number(then).toString())
  await tabs.first().click()
  await expect(page.locator('circle[aria-pressed="false"]')).toHaveCount(1)
  await page.waitForTimeout(900)
  await page.reload()
  await expect(page.locator('circle[aria-pressed="false"]')).toHaveCount(1, { timeout: 60_000 })
  await expect(tabs).toHaveCount(before)
})

test('a seam turned to a side by a click on the drawing is gone from the face that matters', async ({
  page,
}) => {
  await withPair(page, 'Fern')
  await openPart(page, 'Sensor hood')
  await page.getByRole('button', { name: 'Turn the seam to 180°' }).click()
  await changed(page)
  await page.getByText('Seam', { exact: true }).last().click()
  const paths = page.getByRole('region', { name: 'The paths' })
  // left is 180°
  await expect(paths).toContainText(/(Stacked|Gathered).*around (1[4-9]\d|2[01]\d)°/)
  await expect(page.getByRole('group', { name: 'With a change' })).toContainText('Seam direction')
})

test('a print-in-place gap is a tenth wider with a contour drawn in by 0.05 mm, and shown where it is least', async ({
  page,
}) => {
  await withPair(page, 'Morning')
  await openPart(page, 'Vent hinge', 'contourOffset:-0.05')
  await changed(page)
  const [now, then, more] = await figures(page, 'gap')
  expect(number(then) - number(now)).toBeCloseTo(0.1, 1)
  expect(more).toContain('0.1 mm')
  // straight up the contour does nothing
  expect((await figures(page, 'gap-upright'))[2]).toBe('–')
  await page.getByText('From above', { exact: true }).last().click()
  await page.getByRole('button', { name: /^Gap of pieces 1 and 2/ }).click()
  await expect(page.getByLabel('Layer', { exact: true })).not.toHaveValue('1')
})

test('the lowest 2 mm slow: what it costs in minutes, without laying the part again', async ({ page }) => {
  await withPair(page, 'Morning')
  await openPart(page, 'Vent hinge', 'slowZoneHeight:2,slowZoneSpeed:15')
  await changed(page)
  const [now, then, minutes] = await figures(page, 'time')
  expect(now).not.toBe(then)
  expect(minutes).toMatch(/^\+\d/)
  expect((await figures(page, 'grams'))[2]).toBe('–')
})

test('a draught wall for the tall hood in ASA: chance of splitting lower, minutes and grams more', async ({
  page,
}) => {
  await withPair(page, 'Slate')
  await openPart(page, 'Sensor hood', 'draughtWall:0')
  await changed(page)
  const [, , minutes] = await figures(page, 'time')
  // without it: quicker, and likelier to go wrong
  expect(minutes).toMatch(/^−/)
  await expect(page.locator('[data-family="flow"]')).toContainText('→')
})

test('turned onto its flattest face the forecast changes; kept for the part, it stays so', async ({
  page,
}) => {
  await withPair(page, 'Slate')
  await openPart(page, 'Sensor hood')
  const flattest = page.getByRole('button', { name: /flattest/ })
  await expect(flattest).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Try another way to stand' }).click()
  await page.locator('[data-placing="0"]').click()
  await changed(page)
  const [now, then] = await figures(page, 'hanging')
  expect(number(then)).toBeLessThan(number(now))
  await expect(page.getByRole('region', { name: 'What may go wrong' })).toContainText('→')
  await page.getByRole('button', { name: 'Keep for this part' }).click()
  await page.waitForTimeout(900)
  await page.reload()
  await expect(page.locator('[data-placing="0"]')).toHaveAttribute('aria-pressed', 'true', {
    timeout: 60_000,
  })
})

test('an overhang that is given support: carried patches, grams more; one left bare again', async ({
  page,
}) => {
  await withPair(page, 'Fern')
  await page.goto(`${app.url}/parts`)
  // a plate on a leg
  const leg = block(8, 20, 14)
  const plate = block(44, 20, 2).replace(
    /vertex (\S+) (\S+) (\S+)/g,
    (_, x, y, z) => `vertex ${x} ${y} ${Number(z) + 13}`,
  )
  await putIn(
    page,
    save('shelf.stl', leg.replace('endsolid block\n', '') + plate.replace('solid block\n', '')),
  )
  await page.waitForURL(/parts\/[0-9a-f-]{36}$/, { timeout: 60_000 })
  await expect(page.getByTestId('figures')).toBeVisible({ timeout: 60_000 })
  // it stands on its leg when that is chosen
  await trySetting(page, 'Support from', '60')
  await page.getByRole('button', { name: 'Take Support from off' }).click()
  await page.getByLabel('With a change: choose a setting').fill('Supports')
  await page.locator('.ant-select-item-option', { hasText: 'Supports' }).first().click()
  await page.getByRole('group', { name: 'With a change' }).getByLabel('Supports', { exact: true }).click()
  await page.locator('.ant-select-item-option', { hasText: 'from the bed' }).click()
  await page.getByRole('button', { name: 'Try another way to stand' }).click()
  const hanging = page.locator('[data-placing]').filter({ hasText: 'hang past 60°' }).first()
  await hanging.click()
  await changed(page)
  const patch = page.getByRole('button', { name: /^Hangs .* carried$/ }).first()
  await expect(patch).toBeVisible({ timeout: 60_000 })
  const carried = (await figures(page, 'grams'))[1]
  await patch.click()
  await expect(page.getByRole('button', { name: /not carried$/ })).toHaveCount(1)
  await expect
    .poll(async () => number((await figures(page, 'grams'))[1]), { timeout: 60_000 })
    .toBeLessThan(number(carried))
})

test('a single-wall spiral left on is caught; G-code taken to Paths reads the same', async ({ page }) => {
  await withPair(page, 'Pond')
  await openPart(page, 'Vent hinge', 'spiral:true')
  await expect(page.getByRole('alert')).toContainText('one outline in each layer', { timeout: 60_000 })
  await openPart(page, 'Hose coupling', 'spiral:true')
  await changed(page)
  const take = async (item: string, name: string) => {
    await page.getByRole('button', { name: 'Take it to print' }).click()
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: item }).click(),
    ])
    const path = join(app.folder, name)
    await download.saveAs(path)
    return path
  }
  const spiral = await take('G-code, with the change', 'spiral.gcode')
  const plain = await take('G-code, as it is', 'plain.gcode')
  expect(readFileSync(plain, 'utf8')).toContain('; Pair: Pond blue on Greenhouse, recipe version')
  const [now] = await figures(page, 'time')
  const [grams] = await figures(page, 'grams')
  await page.goto(`${app.url}/paths`)
  await page.setInputFiles('input[aria-label="G-code file"]', plain)
  await expect(page.getByText(/\d+ layers, 48/)).toContainText(grams)
  expect((await page.getByText(/\d+ layers, 48/).innerText()).replaceAll('\u2009', ' ')).toContain(now)
  await expect(page.getByText(/departs from the recipe/)).toHaveCount(0)
  await page.setInputFiles('input[aria-label="G-code file"]', spiral)
  await expect(page.getByText(/departs from the recipe/)).toContainText('left over')
  // the plan is remembered with the part
  await openPart(page, 'Hose coupling')
  await expect(page.getByRole('region', { name: 'Where it was used' })).toContainText('Taken to print')
})

test('files that are none: a sentence each, and the screen goes on; faces inside out are turned', async ({
  page,
}) => {
  await page.goto(`${app.url}/parts`)
  const alert = page.getByRole('alert')
  for (const [name, content, sentence] of [
    ['empty.stl', '', 'The file is empty'],
    ['foreign.stl', 'G28\nG1 X5 Y5 E1\n', 'no mesh that can be read'],
    ['one.stl', block(5, 5, 5, { faces: 1 }), 'no inside'],
    ['nan.stl', block(5, 5, 5).replace('vertex 5 0 0', 'vertex nan 0 0'), 'line'],
    ['flat.stl', block(20, 20, 0), 'no inside'],
    ['cut.stl', Uint8Array.from({ length: 400 }, (_, i) => (i === 80 ? 50 : i > 83 ? 7 : 0)), 'too soon'],
  ] as const) {
    await putIn(page, save(name, content))
    await expect(alert).toContainText(sentence)
    await alert.getByRole('button', { name: 'Dismiss' }).click()
    await expect(alert).toHaveCount(0)
  }
  // twenty millimetres drawn in metres
  await putIn(page, save('small_block.stl', block(0.02, 0.02, 0.02)))
  await page.getByRole('button', { name: /^metre: 20/ }).click()
  await page.waitForURL(/parts\/[0-9a-f-]{36}$/, { timeout: 60_000 })
  await expect(page.getByLabel('The part’s name')).toHaveValue('small block')
  await expect(page.getByText('20 × 20 × 20 mm')).toBeVisible()
  await page.goto(`${app.url}/parts`)
  await putIn(page, save('turned.stl', block(30, 20, 10, { inside: true })))
  await page.waitForURL(/parts\/[0-9a-f-]{36}$/, { timeout: 60_000 })
  await expect(page.getByTestId('figures')).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText('6 cm³')).toBeVisible()
  // wider than the bed: said, with the scale that fits
  await page.goto(`${app.url}/parts`)
  await putIn(page, save('wide.stl', block(400, 30, 5)))
  await page.waitForURL(/parts\/[0-9a-f-]{36}$/, { timeout: 60_000 })
  await expect(page.getByText('It is too large for this machine')).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: /^Make it fit/ }).click()
  await expect(page.getByTestId('figures')).toBeVisible({ timeout: 60_000 })
})

test('a mend in a case is seen on its part, with the change set; work that is cancelled stops at once', async ({
  page,
}) => {
  const cases = (await (await fetch(`${app.url}/api/cases`)).json()) as { id: string; part: string }[]
  await page.goto(`${app.url}/cases/${cases.find((c) => c.part === 'Sensor hood')!.id}`)
  await page.getByRole('link', { name: 'See it on the part' }).first().click()
  await page.waitForURL(/parts\/.*change=/)
  const cancel = page.getByRole('button', { name: 'Cancel' }).first()
  await cancel.click({ timeout: 60_000 })
  const began = Date.now()
  await expect(page.getByRole('status').filter({ hasText: 'Cancel' })).toHaveCount(0, { timeout: 5000 })
  expect(Date.now() - began).toBeLessThan(5000)
})

test('on a phone nothing is cut, and a part can be read', async ({ page }) => {
  await withPair(page, 'Morning')
  await page.setViewportSize({ width: 390, height: 844 })
  await openPart(page, 'Vent hinge', 'brimLines:8')
  await changed(page)
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390)
})
