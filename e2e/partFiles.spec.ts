import { expect, test } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { App } from './lib/app'
import { block, changed, figures, number, openPart, putIn, save, trySetting, withPair } from './lib/part'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

test('an overhang that is given support: carried patches, grams more; one left bare again', async ({
  page,
}) => {
  await withPair(app, page, 'Fern')
  await page.goto(`${app.url}/parts`)
  // a plate on a leg
  const leg = block(8, 20, 14)
  const plate = block(44, 20, 2).replace(
    /vertex (\S+) (\S+) (\S+)/g,
    (_, x, y, z) => `vertex ${x} ${y} ${Number(z) + 13}`,
  )
  await putIn(
    page,
    save(app, 'shelf.stl', leg.replace('endsolid block\n', '') + plate.replace('solid block\n', '')),
  )
  await page.waitForURL(/parts\/[0-9a-f-]{36}$/)
  await expect(page.getByTestId('figures')).toBeVisible()
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
  await expect(patch).toBeVisible()
  const carried = (await figures(page, 'grams'))[1]
  await patch.click()
  await expect(page.getByRole('button', { name: /not carried$/ })).toHaveCount(1)
  await expect.poll(async () => number((await figures(page, 'grams'))[1])).toBeLessThan(number(carried))
})

test('a single-wall spiral left on is caught; G-code taken to Paths reads the same', async ({ page }) => {
  await withPair(app, page, 'Pond')
  await openPart(app, page, 'Vent hinge', 'spiral:true')
  await expect(page.getByRole('alert')).toContainText('one outline in each layer')
  await openPart(app, page, 'Hose coupling', 'spiral:true')
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
  await openPart(app, page, 'Hose coupling')
  await expect(page.getByRole('region', { name: 'Where it was used' })).toContainText('Taken to print')
})

test('files that are none: a sentence each, and the screen goes on; faces inside out are turned', async ({
  page,
}) => {
  await page.goto(`${app.url}/parts`)
  const alert = page.getByRole('alert')
  for (const [name, content, sentence] of [
    ['empty.stl', '', 'The file is empty'],
    ['foreign.stl', 'G28\nG1 X5 Y5 E1\n', 'cannot be read as a 3D model'],
    ['one.stl', block(5, 5, 5, { faces: 1 }), 'no inside'],
    ['nan.stl', block(5, 5, 5).replace('vertex 5 0 0', 'vertex nan 0 0'), 'Line 13'],
    ['flat.stl', block(20, 20, 0), 'no inside'],
    ['cut.stl', Uint8Array.from({ length: 400 }, (_, i) => (i === 80 ? 50 : i > 83 ? 7 : 0)), 'too soon'],
  ] as const) {
    await putIn(page, save(app, name, content))
    await expect(alert).toContainText(sentence)
    await alert.getByRole('button', { name: 'Dismiss' }).click()
    await expect(alert).toHaveCount(0)
  }
  // twenty millimetres drawn in metres
  await putIn(page, save(app, 'small_block.stl', block(0.02, 0.02, 0.02)))
  await page.getByRole('button', { name: /^metre: 20/ }).click()
  await page.waitForURL(/parts\/[0-9a-f-]{36}$/)
  await expect(page.getByLabel('The part’s name')).toHaveValue('small block')
  await expect(page.getByText('20 × 20 × 20 mm')).toBeVisible()
  await page.goto(`${app.url}/parts`)
  await putIn(page, save(app, 'turned.stl', block(30, 20, 10, { inside: true })))
  await page.waitForURL(/parts\/[0-9a-f-]{36}$/)
  await expect(page.getByTestId('figures')).toBeVisible()
  await expect(page.getByText('6 cm³')).toBeVisible()
  // wider than the bed: said, with the scale that fits
  await page.goto(`${app.url}/parts`)
  await putIn(page, save(app, 'wide.stl', block(400, 30, 5)))
  await page.waitForURL(/parts\/[0-9a-f-]{36}$/)
  await expect(page.getByText('It is too large for this machine')).toBeVisible()
  await page.getByRole('button', { name: /^Make it fit/ }).click()
  await expect(page.getByTestId('figures')).toBeVisible()
})

test('a mend in a case is seen on its part, with the change set; work that is cancelled stops, and goes on when asked to', async ({
  page,
}) => {
  const { cases } = (await (await fetch(`${app.url}/api/cases`)).json()) as {
    cases: { id: string; part: string }[]
  }
  await page.goto(`${app.url}/cases/${cases.find((c) => c.part === 'Sensor hood')!.id}`)
  await page.getByRole('link', { name: 'See it on the part' }).first().click()
  await page.waitForURL(/parts\/.*change=/)
  // what is tried takes a while: it is ended, stays so, and goes on when it is asked to
  const laying = page.getByRole('status').filter({ hasText: 'Laying it with the change' })
  await laying.getByRole('button', { name: 'Cancel' }).click()
  await expect(laying).toContainText('was ended')
  await page.waitForTimeout(1500)
  await expect(laying).toContainText('was ended')
  await laying.getByRole('button', { name: 'Go on' }).click()
  await changed(page)
})

test('a part that is planned otherwise for a case is the case’s attempt; its 3D model speaks there', async ({
  page,
}) => {
  const of = async <T>(path: string, init?: RequestInit) =>
    (await (await fetch(`${app.url}/api/${path}`, init)).json()) as T
  const sent = (method: string, body: object) => ({
    method,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  })
  const parts = await of<{ id: string; name: string }[]>('parts')
  const hinge = parts.find((p) => p.name === 'Vent hinge')!
  await withPair(app, page, 'Morning')
  await openPart(app, page, 'Vent hinge', 'brimLines:6')
  await changed(page)
  const pairId = (await page.evaluate(() => localStorage.getItem('verimend.pair'))) ?? ''
  const [pair] = (await of<{ id: string }[]>('pairs')).filter((p) => p.id === pairId)
  const kase = await of<{ id: string }>(
    'cases',
    sent('POST', { pairId: pair.id, part: 'Hinge on the door', partId: hinge.id }),
  )
  for (const sign of ['moving-parts-fused', 'corners-lift'])
    await of(`cases/${kase.id}/signs/${sign}`, sent('PUT', { state: 'present' }))
  await page.reload()
  await changed(page)
  await page.getByRole('button', { name: 'Take it to print' }).click()
  await page.getByRole('menuitem', { name: /Hinge on the door/ }).click()
  await expect(page.getByText(/This plan is attempt 1 of the case/)).toBeVisible()
  await page.goto(`${app.url}/cases/${kase.id}`)
  const attempt = page.locator('[data-entry="attempt-1"]')
  await expect(attempt).toContainText('Brim lines')
  await expect(attempt).toContainText('Changed for this part when it was planned.')
  await expect(page.getByRole('list', { name: 'What its 3D model says' })).toContainText(
    /moving pieces are 0\.\d+\smm apart/,
  )
})

test('on a phone nothing is cut, and a part can be read', async ({ page }) => {
  await withPair(app, page, 'Morning')
  await page.setViewportSize({ width: 390, height: 844 })
  await openPart(app, page, 'Vent hinge', 'brimLines:8')
  await changed(page)
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390)
})
