import { chromium, expect, test, type Browser, type Page } from '@playwright/test'
import { statSync, readFileSync, writeFileSync } from 'node:fs'
import { get as getSecurely } from 'node:https'
import { join } from 'node:path'
import jsqr from 'jsqr'
import sharp from 'sharp'
import { App } from './lib/app'
import { browser as debian } from './lib/browser'

/** A name that only the phone's network knows: not of this machine, so that its page is no secure context. */
const NAME = 'bench.example'
const app = new App(['--share'], undefined, { VERIMEND_NAMES: NAME })
let phones: Browser
test.describe.configure({ mode: 'serial' })
test.beforeAll(async () => {
  await app.start()
  phones = await chromium.launch({
    executablePath: debian.launchOptions.executablePath,
    args: [...debian.launchOptions.args, `--host-resolver-rules=MAP ${NAME} 127.0.0.2`],
  })
})
test.afterAll(async () => {
  await phones?.close()
  await app.end()
})

/** The passphrase that a start has said; a moment after its address. */
async function passphrase(of = app): Promise<string> {
  const said = () => /Passphrase: (\S+)/.exec(of.said)?.[1]
  await expect.poll(said).toBeDefined()
  return said()!
}

/** What a phone's camera makes of a picture of the screen. */
async function read(picture: Buffer): Promise<string> {
  const { data, info } = await sharp(picture).ensureAlpha().raw().toBuffer({ resolveWithObject: true })
  return jsqr(new Uint8ClampedArray(data), info.width, info.height)?.data ?? ''
}
async function signIn(page: Page): Promise<void> {
  await page.goto(app.url)
  await page.getByLabel('Passphrase', { exact: true }).fill(await passphrase())
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByRole('heading', { name: 'Bench' })).toBeVisible()
}

test('shared, it says where and how to get in, and nobody gets in without the passphrase', async ({
  page,
}) => {
  expect(await passphrase()).toMatch(/^([a-z]{4}-){3}[a-z]{4}$/)
  expect(app.said).toContain(`http://${NAME}:${app.port}`)
  expect(statSync(join(app.folder, 'passphrase')).mode & 0o777).toBe(0o600)
  expect((await fetch(`${app.url}/api/cases`)).status).toBe(401)

  await page.goto(`${app.url}/shelf`)
  await page.getByLabel('Passphrase', { exact: true }).fill('not this')
  await page.keyboard.press('Enter')
  const door = page.getByRole('main', { name: 'Sign in' })
  await expect(door.getByRole('alert')).toHaveText('That is not the passphrase.')
  // what was typed stays, to be mended
  await expect(page.getByLabel('Passphrase', { exact: true })).toHaveValue('not this')
  await page.getByLabel('Passphrase', { exact: true }).fill(await passphrase())
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Shelf' })).toBeVisible()
  // no script can read what lets it in
  expect(await page.evaluate(() => document.cookie)).toBe('')
  await page.getByRole('button', { name: 'Sign out' }).click()
  await expect(page.getByLabel('Passphrase', { exact: true })).toBeVisible()
  const log = readFileSync(join(app.folder, 'server.log'), 'utf8')
  expect(log).toContain('sign-in refused, wrong passphrase')
  expect(log).not.toContain('not this')
  expect(log).not.toContain(await passphrase())
})

test('a case is taken to the phone by its QR code, over plain HTTP, and its outcome is recorded there', async ({
  page,
}) => {
  await signIn(page)
  // the case that waits for somebody to look
  const { url } = app
  const { cases } = (await (await page.request.get(`${url}/api/cases`)).json()) as {
    cases: { id: string; awaiting: boolean; attempts: number }[]
  }
  const waiting = cases.find((c) => c.awaiting)!
  await page.goto(`${url}/cases/${waiting.id}`)
  await page.getByRole('button', { name: 'Phone' }).click()
  const code = page.getByRole('dialog').locator('.ant-qrcode')
  await expect(code).toBeVisible()
  const invited = new RegExp(`^http://${NAME}:${app.port}/cases/${waiting.id}#invitation=[\\w-]{22}$`)
  // it comes in with a little movement
  await expect.poll(async () => read(await code.screenshot())).toMatch(invited)
  const address = await read(await code.screenshot())

  const phone = await phones.newContext({
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
  })
  const there = await phone.newPage()
  const errors: string[] = []
  there.on('pageerror', (e) => errors.push(e.message))
  await there.goto(address)
  expect(await there.evaluate(() => [isSecureContext, 'randomUUID' in crypto])).toEqual([false, false])
  await expect(there.getByLabel('The part')).toBeVisible()
  // the word is gone from the address
  expect(there.url()).toBe(address.split('#')[0])
  const seen = there.locator('[data-outcome]')
  await expect(seen.first()).toBeVisible()
  for (let i = 0, n = await seen.count(); i < n; i++) await seen.nth(i).getByText('Gone').tap()
  await there.getByRole('button', { name: `Record attempt ${waiting.attempts}` }).tap()
  await expect(there.getByRole('heading', { name: 'All signs are gone' })).toBeVisible()
  // something new can be made there as well
  await there.goto(`http://${NAME}:${app.port}/cases/new`)
  await there.getByLabel('Which part came out wrong?').fill('Seed tray label')
  await there.keyboard.press('Enter')
  await expect(there.getByLabel('The part')).toHaveValue('Seed tray label')
  // the word has let one phone in; for another it no longer holds
  const other = await (await phones.newContext()).newPage()
  await other.goto(address)
  await expect(other.getByRole('main', { name: 'Sign in' }).getByRole('alert')).toContainText(
    'This invitation no longer holds',
  )
  expect(errors).toEqual([])
  await phone.close()
})

test('the one who shares is known again after a restart; with another passphrase nobody is', async ({
  page,
}) => {
  await signIn(page)
  const before = await passphrase()
  await app.stop()
  await app.start()
  expect(await passphrase()).toBe(before)
  await page.goto(`${app.url}/shelf`)
  await expect(page.getByRole('heading', { name: 'Shelf' })).toBeVisible()

  // over TLS, with a certificate of its own
  await app.stop()
  const secure = new App(['--share', '--tls', '--new-passphrase'], app.folder, { VERIMEND_NAMES: NAME })
  await secure.start()
  try {
    expect(await passphrase(secure)).not.toBe(before)
    const cert = readFileSync(join(app.folder, 'tls', 'certificate.pem'))
    expect(statSync(join(app.folder, 'tls', 'key.pem')).mode & 0o777).toBe(0o600)
    const asked = await new Promise<[number | undefined, string]>((resolve, reject) => {
      getSecurely({ host: '127.0.0.1', port: secure.port, path: '/api/cases', ca: cert }, (answer) => {
        resolve([
          answer.statusCode,
          (answer.socket as import('node:tls').TLSSocket).getPeerCertificate().fingerprint256,
        ])
        answer.resume()
      }).on('error', reject)
    })
    expect(asked[0]).toBe(401)
    expect(secure.said).toContain(asked[1])
    const cookie = (await page.context().cookies()).find((c) => c.name === 'verimend')!
    await expect(async () => {
      const context = await phones.newContext({ ignoreHTTPSErrors: true })
      // whichever name it is sent under
      const headers = { cookie: `verimend=${cookie.value}; __Host-verimend=${cookie.value}` }
      const answer = await context.request.get(`https://127.0.0.1:${secure.port}/api/cases`, { headers })
      expect(answer.status()).toBe(401)
      await context.close()
    }).toPass({ timeout: 10_000 })
  } finally {
    await secure.stop()
  }
})

test('what cannot be shared is said before anything starts', async () => {
  const refused = async (...flags: string[]) => {
    const other = new App(flags)
    await expect(other.start()).rejects.toThrow(/start ended with 2/)
    await other.end()
    return other.said
  }
  expect(await refused('--tls')).toContain('for --share')
  expect(await refused('--share', '--tls-cert', '/nowhere.pem')).toContain('needs its key')
  const file = join(app.folder, 'some.pem')
  writeFileSync(file, '')
  expect(await refused('--share', '--tls-cert', file, '--tls-key', `${file}-none`)).toContain(
    'There is no file',
  )
})
