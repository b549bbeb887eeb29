import { expect, test } from '@playwright/test'
import { App } from './lib/app'
import { restingFaultsOf } from './lib/faults'
import { changed, figure, figures, number, openPart, trySetting, withPair } from './lib/part'
import { kept } from './lib/settled'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

test('a wide first layer and a brim, before and after: minutes, grams, contact; the first layers over each other', async ({
  page,
}) => {
  await withPair(app, page, 'Morning')
  await openPart(app, page, 'Vent hinge')
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
  expect(await restingFaultsOf(page)).toEqual([])
})

test('a third less time: what is chosen within the machine, what it loses, and the part planned with it', async ({
  page,
}) => {
  await withPair(app, page, 'Terracotta')
  await page.goto(`${app.url}/recipes`)
  await page.getByRole('combobox', { name: 'Part to print faster' }).click()
  await page.getByTitle('Seed-tray label').click()
  const faster = page.getByRole('region', { name: 'Print it faster' })
  await faster.getByRole('button', { name: '30 % less time' }).click()
  await expect(faster.getByRole('checkbox', { checked: true }).first()).toBeVisible()
  await expect(faster).toContainText(/go to .+ %/)
  await expect(faster.getByRole('status')).toContainText(/instead of/)
  expect(await restingFaultsOf(page)).toEqual([])
  await faster.getByRole('button', { name: 'See it on the part' }).click()
  await changed(page)
  const [, , minutes] = await figures(page, 'time')
  expect(minutes).toMatch(/^−\d/)
})

test('tabs instead of a brim; one is taken off by a click and stays off', async ({ page }) => {
  await withPair(app, page, 'Morning')
  await openPart(app, page, 'Seed-tray label', 'cornerTabs:12')
  await changed(page)
  const tabs = page.getByRole('button', { name: /^Tab \d+$/ })
  await expect(tabs.first()).toBeVisible()
  const before = await tabs.count()
  expect(before).toBeGreaterThan(3)
  const [, then] = await figures(page, 'grams')
  await kept(page, 'parts/', () => page.getByRole('button', { name: 'Keep for this part' }).click())
  await expect(page.getByRole('group', { name: 'For this part' })).toContainText('Corner tabs')
  await expect(figure(page, 'grams')).toContainText(number(then).toString())
  await kept(page, 'parts/', () => tabs.first().click())
  await expect(page.locator('circle[aria-pressed="false"]')).toHaveCount(1)
  await page.reload()
  await expect(page.locator('circle[aria-pressed="false"]')).toHaveCount(1)
  await expect(tabs).toHaveCount(before)
})

test('a seam turned to a side by a click on the drawing is gone from the face that matters', async ({
  page,
}) => {
  await withPair(app, page, 'Fern')
  await openPart(app, page, 'Sensor hood')
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
  await withPair(app, page, 'Morning')
  await openPart(app, page, 'Vent hinge', 'contourOffset:-0.05')
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
  await withPair(app, page, 'Morning')
  await openPart(app, page, 'Vent hinge', 'slowZoneHeight:2,slowZoneSpeed:15')
  await changed(page)
  const [now, then, minutes] = await figures(page, 'time')
  expect(now).not.toBe(then)
  expect(minutes).toMatch(/^\+\d/)
  expect((await figures(page, 'grams'))[2]).toBe('–')
})

test('a draught wall for the tall hood in ASA: chance of splitting lower, minutes and grams more', async ({
  page,
}) => {
  await withPair(app, page, 'Slate')
  await openPart(app, page, 'Sensor hood', 'draughtWall:0')
  await changed(page)
  const [, , minutes] = await figures(page, 'time')
  // without it: quicker, and likelier to go wrong
  expect(minutes).toMatch(/^−/)
  await expect(page.locator('[data-family="flow"]')).toContainText('→')
})

test('turned onto its flattest face the forecast changes; kept for the part, it stays so', async ({
  page,
}) => {
  await withPair(app, page, 'Slate')
  await openPart(app, page, 'Sensor hood')
  const flattest = page.getByRole('button', { name: /flattest/ })
  await expect(flattest).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Try another way to stand' }).click()
  await page.locator('[data-placing="0"]').click()
  await changed(page)
  const [now, then] = await figures(page, 'hanging')
  expect(number(then)).toBeLessThan(number(now))
  await expect(page.getByRole('region', { name: 'What may go wrong' })).toContainText('→')
  await kept(page, 'parts/', () => page.getByRole('button', { name: 'Keep for this part' }).click())
  await page.reload()
  await expect(page.locator('[data-placing="0"]')).toHaveAttribute('aria-pressed', 'true')
})
