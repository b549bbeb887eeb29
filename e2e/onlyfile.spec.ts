import { expect, test } from '@playwright/test'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { App } from './lib/app'
import { posts } from './lib/posts'

const app = new App(['--no-demo'])
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

test('with only a failed print and its path file: roll and machine, recipe from the file, cause found, one change, kept', async ({
  page,
}) => {
  const began = Date.now()
  await page.goto(app.url)
  await page.getByRole('link', { name: 'Add a roll' }).click()
  await page.getByLabel('Name', { exact: true }).fill('Barn red')
  await page.getByLabel('The label as printed').fill('Nozzle 195–225 °C, bed 60')
  await page.getByRole('button', { name: 'Read the label' }).click()
  await expect(page.getByLabel('Bed, to')).toHaveValue('60')
  await page.getByRole('button', { name: 'Put on the shelf' }).click()
  // one thing leads to the next: the machine, then the first case of their pair
  await expect(page.getByRole('heading', { name: 'A new machine' })).toBeVisible()
  await page.getByLabel('Name', { exact: true }).fill('Loft')
  await page.getByRole('button', { name: 'Add the machine' }).click()
  await expect(page).toHaveURL(/\/cases\/new$/)
  await expect(page.getByLabel('Current pair')).toContainText('Barn red')
  await expect(page.getByLabel('Current pair')).toContainText('Loft')
  expect(Date.now() - began).toBeLessThan(120_000)

  await page.getByLabel('Which part came out wrong?').fill('Two posts')
  await page.keyboard.press('Enter')
  await page.locator('[data-sign="strings-thin"]').getByText('Seen', { exact: true }).click()
  await page.locator('[data-sign="popping-or-steam"]').getByText('Not there', { exact: true }).click()
  const file = join(app.folder, 'two-posts.gcode')
  writeFileSync(file, posts({ retract: 1.5 }))
  await page.setInputFiles('input[aria-label="G-code file"]', file)

  // what was printed becomes the recipe
  await page.getByRole('button', { name: 'Take the file’s values as the recipe' }).click()
  await page.getByRole('button', { name: /^Write version 2/ }).click()
  await expect(page.locator('[data-entry="told"]')).toContainText('The file carries out the recipe')
  // the cause, and one change from what was printed
  await expect(page.locator('[data-suspect]').first()).toHaveAttribute('data-suspect', 'retraction-too-short')
  const mend = page.locator('[data-proposal="retraction-too-short/0"]')
  await mend.getByRole('radio').check()
  await expect(mend).toContainText('1.5')
  await page.getByRole('button', { name: 'Change it and open an attempt' }).click()
  await expect(page.locator('[data-entry="attempt-1"]')).toContainText('Recipe version 2 → 3')
  // the file of the bad print still speaks while nothing newer was seen
  await expect(page.locator('[data-suspect]').first()).toContainText('under what this drive usually wants')
  await page.locator('[data-outcome="strings-thin"]').getByText('Gone').click()
  await page.getByRole('button', { name: 'Record attempt 1' }).click()
  await page.getByRole('button', { name: 'Close the case' }).click()
  await expect(page.locator('[data-entry="kept"]')).toContainText('version 3')
  await expect(page.locator('[data-entry="kept"]')).toContainText('It began with: fine strings')

  await page.goto(`${app.url}/recipes?find=Retraction length`)
  await expect(page.locator('[data-setting="retractLength"]')).toContainText('from a case')
  await page.goto(`${app.url}/recipes?find=Wipe`)
  await expect(page.locator('[data-setting="wipe"]')).toContainText('from a path file')
})
