import { expect, test } from '@playwright/test'
import { execFile, spawn } from 'node:child_process'
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs'
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

test('a restore that is killed is never served: the start says so, and the restore can be run again, into a folder that was in use before as well', async () => {
  const file = join(away, 'copy.tar.gz')
  expect(await run('backup.mjs', file, '--data', app.folder)).toMatchObject({ code: 0 })
  const folder = join(away, 'begun')
  const bench = new App(['--no-demo'], folder)
  await bench.start()
  await bench.stop()
  const mark = join(folder, 'restoring')
  // once as soon as it writes, once when files have come
  for (const [round, moment] of [mark, join(folder, 'files')].entries()) {
    const half = spawn(process.execPath, [join(root, 'scripts/restore.mjs'), file, '--data', folder], {
      stdio: 'ignore',
      detached: true,
    })
    await expect.poll(() => existsSync(mark) && existsSync(moment), { intervals: [5] }).toBe(true)
    process.kill(-half.pid!, 'SIGKILL')
    await expect(bench.start(), `round ${round}`).rejects.toThrow('Run the restore again')
  }
  const again = await run('restore.mjs', file, '--data', folder)
  expect([again.code, again.said]).toEqual([0, expect.stringContaining('Restored as it was')])
  // what was there before and what came half is set aside, not gone
  expect(readdirSync(folder).filter((name) => name.startsWith('mariadb-aside-')).length).toBeGreaterThan(0)
  await bench.start()
  for (const path of ['cases', 'pairs', 'filaments', 'machines', 'parts', 'links'])
    expect(await (await fetch(`${bench.url}/api/${path}`)).json()).toEqual(
      await (await fetch(`${app.url}/api/${path}`)).json(),
    )
  await bench.stop()
})
