import { expect, test } from '@playwright/test'
import { execFile } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { App } from './lib/app'

const root = join(fileURLToPath(import.meta.url), '..', '..')
const away = mkdtempSync(join(tmpdir(), 'verimend-keep-'))
const app = new App()
test.describe.configure({ mode: 'serial' })
test.beforeAll(() => app.start())
test.afterAll(async () => {
  await app.end()
  rmSync(away, { recursive: true, force: true })
})
const run = (script: string, ...args: string[]) =>
  new Promise<{ code: number; said: string }>((resolve) =>
    execFile(process.execPath, [join(root, 'scripts', script), ...args], { cwd: root }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, said: out + err }),
    ),
  )

test('a case that was removed is brought back from the storeroom, as it was', async ({ page }) => {
  await page.goto(`${app.url}/cases`)
  await page.getByRole('button', { name: 'Remove Vent hinge' }).click()
  await expect(page.getByTestId('case').filter({ hasText: 'Vent hinge' })).toHaveCount(0)
  await page.getByRole('link', { name: 'Storeroom' }).click()
  const row = page.getByTestId('removed').filter({ hasText: 'Vent hinge' })
  await expect(row).toContainText('in 30 days')
  await page.getByRole('button', { name: 'Bring Vent hinge back' }).click()
  await expect(page.getByText('Nothing. What is removed anywhere waits here for thirty days.')).toBeVisible()
  await page.getByRole('link', { name: 'Cases' }).click()
  await page.getByRole('link', { name: 'Vent hinge' }).click()
  await expect(page.getByLabel('The part')).toHaveValue('Vent hinge')
  await expect(page.locator('[data-entry="told"]')).toContainText('.gcode')
})

test('a backup made by hand while it runs, put back into a new folder, is the same bench', async ({
  page,
}) => {
  await page.goto(`${app.url}/storeroom`)
  await page.getByRole('button', { name: 'Make one now' }).click()
  await expect(page.getByTestId('backup')).toHaveCount(1)
  const [copy] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Save a copy' }).click(),
  ])
  const fetched = join(away, 'fetched.tar.gz')
  await copy.saveAs(fetched)
  // and one from the command line, whose folder has a space and an umlaut
  const file = join(away, 'Gärtner’s copy.tar.gz')
  const made = await run('backup.mjs', file, '--data', app.folder)
  expect(made).toMatchObject({ code: 0 })
  expect(made.said).toContain('files and the database')

  const folder = join(away, 'new bench')
  const restored = await run('restore.mjs', fetched, '--data', folder)
  expect(restored).toMatchObject({ code: 0 })
  expect(restored.said).toContain('each checked')
  const other = new App([], folder)
  await other.start()
  try {
    for (const path of ['cases', 'pairs', 'filaments', 'machines', 'parts', 'removed', 'links'])
      expect(await (await fetch(`${other.url}/api/${path}`)).json()).toEqual(
        await (await fetch(`${app.url}/api/${path}`)).json(),
      )
    // not over what is there, and not while it runs
    const over = await run('restore.mjs', file, '--data', folder)
    expect([over.code, over.said]).toEqual([1, expect.stringContaining('Verimend is running on')])
  } finally {
    await other.stop()
  }
  const over = await run('restore.mjs', file, '--data', folder)
  expect([over.code, over.said]).toEqual([
    1,
    expect.stringContaining('machines and rolls in this data folder already'),
  ])
  expect((await run('restore.mjs', join(root, 'package.json'), '--data', join(away, 'none'))).said).toContain(
    'This is no backup of Verimend.',
  )
})
