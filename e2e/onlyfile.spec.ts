import { expect, test } from '@playwright/test'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { App } from './lib/app'
import { posts } from './lib/posts'

const app = new App(['--no-demo'])
const other = new App(['--no-demo'])
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

test.describe('from the file alone', () => {
  test.beforeAll(() => other.start())
  test.afterAll(() => other.end())

  test('dropped on the empty bench it says what it was made for, and becomes the first case; what is assumed is marked', async ({
    page,
  }) => {
    await page.goto(other.url)
    const file = join(other.folder, 'drip-line-clip.gcode')
    writeFileSync(file, posts({ retract: 5 }))
    await page.setInputFiles('input[aria-label="G-code file"]', file)
    const guess = page.getByTestId('start-from-file')
    await expect(guess).toContainText('usual for a guide tube')
    await expect(guess.getByLabel('The part')).toHaveValue('drip line clip')
    await guess.getByRole('button', { name: 'Begin the case' }).click()
    await expect(page.getByRole('heading', { name: 'drip line clip' })).toBeVisible()
    await expect(page.locator('[data-entry="told"]')).toContainText('drip-line-clip.gcode')
    await expect(page.getByLabel('Current pair')).toContainText('400\u2009mm tube')
    // the machine's values are those of its kind until somebody says so
    await page.goto(`${other.url}/machines`)
    await page
      .getByTestId('machine')
      .getByRole('link', { name: /values$/ })
      .click()
    await expect(page.getByTestId('assumed')).toContainText('25 values are assumed')
    await page.getByLabel(/^Speed, up to/).fill('180')
    await expect(page.getByTestId('assumed')).toContainText('24 values are assumed')
    await page.getByRole('button', { name: 'They are right' }).click()
    await page.getByRole('button', { name: 'Save' }).click()
    await expect(page.getByTestId('machine')).toContainText('180 mm/s')
    await expect(page.getByTestId('machine')).not.toContainText('assumed')
  })

  test('reading goes on when the screen is left, can be seen from anywhere, and is there on return', async ({
    page,
  }) => {
    await page.goto(`${other.url}/paths`)
    const file = join(other.folder, 'large.gcode')
    writeFileSync(file, posts({ retract: 5 }).repeat(400))
    await page.setInputFiles('input[aria-label="G-code file"]', file)
    await expect(page.getByText('Reading large.gcode')).toBeVisible()
    await page.getByRole('link', { name: 'Handbook' }).click()
    await expect(page.getByTestId('work-tray')).toContainText('Reading')
    await page.getByRole('button', { name: 'See it' }).click()
    await expect(page).toHaveURL(/\/paths$/)
    await expect(page.getByTestId('silhouette')).toBeVisible()
    // gone and back, it is still open, with its layers
    await page.getByRole('link', { name: 'Bench', exact: true }).click()
    await page.getByRole('link', { name: 'Paths', exact: true }).click()
    await expect(page.getByTestId('silhouette')).toBeVisible()
    // ended from another screen
    await page.setInputFiles('input[aria-label="G-code file"]', file)
    await expect(page.getByText('Reading large.gcode')).toBeVisible()
    await page.getByRole('link', { name: 'Handbook' }).click()
    await page.getByTestId('work-tray').click()
    await page.getByRole('button', { name: 'Cancel' }).click()
    await expect(page.getByTestId('work-tray')).toHaveCount(0)
  })
})

test('with only a failed print and its path file: roll and machine, recipe from the file, cause found, one change, kept', async ({
  page,
}) => {
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

  await page.getByLabel('Which part came out wrong?').fill('Two posts')
  await page.keyboard.press('Enter')
  await page.locator('[data-sign="strings-thin"]').getByText('Seen', { exact: true }).click()
  await page.locator('[data-sign="popping-or-steam"]').getByText('Not there', { exact: true }).click()
  const file = join(app.folder, 'two-posts.gcode')
  writeFileSync(file, posts({ retract: 1.5 }))
  await page.setInputFiles('input[aria-label="G-code file"]', file)

  // what was printed becomes the recipe
  await page.getByRole('button', { name: 'Take the file’s values as the recipe' }).click()
  // these two posts are meant to be hollow
  const taken = page.getByRole('region', { name: 'Values of the file' })
  for (const key of ['wallCount', 'topLayers', 'bottomLayers'])
    await taken.locator(`[data-take="${key}"]`).getByRole('checkbox', { checked: false }).check()
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
  await expect(page.locator('[data-suspect]').first()).toContainText('under what this extruder usually needs')
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
