import { expect, test, type Page } from '@playwright/test'
import { App } from './lib/app'
import { restingFaultsOf } from './lib/faults'
import { pressByTab, tabTo } from './lib/keys'
import { choosePair } from './lib/pair'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

const begin = async (page: Page, kind: string) => {
  await page.goto(`${app.url}/measure`)
  await page.locator(`[data-kind="${kind}"]`).click()
  await page.waitForURL(/measure\/[0-9a-f-]{36}$/)
}
const says = (page: Page) => page.getByRole('region', { name: 'What it says' })
const type = async (page: Page, value: string) => {
  await page.getByLabel('What it measures').fill(value)
  await page.keyboard.press('Enter')
}
const noFaults = async (page: Page) => expect(await restingFaultsOf(page)).toEqual([])

test('a soft cube of 19.6 × 19.6 × 20.0 on a phone: scale 102.04 % in X and Y, none in Z, kept with its ±', async ({
  page,
}) => {
  await choosePair(page, app.url, /Willow/, /Greenhouse/)
  await page.setViewportSize({ width: 390, height: 844 })
  await begin(page, 'sizes')
  await page.getByRole('button', { name: 'A cube of this side' }).click()
  for (const v of ['19,6', '19.6', '20.0', '19.6', '19.6', '20.0']) await type(page, v)
  await expect(says(page)).toContainText('102.04')
  await expect(says(page)).toContainText('Soft plastic shrinks')
  await noFaults(page)
  // nothing that was typed is lost on a reload
  const [record] = /[0-9a-f-]{36}$/.exec(new URL(page.url()).pathname)!
  await expect
    .poll(async () => {
      const { measured } = (await (await fetch(`${app.url}/api/measurements/${record}`)).json()) as {
        measured: { readings: { measures: number[] }[] }
      }
      return measured.readings.flatMap((r) => r.measures).length
    })
    .toBe(6)
  await page.reload()
  await expect(page.locator('[data-size="x"]')).toContainText('19.6')
  await page.getByRole('button', { name: /^Take into version/ }).click()
  await expect(says(page)).toContainText('In the recipe as version')
  await page.goto(`${app.url}/recipes`)
  await expect(page.locator('[data-setting="scaleX"]').first()).toContainText('102.04')
  await expect(page.locator('[data-setting="scaleZ"]').first()).not.toContainText('102')
  const wide = await page.evaluate(() => document.documentElement.scrollWidth)
  expect(wide).toBeLessThanOrEqual(390)
})

test('a tilted bed from a case: nine felt gaps, turns for each screw, noted on the machine; the balance follows', async ({
  page,
}) => {
  await choosePair(page, app.url, /Terracotta/, /Potting shed/)
  await page.goto(`${app.url}/cases/new`)
  await page.getByLabel('Which part came out wrong?').fill('Seed tray')
  await page.getByRole('button', { name: 'Begin' }).click()
  await page.waitForURL(/cases\/[0-9a-f-]{36}$/)
  const address = page.url()
  const { pairs, machines } = await page.evaluate(async () => ({
    pairs: (await (await fetch('/api/pairs')).json()) as { id: string; machineId: string }[],
    machines: (await (await fetch('/api/machines')).json()) as { id: string; machine: { name: string } }[],
  }))
  const shed = machines.find((m) => m.machine.name === 'Potting shed')!.id
  expect(pairs.some((p) => p.machineId === shed)).toBe(true)
  await page.evaluate(async (id) => {
    await fetch(`/api/cases/${id}/signs/first-layer-uneven`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ state: 'present' }),
    })
  }, address.split('/').at(-1)!)
  await begin(page, 'bed')
  // a feeler gauge on the left and right, paper in the middle: the left is high
  await expect(page.locator('[data-place]')).toHaveCount(9)
  for (const place of await page.locator('[data-place]').all()) {
    const x = Number((await place.getAttribute('data-place'))!.split(',')[0])
    if (x > 80 && x < 140) await place.getByText('drags', { exact: true }).click()
    else {
      await place.getByLabel(/^Measured gap/).fill(x < 80 ? '0,02' : '0.19')
      await page.keyboard.press('Enter')
    }
  }
  await expect(says(page)).toContainText(/Back left: .* turn anticlockwise/)
  await expect(says(page)).toContainText(/right: leave as it is/)
  await noFaults(page)
  await page.goto(address)
  const tilted = page.locator('[data-suspect="bed-tilted"]')
  await expect(tilted).toBeVisible()
  const before = Number((await tilted.innerText()).match(/(\d+)\s*%/)![1])
  expect(before).toBeGreaterThan(60)
  await page.goto(`${app.url}/measure`)
  await page.getByTestId('measurements').getByRole('link', { name: 'The bed' }).first().click()
  await page.getByRole('button', { name: /I turned the screws/ }).click()
  await expect(says(page)).toContainText('noted on the machine')
  const machine = await page.evaluate(
    async (id) =>
      ((await (await fetch('/api/machines')).json()) as { id: string; machine: { bed: object } }[]).find(
        (m) => m.id === id,
      )!.machine.bed,
    shed,
  )
  expect(machine).toMatchObject({ printsSinceLevel: 0 })
})

test('bands on a photo: straightened by a known rectangle, the screw’s turn is found and speaks in the balance', async ({
  page,
}) => {
  await choosePair(page, app.url, /Terracotta/, /Potting shed/)
  await begin(page, 'bands')
  await page.getByRole('button', { name: 'From a photo' }).click()
  // a face of 30 × 60 mm at a slant, with bands every 8 mm, drawn here
  const corners = [
    [90, 60],
    [300, 75],
    [290, 520],
    [100, 505],
  ]
  const picture = await page.evaluate((at) => {
    const canvas = document.createElement('canvas')
    canvas.width = 400
    canvas.height = 600
    const ink = canvas.getContext('2d')!
    const image = ink.createImageData(400, 600)
    // bilinear is near enough to the perspective of so small a slant: bands run along v
    for (let y = 0; y < 600; y++)
      for (let x = 0; x < 400; x++) {
        const top = at[0][1] + ((x - 90) / 210) * (at[1][1] - at[0][1])
        const bottom = at[3][1] + ((x - 100) / 190) * (at[2][1] - at[3][1])
        const v = ((y - top) / (bottom - top)) * 60
        const light = 130 + 45 * Math.sin((2 * Math.PI * v) / 8) + ((x * 7919 + y * 104729) % 23)
        const i = 4 * (y * 400 + x)
        image.data.set([light, light, light, 255], i)
      }
    ink.putImageData(image, 0, 0)
    return canvas.toDataURL('image/png').split(',')[1]
  }, corners)
  await page.getByLabel('Photo of bands').setInputFiles({
    name: 'bands.png',
    mimeType: 'image/png',
    buffer: Buffer.from(picture, 'base64'),
  })
  await page.getByLabel('Its first side').fill('30')
  await page.getByLabel('Its second side').fill('60')
  const photo = page.getByTestId('photo')
  await expect(photo).toBeVisible()
  const box = (await photo.boundingBox())!
  const click = (x: number, y: number) =>
    photo.click({ position: { x: (x / 400) * box.width, y: (y / 600) * box.height } })
  for (const [x, y] of corners) await click(x, y)
  await click(195, 85)
  await click(195, 495)
  await page.getByRole('button', { name: 'Read along the line' }).click()
  const take = page.getByRole('button', { name: /^Take \d/ })
  await expect(take).toBeVisible()
  const found = Number((await take.innerText()).match(/[\d.]+/)![0])
  expect(Math.abs(found / 8 - 1)).toBeLessThan(0.03)
  await noFaults(page)
  await take.click()
  await expect(says(page)).toContainText(/One turn of the Z screw fits/)
  // what is no picture is said in one sentence
  await page
    .getByLabel('Photo of bands')
    .setInputFiles({ name: 'x.jpg', mimeType: 'image/jpeg', buffer: Buffer.from('no picture') })
  await expect(page.getByRole('alert').first()).toContainText('This is no picture that can be read here')
})

/** Chooses in a row of the sizes, by the field's name. */
const choose = async (page: Page, row: number, field: string, option: string) => {
  await page.getByTestId('sizes').locator('tbody tr').nth(row).getByLabel(field, { exact: true }).click()
  await page
    .locator('.ant-select-dropdown:visible .ant-select-item-option-content')
    .getByText(option, { exact: true })
    .click()
}
/** Sizes of one's own, all alike but for their length. */
const drawn = async (page: Page, row: number, length: number) => {
  const field = page.getByTestId('sizes').locator('tbody tr').nth(row).getByLabel('Drawn')
  await field.fill(String(length))
  await field.press('Tab')
}
/** One more row; a tap that falls into the moment in which a sheet above grows is made again. */
const another = async (page: Page) => {
  const rows = page.getByTestId('sizes').locator('tbody tr')
  const before = await rows.count()
  await expect(async () => {
    if ((await rows.count()) === before) await page.getByRole('button', { name: 'Another size' }).click()
    await expect(rows).toHaveCount(before + 1, { timeout: 2000 })
  }).toPass()
}

test('holes too small on a phone: outsides right, insides small alike: the hole offset, with its ±, and a wall is not asked for', async ({
  page,
}) => {
  await choosePair(page, app.url, /Morning dew/, /Greenhouse/)
  await page.setViewportSize({ width: 390, height: 844 })
  await begin(page, 'sizes')
  await page.getByRole('button', { name: 'Sizes of my own' }).click()
  const outside = [20, 40, 60]
  const inside = [6, 10, 16]
  for (const [i, length] of outside.entries()) {
    if (i) await another(page)
    await drawn(page, i, length)
  }
  for (const [i, length] of inside.entries()) {
    await another(page)
    if (!i) await choose(page, 3, 'Kind', 'inside')
    await drawn(page, 3 + i, length)
  }
  // two rounds, as the list asks for them
  for (const off of [0.01, -0.01])
    for (const v of [...outside.map((l) => l + off), ...inside.map((l) => l - 0.3 + off)])
      await type(page, v.toFixed(2))
  await expect(says(page)).toContainText(/The holes: −0\.3 /)
  await expect(says(page)).not.toContainText('Measure a wall')
  await noFaults(page)
  await page.getByRole('button', { name: /^Take into version/ }).click()
  await expect(says(page)).toContainText('In the recipe as version')
  await page.goto(`${app.url}/recipes`)
  await expect(page.locator('[data-setting="holeOffset"]').first()).toContainText('0.15')
})

test('one axis in proportion: the steps of the machine, not the recipe; noted, and the list says so', async ({
  page,
}) => {
  await choosePair(page, app.url, /Morning dew/, /Greenhouse/)
  await begin(page, 'sizes')
  await page.getByRole('button', { name: 'Sizes of my own' }).click()
  const lengths = [20, 50, 90]
  for (const [i, length] of lengths.entries()) {
    if (i) await another(page)
    await drawn(page, i, length)
  }
  for (const [i, length] of lengths.entries()) {
    await another(page)
    if (!i) await choose(page, 3, 'Along', 'Y')
    await drawn(page, 3 + i, length)
  }
  for (const off of [0.01, -0.01])
    for (const v of [...lengths.map((l) => l * 1.01 + off), ...lengths.map((l) => l + off)])
      await type(page, v.toFixed(2))
  await expect(page.getByLabel('For the machine')).toContainText(/steps of X by 0\.990/)
  await expect(page.getByRole('button', { name: /^Take into version/ })).toHaveCount(0)
  await page.getByRole('button', { name: 'I corrected the steps: note it' }).click()
  await expect(says(page)).toContainText('The corrected steps are noted.')
  await page.goto(`${app.url}/measure`)
  await expect(page.getByTestId('measurements')).toContainText('steps corrected')
})

test('fused joints in a case on a phone: the ladder of two kinds, graded, gives the contour offset; kept, and the case knows', async ({
  page,
}) => {
  await choosePair(page, app.url, /Morning dew/, /Greenhouse/)
  await page.setViewportSize({ width: 390, height: 844 })
  await page.goto(`${app.url}/cases/new`)
  await page.getByLabel('Which part came out wrong?').fill('Hinged lid')
  await page.getByRole('button', { name: 'Begin' }).click()
  await page.waitForURL(/cases\/[0-9a-f-]{36}$/)
  const address = page.url()
  await page.evaluate(
    (id) =>
      fetch(`/api/cases/${id}/signs/moving-parts-fused`, {
        method: 'PUT',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ state: 'present' }),
      }),
    address.split('/').at(-1)!,
  )
  await page.goto(`${app.url}/trials/new/joint-ladder?case=${address.split('/').at(-1)}`)
  await page.getByLabel('Upright tongue').check()
  await page.getByLabel('Lying tongue').check()
  await noFaults(page)
  await page.getByRole('button', { name: 'Make this trial' }).click()
  await page.waitForURL(/trials\/[0-9a-f-]{36}$/)
  await page.getByRole('button', { name: 'Read the printed piece' }).click()
  await page.waitForURL(/\/read/)
  const reader = page.getByTestId('reader')
  await expect(reader.locator('svg [data-cell]').first()).toBeVisible()
  const count = await reader.locator('svg [data-cell]').count()
  expect(count).toBeGreaterThan(14)
  // each is tried by hand: from 0.3 mm on it moves, from 0.4 mm on by itself
  for (let k = 0; k < count; k++) {
    const gap = Number((await reader.locator('h1 + p').innerText()).replace(/[^\d.].*/, ''))
    const grade = gap > 0.35 ? 4 : gap > 0.25 ? 3 : 1
    await page
      .locator('[data-criterion="free"] label')
      .nth(4 - grade)
      .click()
    await page.getByTestId('readnav').getByRole('button').last().click()
  }
  await page.waitForURL(/trials\/[0-9a-f-]{36}$/)
  const outcome = page.getByRole('region', { name: 'What comes of it' })
  await expect(outcome).toContainText(/The smallest gap that moves is 0\.3/)
  await expect(outcome).toContainText(/Lying tongue: leave 0\.\d+/)
  await outcome.getByRole('button', { name: 'Take into the recipe' }).click()
  await expect(outcome).toContainText('See the recipe')
  await page.goto(`${app.url}/recipes`)
  await expect(page.locator('[data-setting="contourOffset"]').first()).toContainText('−0.05')
  // what the trial found is what the case tries next, and it closes on it
  await page.goto(address)
  await expect(page.locator('[data-suspect]').first()).toBeVisible()
  await expect(page.getByTestId('now')).toContainText(/Attempt 1: print version \d+/)
  const attempt = page.locator('[data-entry="attempt-1"]')
  await expect(attempt).toContainText('Found by a trial.')
  await attempt.getByRole('radio', { name: 'Gone' }).first().check({ force: true })
  await attempt.getByRole('button', { name: 'Record attempt 1' }).click()
  await page.getByRole('button', { name: 'Close the case' }).click()
  await expect(page.locator('[data-entry="kept"]')).toContainText(/Kept: version \d+/)
  const wide = await page.evaluate(() => document.documentElement.scrollWidth)
  expect(wide).toBeLessThanOrEqual(390)
})

test('a measurement by keyboard alone: begun, typed, taken into the recipe', async ({ page }) => {
  await choosePair(page, app.url, /Moss/, /Greenhouse/)
  await page.keyboard.press('g')
  await page.keyboard.press('e')
  await expect(page).toHaveURL(/\/measure$/)
  await pressByTab(page, /Sizes/)
  await page.waitForURL(/measure\/[0-9a-f-]{36}$/)
  await pressByTab(page, /A cube of this side/)
  await tabTo(page, /What it measures/)
  for (const v of ['19.7', '19.7', '20.0', '19.7', '19.7', '20.0']) {
    const input = page.getByLabel('What it measures')
    await expect(input).toBeFocused()
    await expect(input).toHaveValue('')
    await page.keyboard.type(v)
    await expect(input).toHaveValue(v)
    await page.keyboard.press('Enter')
  }
  await expect(says(page)).toContainText('101.5')
  await pressByTab(page, /Take into version/)
  await expect(says(page)).toContainText('In the recipe as version')
})
