import { expect, test, type Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { App } from './lib/app'
import { choosePair } from './lib/pair'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

const row = (page: Page, key: string) => page.locator(`[data-setting="${key}"]`)
const set = async (page: Page, key: string, value: string) => {
  await row(page, key).getByTestId('value').click()
  await row(page, key).locator('input').fill(value)
  await page.keyboard.press('Enter')
}

test('a silk roll from its label to a kept recipe: warned, mended, compared, written out, taken in again, undone', async ({
  page,
}) => {
  await page.goto(`${app.url}/shelf/new`)
  await page.getByLabel('Name', { exact: true }).fill('Beetle wing')
  await page.getByLabel('Family').click()
  await page.getByTitle('PLA, silk finish').click()
  await page.getByLabel('The label as printed').fill('Nozzle 205–225 °C, bed 55–65 °C, 30–150 mm/s, 1 kg')
  await page.getByRole('button', { name: 'Read the label' }).click()
  await expect(page.getByLabel('Nozzle, to')).toHaveValue('225')
  await expect(page.getByLabel('Speed, to')).toHaveValue('150')
  await page.getByRole('button', { name: 'Put on the shelf' }).click()
  await expect(page.getByTestId('roll')).toHaveCount(10)

  await choosePair(page, app.url, /Beetle wing/, /Greenhouse/)
  await page.goto(`${app.url}/recipes`)
  await expect(row(page, 'nozzle')).toContainText('label')
  await expect(page.getByRole('region', { name: 'What bites' })).toContainText('No rule objects')

  // two values by hand: the melt cap objects, its mend is one click, what follows is shown
  await set(page, 'innerSpeed', '140')
  await set(page, 'fan', '45')
  const bites = page.getByRole('region', { name: 'What bites' })
  await expect(bites.locator('[data-rule="over-melt-cap"]')).toContainText('the hot end melts only 9')
  await expect(page.getByRole('region', { name: 'Changes not kept yet' })).toContainText('follows')
  await bites.locator('[data-rule="over-melt-cap"]').getByRole('button').first().click()
  await expect(bites.locator('[data-rule="over-melt-cap"]')).toHaveCount(0)
  await page.reload() // a draft outlives it
  await page.getByLabel('Reason').fill('Quicker inside, a little more air')
  await page.getByRole('button', { name: 'Keep as version 2' }).click()
  await expect(page.getByText('Version 2 is kept.')).toBeVisible()
  await expect(row(page, 'fan')).toContainText('set by hand')

  // meant so: quiet for this value only
  await set(page, 'travelSpeed', '80')
  await bites
    .locator('[data-rule="travel-slow"]')
    .getByRole('button', { name: /I mean it/ })
    .click()
  await expect(bites).toContainText('1 meant so')
  await set(page, 'travelSpeed', '70')
  await expect(bites.locator('[data-rule="travel-slow"]')).toBeVisible()
  await page.getByRole('button', { name: 'Drop' }).click()

  // a finer grade: only what the layer height changes, its own values
  await page.getByText(/^Fine/).click()
  await expect(row(page, 'nozzle')).toHaveCount(0)
  await set(page, 'topLayers', '8')
  await page.getByRole('button', { name: 'Keep as version 3' }).click()
  await expect(row(page, 'topLayers')).toContainText('set by hand')
  await page.getByText(/^Standard/).click()
  await expect(row(page, 'topLayers')).not.toContainText('set by hand')

  // against version 1: what differs, and one value taken across
  await page.getByRole('button', { name: 'Compare' }).last().click()
  await page.getByText('Only what differs').click()
  await expect(row(page, 'fan')).toContainText('40')
  await expect(row(page, 'nozzle')).toHaveCount(0)
  await row(page, 'fan')
    .getByRole('button', { name: /^Take 40/ })
    .click()
  await page.getByRole('button', { name: 'Keep as version 4' }).click()
  await expect(page.getByText('Version 4 is kept.')).toBeVisible()

  // out as a file; the roll is put away; the file brings it back
  await page.getByRole('button', { name: 'Hand it on' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: /Recipe file/ }).click(),
  ])
  const file = await download.path()
  expect(JSON.parse(readFileSync(file, 'utf8')).filament.name).toBe('Beetle wing')
  await page.goto(`${app.url}/shelf`)
  await page.getByRole('button', { name: 'Remove Beetle wing' }).click()
  await expect(page.getByTestId('roll')).toHaveCount(9)
  await page.goto(`${app.url}/recipes`)
  await expect(page.getByRole('banner')).not.toContainText('Beetle wing')
  await page.setInputFiles('input[aria-label="Recipe file"]', file)
  await expect(page.getByRole('dialog')).toContainText('The roll comes back to the shelf.')
  await expect(page.getByRole('dialog')).toContainText('Nothing differs')
  await page.getByRole('button', { name: /Take in/ }).click()
  await expect(page.getByRole('banner')).toContainText('Beetle wing')
  await expect(row(page, 'innerSpeed')).toContainText('set by hand')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('banner')).not.toContainText('Beetle wing')

  // a foreign file is refused in one sentence
  await page.setInputFiles('input[aria-label="Recipe file"]', {
    name: 'x.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"nozzle": 210}'),
  })
  await expect(page.getByRole('dialog')).toContainText('not written as a Verimend recipe')
})

test('care of a roll: weighed, dried, does the part fit, and the bench shows what is known', async ({
  page,
}) => {
  await page.goto(`${app.url}/shelf`)
  const due = page.getByRole('region', { name: 'Dry before the next print' })
  await expect(due).toContainText('Moss flex')
  const moss = due.locator('[data-due]', { hasText: 'Moss flex' })
  await moss.getByLabel('Dryer, °C').fill('50')
  await expect(moss).toContainText('it takes about')
  await moss.getByLabel('Hours').fill('9')
  await moss.getByRole('button', { name: 'Dried today' }).click()
  await expect(due).not.toContainText('Moss flex')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(due).toContainText('Moss flex')

  await page.getByRole('link', { name: 'Fern green' }).click()
  const fit = page.getByRole('region', { name: 'Does the next part fit?' })
  await fit.getByLabel('Grams of the part').fill('640')
  await expect(fit.getByRole('status')).toContainText('Only just')
  await fit.getByLabel('Grams of the part').fill('900')
  await expect(fit.getByRole('status')).toContainText('260\u2009g are missing')
  await expect(fit).toContainText('Terracotta')
  const weight = page.getByRole('region', { name: 'Weight' })
  await weight.getByLabel('Roll with spool, g').fill('690')
  await weight.getByRole('button', { name: 'Weighed' }).click()
  await expect(weight).toContainText('500 of 1000 g')

  await page.goto(app.url)
  const fern = page.getByTestId('pair').filter({ hasText: 'Fern green' })
  await expect(fern.getByRole('img', { name: 'measured' })).toHaveCount(2)
  await expect(fern).toContainText('min')
})
