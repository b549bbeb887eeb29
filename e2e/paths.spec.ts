import { expect, test, type Page } from '@playwright/test'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { App } from './lib/app'
import { choosePair } from './lib/pair'
import { partFile } from './lib/parts'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

const save = (name: string, text: string) => {
  const path = join(app.folder, name)
  writeFileSync(path, text)
  return path
}
const sign = (page: Page, id: string, answer: string) =>
  page.locator(`[data-sign="${id}"]`).getByText(answer, { exact: true }).click()

test('banding: the heights of the flaw, dragged on the silhouette, lead to the speed swing and into the balance', async ({
  page,
}) => {
  await choosePair(page, app.url, /Terracotta/, /Potting shed/)
  await page.keyboard.press('n')
  await page.getByLabel('Which part came out wrong?').fill('Vent cap')
  await page.keyboard.press('Enter')
  await page.getByText('Banding and finish').click()
  await sign(page, 'bands-irregular', 'Seen')
  const file = save(
    'vent-cap.gcode',
    partFile(
      { shape: 'box', width: 30, height: 16, steps: [{ from: 9, inset: 9 }], slowDown: true },
      { minLayerTime: 30, speedFloor: 8 },
    ),
  )
  await page.setInputFiles('input[aria-label="G-code file"]', file)
  const told = page.locator('[data-entry="told"]')
  await told.locator('summary', { hasText: 'vent-cap.gcode' }).click()
  await expect(told.locator('[data-finding="slow-down-swings"]')).toContainText('Outer walls drop')
  // drag over the upper half of the part
  const shape = told.getByTestId('silhouette')
  await shape.scrollIntoViewIfNeeded()
  const box = (await shape.boundingBox())!
  const y = (z: number) => box.y + 28 + 360 * (1 - z / 16)
  await page.mouse.move(box.x + 60, y(9.4))
  await page.mouse.down()
  await page.mouse.move(box.x + 60, y(12), { steps: 4 })
  await page.mouse.move(box.x + 60, y(15), { steps: 4 })
  await page.mouse.up()
  const match = told.locator('[data-match]').first()
  await expect(match).toHaveAttribute('data-match', 'outerAsked')
  await expect(match).toContainText('the layer time limit slows them')
  await match.getByRole('button', { name: 'Make it evidence' }).click()
  await expect(told.locator('[data-evidence="outerAsked"]')).toContainText('Marked on the part')
  const first = page.locator('[data-suspect]').first()
  await expect(first).toHaveAttribute('data-suspect', 'speed-swings')
  await expect(first).toContainText('Marked on the part')
  await page.reload()
  await expect(page.locator('[data-evidence="outerAsked"]')).toContainText('Marked on the part')
})

test('stringing: open-air travel without a pull-back is found, seen from above, and the file kept for later', async ({
  page,
}) => {
  await choosePair(page, app.url, /Terracotta/, /Potting shed/)
  await page.keyboard.press('n')
  await page.getByLabel('Which part came out wrong?').fill('Two pegs')
  await page.keyboard.press('Enter')
  await sign(page, 'strings-thin', 'Seen')
  const file = save(
    'two-pegs.gcode',
    partFile({ shape: 'round', width: 14, height: 5, copies: 2 }, { retract: false }),
  )
  await page.setInputFiles('input[aria-label="G-code file"]', file)
  const told = page.locator('[data-entry="told"]')
  await expect(told).toContainText('kept whole')
  await told.locator('summary', { hasText: 'two-pegs.gcode' }).click()
  await expect(told.locator('[data-finding="open-air-drag"]')).toContainText('have no retraction')
  await expect(page.locator('[data-suspect]').first()).toHaveAttribute('data-suspect', 'retraction-off')
  // the kept file comes back with all its moves
  await told.getByRole('link', { name: 'Look closer on the paths screen' }).click()
  await page.getByText('From above').click()
  await page.getByRole('button', { name: 'Bring the kept file back' }).click()
  await expect(page.getByRole('img', { name: /Layer 1 from above, \d+ lines/ })).toBeVisible()
  await page.getByLabel('Layer', { exact: true }).fill('9')
  await expect(page.getByRole('img', { name: /Layer 9 from above/ })).toBeVisible()
  await expect(page.getByTestId('legend')).toContainText('air, no pull-back')
  await page.getByText('Filament', { exact: true }).click()
  await expect(page.getByText('never pulls the filament back')).toBeVisible()
})

test('seam: stacked starts are seen unrolled; and two files: the change that was meant and its cost', async ({
  page,
}) => {
  await choosePair(page, app.url, /Willow soft/, /Greenhouse/)
  await page.goto(`${app.url}/paths`)
  const stacked = save(
    'tie-1.gcode',
    partFile({ shape: 'round', width: 24, height: 5 }, { seamPlace: 'stacked' }),
  )
  const scattered = save(
    'tie-2.gcode',
    partFile({ shape: 'round', width: 24, height: 5 }, { seamPlace: 'scattered', outerSpeed: 20 }),
  )
  await page.setInputFiles('input[aria-label="G-code file"]', stacked)
  await page.getByText('Seam', { exact: true }).click()
  await expect(page.getByText(/^Stacked: starts cluster with strength/)).toBeVisible()
  await expect(page.locator('[data-finding="seam-stacked"]')).toContainText('start right above the one below')
  await page.setInputFiles('input[aria-label="G-code file"]', scattered)
  await expect(page.locator('[data-finding="seam-scattered"]')).toBeVisible()
  await page.getByText('Two files').click()
  await page.getByRole('region', { name: 'The paths' }).locator('input[type=file]').setInputFiles(stacked)
  await expect(page.locator('[data-differs="Speed, outer wall"]')).toContainText('20')
  await expect(page.locator('[data-differs="Loops starting above the one below"]')).toBeVisible()
  await expect(page.locator('[data-differs="Nozzle"]')).toHaveCount(0)
  await expect(page.getByRole('heading', { name: 'First layer from above' })).toBeVisible()
})

test('a hundred megabytes are read while the page goes on painting', async ({ page }) => {
  await choosePair(page, app.url, /Terracotta/, /Potting shed/)
  await page.goto(`${app.url}/paths`)
  await expect(page.getByTestId('drop')).toBeVisible()
  const text = partFile({ shape: 'round', width: 60, height: 16, copies: 2 }, {})
  await page.evaluate((t) => {
    ;(window as unknown as { piece: Blob }).piece = new Blob([t])
  }, text)
  await page.evaluate((length) => {
    const w = window as unknown as { piece: Blob; painted: Set<string>; longest: number }
    w.painted = new Set()
    w.longest = 0
    // what a person sees: every figure of the progress that was really painted
    const look = () => {
      const shown = document.querySelector('[data-testid=drop] .ant-progress')?.textContent
      if (shown) w.painted.add(shown)
      requestAnimationFrame(look)
    }
    requestAnimationFrame(look)
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) w.longest = Math.max(w.longest, e.duration)
    }).observe({ type: 'longtask' })
    const file = new File(
      Array.from({ length: Math.ceil(100_000_000 / length) }, () => w.piece),
      'large.gcode',
    )
    const data = new DataTransfer()
    data.items.add(file)
    document
      .querySelector('[data-testid=drop]:has([aria-label="G-code file"])')!
      .dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }))
  }, text.length)
  await expect(page.getByText('Reading large.gcode')).toBeVisible()
  await expect(page.getByText('By height')).toBeVisible()
  const { painted, longest } = await page.evaluate(() => {
    const w = window as unknown as { painted: Set<string>; longest: number }
    return { painted: w.painted.size, longest: w.longest }
  })
  test.info().annotations.push({ type: 'longest task of the page, ms', description: String(longest) })
  expect(painted).toBeGreaterThan(10)
})
