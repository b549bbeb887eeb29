import { expect, test } from '@playwright/test'
import { spawn, type ChildProcess } from 'node:child_process'
import { rmSync } from 'node:fs'
import { change, scratchCheckout } from './lib/checkout'
import { quiet } from './lib/settled'

// a developer's start, in a copy of the checkout: it is changed there
let folder = ''
let dev: ChildProcess
let said = ''
test.beforeAll(() => {
  folder = scratchCheckout()
  dev = spawn(process.execPath, ['scripts/dev.mjs', '--no-demo'], {
    cwd: folder,
    stdio: ['ignore', 'pipe', 'pipe'],
    // a shell that is set up for something else changes nothing
    env: { ...process.env, NODE_ENV: 'production', NO_COLOR: '1', FORCE_COLOR: undefined },
  })
  for (const words of [dev.stdout!, dev.stderr!]) words.on('data', (d: Buffer) => (said += d.toString()))
})
test.afterAll(async () => {
  if (dev.exitCode === null) {
    const gone = new Promise((resolve) => dev.once('exit', resolve))
    dev.kill('SIGINT')
    await gone
  }
  rmSync(folder, { recursive: true, force: true })
})
/** An address it has said, once it has. */
async function told(pattern: RegExp): Promise<string> {
  await expect
    .poll(() => pattern.test(said) || (dev.exitCode !== null && `ended with ${dev.exitCode}\n${said}`))
    .toBe(true)
  return pattern.exec(said)![1]
}

test('a developer’s start serves, and shows what is changed: the page without loading again, the server after it has started again', async ({
  page,
}) => {
  const web = await told(/Local:\s+(http:\/\/127\.0\.0\.1:\d+)/)
  const server = await told(/The server:\s+(http:\/\/127\.0\.0\.1:\d+)/)
  await page.goto(web)
  await expect(page.getByRole('heading', { name: 'Bench', exact: true })).toBeVisible()
  // packages that are found late are bundled, and the page loads again once; after that it stays
  let name = 'Bench'
  await expect(async () => {
    await quiet(page)
    await page.evaluate(() => Object.assign(window, { stayed: true }))
    const next = `${name} by hand`
    change(folder, 'web/src/bench/Bench.tsx', `<h1>${name}</h1>`, `<h1>${next}</h1>`)
    name = next
    await expect(page.getByRole('heading', { name, exact: true })).toBeVisible()
    expect(await page.evaluate(() => 'stayed' in window)).toBe(true)
  }).toPass({ timeout: 600_000 })

  const health = async (at: string) =>
    ((await (await fetch(`${at}/api/health`).catch(() => null))?.json()) as { status: string } | undefined)
      ?.status
  expect(await health(server)).toBe('ok')
  change(folder, 'server/src/health/health.module.ts', "status: 'ok'", "status: 'mended' as 'ok'")
  await expect.poll(() => health(server)).toBe('mended')
  // the page finds the server where it was
  expect(await health(web)).toBe('mended')
})
