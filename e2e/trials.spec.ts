import { expect, test, type Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { App } from './lib/app'
import { restingFaultsOf } from './lib/faults'
import { pressByTab } from './lib/keys'
import { choosePair } from './lib/pair'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

/** Plans a piece as it is proposed, downloads it, and opens the reader. */
async function make(page: Page, aspect: string): Promise<string> {
  await page.goto(`${app.url}/trials`)
  await page.locator(`[data-aspect="${aspect}"]`).getByRole('button').click()
  await expect(
    page.getByRole('region', { name: 'The piece' }).locator('svg [data-cell]').first(),
  ).toBeVisible()
  await page.getByRole('button', { name: 'Make this trial' }).click()
  await page.waitForURL(/trials\/[0-9a-f-]{36}$/)
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'G-code' }).click(),
  ])
  expect(file.suggestedFilename()).toMatch(/\.gcode$/)
  const text = readFileSync(await file.path(), 'utf8')
  expect(text).toContain('; Held within the machine')
  await page.getByRole('button', { name: 'Read the printed piece' }).click()
  await page.waitForURL(/\/read/)
  return text
}
/** The reader on a phone, at a place of the piece. */
const reader = (page: Page) => page.getByTestId('reader')
const grade = (page: Page, criterion: string, g: number) =>
  page
    .locator(`[data-criterion="${criterion}"] label`)
    .nth(4 - Math.max(0, Math.min(4, Math.round(g))))
    .click()
const valueAt = async (page: Page) =>
  Number((await reader(page).locator('h1 + p').innerText()).replace(/[^\d.\u2212-].*/, ''))
const placesOf = async (page: Page) => {
  await expect(reader(page).locator('svg [data-cell]').first()).toBeVisible()
  return reader(page).locator('svg [data-cell]').count()
}
/** Goes on, and waits until the next place (or the trial's own page) is there. */
async function next(page: Page): Promise<void> {
  const was = await reader(page).getAttribute('data-cell')
  await page.getByTestId('readnav').getByRole('button').last().click()
  await expect
    .poll(async () =>
      page.url().includes('/read')
        ? await reader(page)
            .getAttribute('data-cell', { timeout: 2000 })
            .catch(() => null)
        : null,
    )
    .not.toBe(was)
}
const onPhone = (page: Page) => page.setViewportSize({ width: 390, height: 844 })
const atDesk = (page: Page) => page.setViewportSize({ width: 1280, height: 800 })

test('a new roll: temperature, flow and retraction measured with three trials, read on a phone, over a restart', async ({
  page,
}) => {
  await choosePair(page, app.url, /Bark/, /Potting shed/)

  // temperature: half of it, then everything is stopped and started again
  const tower = await make(page, 'temperature')
  expect(tower).toMatch(/^M109 S\d+$/m)
  await onPhone(page)
  const address = page.url()
  const places = await placesOf(page)
  const one = async () => {
    const t = await valueAt(page)
    await grade(page, 'strings', 4 - (t - 236) / 3)
    await grade(page, 'bonding', 4 - (244 - t) / 3)
    await grade(page, 'overhang', 3)
  }
  for (let k = 0; k < 3; k++) {
    await one()
    await next(page)
  }
  await expect(reader(page)).toContainText(`3 of ${places}`)
  await app.stop('SIGKILL')
  await app.start()
  await page.goto(address)
  await expect(reader(page)).toContainText(`3 of ${places}`)
  await expect(reader(page)).toHaveAttribute('data-cell', 'band-4') // it goes on where it was left
  for (let k = 3; k < places; k++) {
    await one()
    await next(page)
  }
  await page.waitForURL(/trials\/[0-9a-f-]{36}$/)
  await atDesk(page)
  const outcome = page.getByRole('region', { name: 'What comes of it' })
  await expect(outcome).toContainText(/The best value is 2[34]\d\s°C, with 95\s% certainty between/)
  await expect(outcome.getByRole('figure')).toBeVisible()
  await outcome.getByRole('button', { name: 'Take into the recipe' }).click()
  await expect(page.getByRole('main')).toContainText('in version 2')

  // flow: a wall measured on four sides; what cannot be a wall is refused with a sentence
  await make(page, 'flow')
  await onPhone(page)
  const measured = page.getByLabel('Measured, mm')
  for (const wrong of ['wide', '-1', '40']) {
    await measured.fill(wrong)
    await measured.press('Enter')
    await expect(reader(page).getByRole('alert')).toBeVisible()
    await expect(measured).toHaveValue(wrong)
  }
  for (const v of ['0.90', '0,91', '0.89', '0.9']) {
    await measured.fill(v)
    await measured.press('Enter')
    await expect(measured).toHaveValue('')
  }
  await expect(reader(page)).toContainText('mean 0.9')
  await page.getByRole('link', { name: /Flow box, trial 2/ }).click()
  await atDesk(page)
  await expect(outcome).toContainText(/The wall measures 0\.9\d*\smm instead of/)
  await outcome.getByRole('button', { name: 'Take into the recipe' }).click()
  await expect(page.getByRole('main')).toContainText('in version 3')

  // retraction, by keyboard: the shortest that is clean
  await make(page, 'retraction')
  const bands = await placesOf(page)
  for (let k = 0; k < bands; k++) {
    const length = await valueAt(page)
    const g = length >= 4 ? 4 : Math.max(0, Math.round(4 - (4 - length) * 1.1))
    await expect(async () => {
      await page.keyboard.press(String(g))
      await expect(reader(page).locator('[data-criterion] [data-on]')).toHaveCount(1, { timeout: 1000 })
    }).toPass()
    await page.keyboard.press('ArrowRight')
    if (k < bands - 1) await expect(reader(page)).toHaveAttribute('data-cell', `band-${k + 2}`)
  }
  await page.waitForURL(/trials\/[0-9a-f-]{36}$/)
  await expect(outcome).toContainText(/The shortest length that stays clean is [34]/)
  await outcome.getByRole('button', { name: 'Take into the recipe' }).click()
  await expect(page.getByRole('main')).toContainText('in version 4')

  await page.goto(`${app.url}/trials`)
  for (const a of ['temperature', 'flow', 'retraction'])
    await expect(page.locator(`[data-aspect="${a}"]`)).toContainText('measured')
  await expect(page.getByTestId('trial')).toHaveCount(3)
  // a case of this pair knows
  await page.keyboard.press('n')
  await page.getByLabel('Which part came out wrong?').fill('Peg')
  await page.keyboard.press('Enter')
  await page.locator('[data-sign="strings-thin"]').getByText('Seen', { exact: true }).click()
  await page.getByRole('button', { name: /^All \d+ suspects/ }).click()
  await page.locator('[data-suspect="nozzle-too-hot"]').getByRole('button').first().click()
  await expect(page.locator('[data-suspect="nozzle-too-hot"]')).toContainText(
    'Temperature tower: it is not so',
  )
})

test('plans at fault say why; the best at an end leads to the next; the piece is seen in its paths', async ({
  page,
}) => {
  await choosePair(page, app.url, /Fern/, /Greenhouse/)
  await page.goto(`${app.url}/trials/new/temperature-tower`)
  const piece = page.getByRole('region', { name: 'The piece' })
  await expect(piece.locator('svg [data-cell]').first()).toBeVisible()
  await page.getByLabel('Nozzle, first').fill('480')
  await page.getByLabel('Nozzle, first').blur()
  await expect(page.getByRole('alert')).toContainText('is the nearest this machine can do')
  await expect(page.getByRole('button', { name: 'Make this trial' })).toBeDisabled()
  await page.getByLabel('Nozzle, first').fill('210')
  await page.getByLabel('Nozzle, first').blur()
  await expect(page.getByRole('alert')).toHaveCount(0)
  await page.getByText('Read its paths').click()
  await expect(page.getByTestId('silhouette')).toBeVisible()
  await page.getByText('From above').click()
  await expect(page.getByRole('img', { name: /Layer 1 from above/ })).toBeVisible()
  await page.getByRole('button', { name: 'Make this trial' }).click()
  await page.getByRole('button', { name: 'Read the printed piece' }).click()
  const trial = new URL(page.url()).pathname.replace(/\/read$/, '')
  const places = await placesOf(page)
  for (let k = 0; k < places; k++) {
    await grade(page, 'bonding', 4 - (213 - (await valueAt(page))) / 5)
    await grade(page, 'strings', 4)
    await next(page)
  }
  const outcome = page.getByRole('region', { name: 'What comes of it' })
  await expect(outcome).toContainText('The best value is at the end of the range')
  await outcome.getByRole('button', { name: /^Plan the next/ }).click()
  await expect(page.getByLabel('Nozzle, first')).not.toHaveValue('210')
  // every kind of screen of trials, for assistive technology
  for (const path of [
    '/trials',
    '/trials/new/seam-columns',
    '/trials/new/size-plate',
    trial,
    `${trial}/read`,
  ]) {
    await page.goto(`${app.url}${path}`)
    await expect(page.locator('h1')).toBeVisible()
    if (path.startsWith('/trials/new'))
      await expect(page.getByRole('button', { name: 'Make this trial' })).toBeEnabled()
    expect(await restingFaultsOf(page)).toEqual([])
  }
})

test('a trial by keyboard alone: planned, read, its answer in the recipe', async ({ page }) => {
  await choosePair(page, app.url, /Terracotta/, /Greenhouse/)
  await page.keyboard.press('g')
  await page.keyboard.press('t')
  await expect(page).toHaveURL(/\/trials$/)
  await pressByTab(page, /Temperature tower/)
  await expect(
    page.getByRole('region', { name: 'The piece' }).locator('svg [data-cell]').first(),
  ).toBeVisible()
  await pressByTab(page, /Make this trial/)
  await page.waitForURL(/trials\/[0-9a-f-]{36}$/)
  await pressByTab(page, /Read the printed piece/)
  await page.waitForURL(/\/read/)
  const places = await placesOf(page)
  for (let k = 0; k < places; k++) {
    const was = await reader(page).getAttribute('data-cell')
    const t = await valueAt(page)
    // strings, bond, overhang, bridge, face: one key each
    const grades = [4 - (t - 200) / 8, 4 - (212 - t) / 7, 4 - (t - 202) / 9, 3, 4]
    for (const [done, g] of grades.entries()) {
      await page.keyboard.press(String(Math.max(0, Math.min(4, Math.round(g)))))
      await expect(reader(page).locator('[data-criterion] label[data-on]')).toHaveCount(done + 1)
    }
    await page.keyboard.press('ArrowRight')
    if (k < places - 1) await expect.poll(() => reader(page).getAttribute('data-cell')).not.toBe(was)
  }
  // beyond the last place lies the trial itself, with its answer
  await page.waitForURL(/trials\/[0-9a-f-]{36}$/)
  await pressByTab(page, /Take into the recipe/)
  await expect(page.getByText(/in version \d+/).first()).toBeVisible()
})
