import { expect, test } from '@playwright/test'
import type { MeasurementRecord, Trial } from '@verimend/contract'
import { App } from './lib/app'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())
const get = async <T>(path: string) => (await (await fetch(`${app.url}/api/${path}`)).json()) as T
const send = async <T>(method: string, path: string, body: unknown) =>
  (await (
    await fetch(`${app.url}/api/${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
  ).json()) as T

test('readings noted while the network is away are kept, and sent when it is back; one that somebody overtook is shown', async ({
  browser,
}) => {
  const [{ id: machineId }] = await get<{ id: string }[]>('machines')
  const [{ id: filamentId }] = await get<{ id: string }[]>('filaments')
  const pair = await send<{ id: string }>('POST', 'pairs', { machineId, filamentId })
  const trial = await send<Trial>('POST', 'trials', {
    pairId: pair.id,
    plan: { piece: 'temperature-tower', steps: { key: 'nozzle', from: 200, to: 220, count: 3 } },
  })
  const [first, second] = trial.cells
  const phone = await browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true })
  const page = await phone.newPage()
  await page.goto(`${app.url}/trials/${trial.id}/read`)
  await expect(page.getByTestId('reader')).toHaveAttribute('data-cell', first.id)
  await phone.setOffline(true)
  await page.keyboard.press('1')
  await expect(page.getByTestId('kept-notes')).toContainText('1 kept here')
  await page.keyboard.press('ArrowRight')
  await expect(page.getByTestId('reader')).toHaveAttribute('data-cell', second.id)
  await page.keyboard.press('2')
  await expect(page.getByTestId('kept-notes')).toContainText('2 kept here')
  // meanwhile somebody at the other screen reads the second band
  const theirs = { grades: {}, measures: [], unsure: true, skipped: false, note: 'Looked at by lamp' }
  await send('PUT', `trials/${trial.id}/readings/${second.id}`, theirs)
  await phone.setOffline(false)
  await expect(page.getByTestId('kept-notes')).toContainText('1 could not be sent')
  const now = await get<Trial>(`trials/${trial.id}`)
  expect(Object.values(now.readings[first.id]!.grades)).toEqual([1])
  expect(now.readings[second.id]).toEqual(theirs)
  // both are in sight: mine in the note, theirs in the reader
  await page.getByTestId('kept-notes').click()
  const note = page.getByTestId('kept-note')
  await expect(note).toContainText('Somebody has noted another reading of this place meanwhile.')
  await note.getByRole('link', { name: 'See what stands there now' }).click()
  await expect(page.getByLabel('Comment on this place')).toHaveValue('Looked at by lamp')
  await page.getByTestId('kept-notes').click()
  await page.getByRole('button', { name: 'Send mine all the same' }).click()
  await expect(page.getByTestId('kept-notes')).toHaveCount(0)
  expect(Object.values((await get<Trial>(`trials/${trial.id}`)).readings[second.id]!.grades)).toEqual([2])
  await phone.close()
})

test('what is measured while the network is away waits as it was last typed, and is there when it is back', async ({
  browser,
}) => {
  const [{ id: machineId }] = await get<{ id: string }[]>('machines')
  const measured = { kind: 'feed', asked: 100, fed: [], steps: null }
  const { id } = await send<MeasurementRecord>('POST', 'measurements', {
    machineId,
    pairId: null,
    caseId: null,
    measured,
  })
  const phone = await browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true })
  const page = await phone.newPage()
  await page.goto(`${app.url}/measure/${id}`)
  const field = page.getByRole('region', { name: 'What was read' }).getByLabel('What was fed')
  await expect(field).toBeVisible()
  // what shows the notes comes with the page, a moment after it
  await page.waitForTimeout(4000)
  await phone.setOffline(true)
  for (const value of ['98.4', '98.1']) {
    await field.fill(value)
    await page.keyboard.press('Enter')
    await expect(page.getByTestId('kept-notes')).toContainText('1 kept here')
  }
  await page.waitForTimeout(700)
  await page.getByTestId('kept-notes').click()
  await expect(page.getByTestId('kept-note')).toContainText('What was measured')
  await page.keyboard.press('Escape')
  await phone.setOffline(false)
  await expect(page.getByTestId('kept-notes')).toHaveCount(0)
  const kept = await get<MeasurementRecord>(`measurements/${id}`)
  expect(kept.measured).toMatchObject({ fed: [98.4, 98.1] })
  // and what follows goes the usual way
  await field.fill('98.2')
  await page.keyboard.press('Enter')
  await expect
    .poll(async () => (await get<MeasurementRecord>(`measurements/${id}`)).measured)
    .toMatchObject({ fed: [98.4, 98.1, 98.2] })
  await phone.close()
})

test('code that cannot be fetched is said in its place; pages that were built anew are told; what was typed stays', async ({
  page,
}) => {
  await page.goto(`${app.url}/cases/new`)
  const part = page.getByLabel('Which part came out wrong?')
  await part.fill('Bracket of the trellis')
  await page.getByLabel('Its longest side, if you know it').fill('180')
  await page.getByRole('heading', { name: 'A new case' }).click()
  // the list of keys is gone from the server, which has another build of the pages
  await page.route('**/assets/KeyList-*.js', (route) => route.fulfill({ status: 404, body: '' }))
  await page.route(`${app.url}/`, async (route) => {
    const answer = await route.fetch()
    await route.fulfill({
      response: answer,
      body: (await answer.text()).replace(/index-[\w-]+\.js/, 'index-another.js'),
    })
  })
  await page.keyboard.press('?')
  const fault = page.getByRole('alert')
  await expect(fault).toContainText('The list of keys could not be fetched.')
  await expect(page.getByRole('heading', { name: 'A new case' })).toBeVisible()
  await expect(part).toHaveValue('Bracket of the trellis')
  const load = page.getByRole('button', { name: 'Verimend was renewed: load again' })
  await expect(load).toBeVisible()
  await page.unrouteAll()
  await load.click()
  await expect(part).toHaveValue('Bracket of the trellis')
  await expect(page.getByLabel('Its longest side, if you know it')).toHaveValue('180')
  await expect(load).toHaveCount(0)
  await page.getByRole('heading', { name: 'A new case' }).click()
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog')).toBeVisible()
})
