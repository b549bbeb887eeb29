#!/usr/bin/env node
// Makes docs/screenshots anew from the demo data: one picture of each main view.
import { spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { root } from './lib/run.mjs'

const { chromium } = await import('@playwright/test')
const folder = mkdtempSync(join(tmpdir(), 'verimend-pictures-'))
const port = 4399
const app = spawn(process.execPath, [
  join(root, 'scripts/start.mjs'),
  '--data',
  folder,
  '--port',
  String(port),
])
await new Promise((resolve, reject) => {
  app.stdout.on('data', (d) => String(d).includes('is ready') && resolve())
  app.on('exit', () => reject(new Error('it did not start')))
})
const url = `http://127.0.0.1:${port}`
const out = join(root, 'docs/screenshots')
mkdirSync(out, { recursive: true })
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--headless',
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
})
const cases = await (await fetch(`${url}/api/cases`)).json()
const pairs = await (await fetch(`${url}/api/pairs`)).json()
const idOf = (part) => cases.find((c) => c.part === part).id
const fern = cases.find((c) => c.part === 'Drip-line clips').pairId
const hinge = await (await fetch(`${url}/api/cases/${idOf('Vent hinge')}`)).json()
const [tower] = await (await fetch(`${url}/api/trials?pairId=${hinge.pairId}`)).json()
const ofHinge = `/paths?case=${hinge.id}&file=${hinge.files[0].id}`
// files for the pictures, written by the app's own generator
const { rolldown } = await import('rolldown')
const bundle = await rolldown({
  input: join(root, 'core/src/index.ts'),
  platform: 'node',
  logLevel: 'silent',
})
await bundle.write({ file: join(root, '.cache/core.mjs'), format: 'esm' })
const core = await import(join(root, '.cache/core.mjs'))
const part = (name, set) => {
  const machine = core.DEMO_MACHINES.greenhouse
  const pins = Object.fromEntries(
    Object.entries(set).map(([k, value]) => [k, { value, source: 'hand', words: '' }]),
  )
  const recipe = core.deriveRecipe({ machine, filament: core.demoFilaments('2026-01-01').dew, pins })
  const text = core.writePart(machine, recipe, {
    shape: 'box',
    width: 40,
    depth: 30,
    height: 12,
    bore: 10,
    copies: 2,
    steps: [{ from: 8, inset: 6 }],
  })
  writeFileSync(join(folder, name), text)
  return join(folder, name)
}
const before = part('hinge-before.gcode', { retract: false, brimLines: 4, earlyStop: 0.05 })
const after = part('hinge-after.gcode', { seamPlace: 'scattered', firstWidth: 0.6, outerSpeed: 30 })
const drop = async (p, file) => {
  await p.setInputFiles('input[aria-label="G-code file"]', file)
  await p.getByText('By height').waitFor()
}
const mark = async (p) => {
  await p.getByRole('button', { name: 'Mark a height' }).click()
  await p.getByLabel('Flaw 1, from, mm').fill('15.2')
  await p.getByLabel('Flaw 1, to, mm').fill('24')
  await p.keyboard.press('Tab')
}
const views = [
  ['paths', ofHinge, { pair: hinge.pairId, act: mark }],
  [
    'layer',
    '/paths',
    {
      pair: hinge.pairId,
      act: async (p) => {
        await drop(p, before)
        await p.getByText('From above').click()
        await p.waitForTimeout(600)
      },
    },
  ],
  [
    'two-files',
    '/paths',
    {
      pair: hinge.pairId,
      act: async (p) => {
        await drop(p, after)
        await p.getByText('Two files').click()
        await p.locator('section[aria-label="The paths"] input[type=file]').setInputFiles(before)
        await p.getByText('What differs').waitFor()
      },
    },
  ],
  ['bench', '/'],
  ['shelf', '/shelf'],
  ['machines', '/machines'],
  ['recipe', '/recipes'],
  ['case', `/cases/${idOf('Drip-line clips')}`],
  ['case-dark', `/cases/${idOf('Drip-line clips')}`, { dark: true }],
  ['case-signs', `/cases/${idOf('Drip-line clips')}`, { act: (p) => p.getByTestId('look').click() }],
  ['case-narrow', `/cases/${idOf('Seed-tray labels')}`, { width: 390, height: 844 }],
  ['trial', `/trials/${tower.id}`, { pair: hinge.pairId }],
  [
    'trial-reading',
    `/trials/${tower.id}/read?at=${tower.cells[3].id}`,
    { pair: hinge.pairId, width: 390, height: 844 },
  ],
  ['trials', '/trials', { pair: hinge.pairId }],
  ['handbook', '/handbook/signs'],
]
for (const [name, path, { dark = false, width = 1280, height = 800, act, pair } = {}] of views) {
  const context = await browser.newContext({
    viewport: { width, height },
    colorScheme: dark ? 'dark' : 'light',
  })
  const page = await context.newPage()
  await page.addInitScript((pair) => localStorage.setItem('verimend.pair', pair), pair ?? fern ?? pairs[0].id)
  await page.goto(url + path)
  await page.waitForLoadState('networkidle')
  await act?.(page)
  await page.waitForTimeout(400)
  await page.screenshot({ path: join(out, `${name}.png`) })
  await context.close()
}
await browser.close()
app.kill('SIGTERM')
await new Promise((r) => app.once('exit', r))
rmSync(folder, { recursive: true, force: true })
