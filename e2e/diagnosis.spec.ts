import sharp from 'sharp'
import { expect, test, type Page } from '@playwright/test'
import { App } from './lib/app'
import { tabTo } from './lib/keys'
import { choosePair } from './lib/pair'
import { quiet } from './lib/settled'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

const sign = (page: Page, id: string, answer: string) =>
  page.locator(`[data-sign="${id}"]`).getByText(answer, { exact: true }).click()
test('size: a look, a check with its answers, a mend, closed with a summary; and it teaches until told not to', async ({
  page,
}) => {
  await choosePair(page, app.url, /Pond blue/, /Potting shed/)
  await page.keyboard.press('n')
  await page.getByLabel('Which part came out wrong?').fill('Valve knob')
  await page.keyboard.press('Enter')
  await page.getByText('where it is').click()
  await page.getByText('It measures wrong').click()
  await sign(page, 'outside-too-big', 'Seen')
  await sign(page, 'holes-too-small', 'Seen')
  await page.getByTestId('look').click()
  const next = page.getByRole('region', { name: 'The next step' })
  // both signs are in the balance, and what prints cost is known
  await expect(page.getByRole('region', { name: 'The balance' })).toContainText('2 seen')
  await quiet(page)
  const before = await next.getAttribute('data-step')
  expect(before).toMatch(/^look:|^check:|^trial:/)
  // what cannot be done is left out, and another step comes
  await next.getByRole('button', { name: 'I can’t do that' }).click()
  await expect(next).not.toHaveAttribute('data-step', before!)
  await next.getByText('1 left out: ask again').click()
  await expect(next).toHaveAttribute('data-step', before!)
  // a check from the other steps is answered
  await next.getByText('Other steps worth considering').click()
  await next
    .getByRole('button', { name: /^(Trial print|Check): (Size plate|Flow box|Measure with calipers)/ })
    .first()
    .click()
  await next.locator('[data-about]').first().getByText('It is so').click()
  await next.getByRole('button', { name: 'Note what it showed' }).click()
  await expect(page.getByRole('list', { name: 'What checks showed' })).toContainText('it is so')
  await page
    .getByRole('button', { name: 'Change it and open an attempt' })
    .or(page.getByRole('button', { name: 'I will do this' }))
    .click()
  for (const s of ['outside-too-big', 'holes-too-small'])
    await page.locator(`[data-outcome="${s}"]`).getByText('Gone').click()
  await page.getByRole('button', { name: 'Record attempt 1' }).click()
  await page.getByRole('button', { name: 'Close the case' }).click()
  await expect(page.locator('[data-entry="kept"]')).toContainText('Kept:')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Summary as Markdown' }).click(),
  ])
  expect(download.suggestedFilename()).toBe('case.md')
  await page.getByRole('checkbox', { name: 'Learn from this case' }).click()
  await expect(page.getByRole('checkbox', { name: 'Learn from this case' })).not.toBeChecked()
  await page.reload()
  await expect(page.getByRole('checkbox', { name: 'Learn from this case' })).not.toBeChecked()
  await page.goto(`${app.url}/cases`)
  await expect(page.getByRole('region', { name: 'What worked here' })).toContainText('Size')
  await page.getByLabel('Cases of a kind of fault').click()
  await page.locator('.ant-select-item-option[title="Banding and finish"]').click()
  await expect(page.getByTestId('case')).toHaveCount(1)
})

test('first layer, by keyboard alone: from new case to closed', async ({ page }) => {
  await choosePair(page, app.url, /Terracotta/, /Greenhouse/)
  await page.keyboard.press('n')
  await expect(page.getByLabel('Which part came out wrong?')).toBeFocused()
  await page.keyboard.type('Tray label')
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('The part')).toHaveValue('Tray label')
  // to the family of faults, then to the sign
  await tabTo(page, /Strings and debris/)
  await page.keyboard.press('ArrowRight')
  await expect(page.locator('[data-sign="first-layer-gaps"]')).toBeVisible()
  await page.locator('[data-sign="first-layer-gaps"] input').first().focus()
  await page.keyboard.press('Space')
  await expect(page.locator('[data-sign="first-layer-gaps"] [data-on]')).toHaveText('Seen')
  await tabTo(page, /It is (not )?there|Note what it showed|Take it up below|I can’t do that/)
  await tabTo(page, /Change it and open an attempt|I will do this/)
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-entry="attempt-1"]')).toBeVisible()
  await page.locator('[data-outcome="first-layer-gaps"] input').first().focus()
  await page.keyboard.press('Space')
  await tabTo(page, /Record attempt 1/)
  await page.keyboard.press('Enter')
  await tabTo(page, /Close the case/)
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-entry="kept"]')).toContainText('Kept:')
})

/** A part in one colour on a bench, 640 × 480, as a camera might save it. */
const picture = (flare: number) =>
  sharp({ create: { width: 640, height: 480, channels: 3, background: '#c9b99a' } })
    .composite([
      {
        input: { create: { width: 240, height: 300, channels: 3, background: '#2e5f7a' } },
        left: 200,
        top: 80,
      },
      {
        input: { create: { width: 240 + 2 * flare, height: 20, channels: 3, background: '#2e5f7a' } },
        left: 200 - flare,
        top: 370,
      },
    ])
    .jpeg()
    .toBuffer()

for (const way of [
  {
    family: 'stringing',
    filament: /Fern/,
    machine: /Potting shed/,
    place: 'Holes and gaps',
    seen: ['strings-thin'],
  },
  {
    family: 'first layer',
    filament: /Slate/,
    machine: /Greenhouse/,
    place: 'At the base',
    seen: ['first-layer-uneven', 'first-layer-not-sticking'],
  },
  {
    family: 'seam',
    filament: /Terracotta/,
    machine: /Greenhouse/,
    place: 'Where loops start',
    seen: ['seam-blob'],
  },
  {
    family: 'banding',
    filament: /Bark/,
    machine: /Greenhouse/,
    place: 'At one height',
    seen: ['bands-irregular', 'missing-layers'],
  },
])
  test(`${way.family}: from where it is, by a check, to closed with before and after`, async ({ page }) => {
    await choosePair(page, app.url, way.filament, way.machine)
    await page.keyboard.press('n')
    await page.getByLabel('Which part came out wrong?').fill(`Part for ${way.family}`)
    await page.getByTestId('places').getByText(way.place).click()
    await page.getByRole('button', { name: 'Begin' }).click()
    for (const s of way.seen) await sign(page, s, 'Seen')
    await page.getByTestId('look').click()
    const photo = (name: string, buffer: Buffer) =>
      page.setInputFiles('input[aria-label="Choose photos"]', { name, mimeType: 'image/jpeg', buffer })
    await photo('before.jpg', await picture(40))
    await expect(page.getByRole('button', { name: 'Open the photo before any change' })).toBeVisible()
    // a check or a trial, wherever it stands in the order
    const next = page.getByRole('region', { name: 'The next step' })
    if (!/^(check|trial):/.test((await next.getAttribute('data-step')) ?? '')) {
      await next.getByText('Other steps worth considering').click()
      await next
        .getByRole('button', { name: /^(Trial print|Check): / })
        .first()
        .click()
    }
    const about = next.locator('[data-about]').first()
    const suspect = await about.getAttribute('data-about')
    await about.getByText('It is so').click()
    await next.getByRole('button', { name: 'Note what it showed' }).click()
    await expect(page.getByRole('list', { name: 'What checks showed' })).toContainText('it is so')
    await expect(page.locator('[data-suspect]').first()).toHaveAttribute('data-suspect', suspect!)
    await page.getByRole('button', { name: /Change it and open an attempt|I will do this/ }).click()
    for (const s of way.seen) await page.locator(`[data-outcome="${s}"]`).getByText('Gone').click()
    for (const side of await page.locator('[data-side-effect]').all())
      await side.getByText('Not there').click()
    await page.getByRole('button', { name: 'Record attempt 1' }).click()
    await photo('after.jpg', await picture(0))
    await expect(page.getByRole('button', { name: 'Open the photo after attempt 1' })).toBeVisible()
    await page.getByRole('button', { name: 'Before and after' }).click()
    await expect(page.getByRole('figure', { name: 'Before and after' })).toBeVisible()
    await page.getByText('Compare any two prints').click()
    await expect(page.getByTestId('compare-attempts')).toContainText('Signs seen')
    await page.getByRole('button', { name: 'Close the case' }).click()
    await expect(page.locator('[data-entry="kept"]')).toContainText('Kept:')
    const [paper] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Summary as PDF' }).click(),
    ])
    expect(paper.suggestedFilename()).toBe('case.pdf')
  })

test('a photo is marked and measured', async ({ page }) => {
  await page.goto(`${app.url}/cases`)
  await page.getByTestId('case').getByRole('link', { name: 'Part for seam' }).click()
  await page.getByRole('button', { name: 'Open the photo before any change' }).click()
  const canvas = page.getByTestId('marking')
  const drag = async (x1: number, y1: number, x2: number, y2: number) => {
    await canvas.click({ trial: true }) // waits until the picture stands still
    const box = (await canvas.boundingBox())!
    await page.mouse.move(box.x + x1 * box.width, box.y + y1 * box.height)
    await page.mouse.down()
    await page.mouse.move(box.x + x2 * box.width, box.y + y2 * box.height, { steps: 3 })
    await page.mouse.up()
  }
  await drag(0.3, 0.8, 0.36, 0.8)
  await expect(canvas).toHaveAccessibleName('1 marks on the photo')
  await page.getByText('Length', { exact: true }).click()
  await drag(0.3125, 0.5, 0.6875, 0.5) // the body, 240 px wide
  await expect(canvas).toHaveAccessibleName('2 marks on the photo')
  await page.getByLabel('Length of the last line, mm').fill('24')
  await page.getByRole('button', { name: 'Set the scale by it' }).click()
  await expect(canvas).toContainText('24')
  await drag(0.25, 0.9, 0.75, 0.9) // half the picture is 32 mm
  await expect(canvas).toContainText(/3[12]/)
  await page.reload()
  await page.getByRole('button', { name: 'Open the photo before any change' }).click()
  await expect(canvas).toHaveAccessibleName('3 marks on the photo')
})
