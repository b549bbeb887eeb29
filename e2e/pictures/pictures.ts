import { test, type Page } from '@playwright/test'
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { App } from '../lib/app'
import { settled } from '../lib/settled'
import { partFile } from '../lib/parts'

const out = join(fileURLToPath(import.meta.url), '../../../docs/screenshots')
const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

const list = async (path: string) => (await fetch(`${app.url}/api/${path}`)).json()
const caseOf = async (part: string) =>
  (await list('cases')).cases.find((c: { part: string }) => c.part === part) as { id: string; pairId: string }
const hingeOf = async () => {
  const { id, pairId } = await caseOf('Vent hinge')
  const file = (await list(`cases/${id}`)).files[0].id as string
  const [trial] = await list(`trials?pairId=${pairId}`)
  return { id, pairId, file, trial: trial as { id: string; cells: { id: string }[] } }
}

/** A part of the demo's generator, as a file to drop. */
function fileOf(name: string, ...settings: Parameters<typeof partFile>): string {
  const path = join(app.folder, name)
  writeFileSync(path, partFile(...settings))
  return path
}
const shape: Parameters<typeof partFile>[0] = {
  shape: 'box',
  width: 40,
  depth: 30,
  height: 12,
  bore: 10,
  copies: 2,
  steps: [{ from: 8, inset: 6 }],
}
const before = () => fileOf('hinge-before.gcode', shape, { retract: false, brimLines: 4, earlyStop: 0.05 })
const after = () =>
  fileOf('hinge-after.gcode', shape, { seamPlace: 'scattered', firstWidth: 0.6, outerSpeed: 30 })

interface View {
  path: string
  /** The pair chosen at the top; the fern roll's when none is given. */
  pair?: string
  width?: number
  height?: number
  dark?: boolean
  act?: (page: Page) => Promise<unknown>
}

const drop = async (page: Page, file: string) => {
  await page.setInputFiles('input[aria-label="G-code file"]', file)
  await page.getByText('By height').waitFor()
}
const VIEWS: Record<string, () => Promise<View>> = {
  bench: async () => ({ path: '/' }),
  shelf: async () => ({ path: '/shelf' }),
  machines: async () => ({ path: '/machines' }),
  recipe: async () => ({ path: '/recipes' }),
  case: async () => ({ path: `/cases/${(await caseOf('Drip-line clips')).id}` }),
  'case-dark': async () => ({ path: `/cases/${(await caseOf('Drip-line clips')).id}`, dark: true }),
  'case-signs': async () => ({
    path: `/cases/${(await caseOf('Drip-line clips')).id}`,
    act: (page) => page.getByTestId('look').click(),
  }),
  'case-narrow': async () => ({
    path: `/cases/${(await caseOf('Seed-tray labels')).id}`,
    width: 390,
    height: 844,
  }),
  part: async () => {
    const { pairId } = await hingeOf()
    const parts = (await list('parts')) as { id: string; name: string }[]
    return {
      path: `/parts/${parts.find((x) => x.name === 'Vent hinge')!.id}?change=contourOffset:-0.05,brimLines:6`,
      pair: pairId,
      height: 1180,
      act: (page) => page.getByTestId('figures').getByText('With the change').waitFor({ timeout: 60_000 }),
    }
  },
  paths: async () => {
    const { id, pairId, file } = await hingeOf()
    return {
      path: `/paths?case=${id}&file=${file}`,
      pair: pairId,
      async act(page) {
        await page.getByRole('button', { name: 'Mark a height' }).click()
        await page.getByLabel('Flaw 1, from, mm').fill('15.2')
        await page.getByLabel('Flaw 1, to, mm').fill('24')
        await page.keyboard.press('Tab')
      },
    }
  },
  layer: async () => ({
    path: '/paths',
    pair: (await hingeOf()).pairId,
    async act(page) {
      await drop(page, before())
      await page.getByText('From above').click()
      await page.waitForTimeout(600)
    },
  }),
  'two-files': async () => ({
    path: '/paths',
    pair: (await hingeOf()).pairId,
    async act(page) {
      await drop(page, after())
      await page.getByText('Two files').click()
      await page.locator('section[aria-label="The paths"] input[type=file]').setInputFiles(before())
      await page.getByText('What differs').waitFor()
    },
  }),
  trials: async () => ({ path: '/trials', pair: (await hingeOf()).pairId }),
  trial: async () => {
    const { trial, pairId } = await hingeOf()
    return { path: `/trials/${trial.id}`, pair: pairId }
  },
  'trial-reading': async () => {
    const { trial, pairId } = await hingeOf()
    return { path: `/trials/${trial.id}/read?at=${trial.cells[3].id}`, pair: pairId, width: 390, height: 844 }
  },
  'measure-sizes': async () => {
    const [m] = (await (await fetch(`${app.url}/api/measurements`)).json()) as {
      id: string
      pairId: string
    }[]
    return { path: `/measure/${m.id}`, pair: m.pairId, height: 960 }
  },
  'measure-bed': async () => ({
    path: '/measure',
    async act(page) {
      await page.locator('[data-kind="bed"]').click()
      await page.locator('[data-place]').first().waitFor()
      const feels = ['tight', 'tight', 'drags', 'tight', 'drags', 'drags', 'drags', 'loose', 'loose']
      for (const [i, feel] of feels.entries())
        await page.locator('[data-place]').nth(i).getByText(feel, { exact: true }).click()
      await page.waitForTimeout(800)
    },
    height: 900,
  }),
  handbook: async () => ({ path: '/handbook/signs' }),
  print: async () => {
    const { pairId } = await hingeOf()
    const response = await fetch(`${app.url}/api/prints`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ pairId, what: { kind: 'practice' } }),
    })
    const { id } = (await response.json()) as { id: string }
    return {
      path: `/prints/${id}`,
      pair: pairId,
      async act(page) {
        await page.getByRole('img', { name: 'The part from the front' }).waitFor({ timeout: 60_000 })
        await page.getByRole('button', { name: 'Measure' }).click()
        await page.waitForTimeout(800)
        await page.getByRole('button', { name: 'Close' }).click()
      },
    }
  },
}

for (const [name, view] of Object.entries(VIEWS))
  test(name, async ({ browser }) => {
    mkdirSync(out, { recursive: true })
    const { path, pair, width = 1280, height = 800, dark = false, act } = await view()
    const context = await browser.newContext({
      viewport: { width, height },
      colorScheme: dark ? 'dark' : 'light',
    })
    const page = await context.newPage()
    const chosen = pair ?? (await caseOf('Drip-line clips')).pairId
    await page.addInitScript((id) => localStorage.setItem('verimend.pair', id), chosen)
    await page.goto(app.url + path)
    await settled(page)
    await act?.(page)
    await page.waitForTimeout(600)
    await page.screenshot({ path: join(out, `${name}.png`) })
    await context.close()
  })
