import { expect, test, type Page } from '@playwright/test'
import { strFromU8, unzipSync } from 'fflate'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { App } from './lib/app'
import { choosePair } from './lib/pair'
import { posts } from './lib/posts'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

const save = async (page: Page, name: string) => {
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save the changed file' }).click()
  const download = await waiting
  const to = join(app.folder, name)
  await download.saveAs(to)
  return { name: download.suggestedFilename(), text: readFileSync(to, 'latin1') }
}

test('a fix is written into the file that was printed, kept with the case, and counts as what was printed', async ({
  page,
}) => {
  await page.goto(app.url)
  await choosePair(page, app.url, /Terracotta/, /Potting shed/)
  await page.goto(`${app.url}/cases/new`)
  await page.getByLabel('Which part came out wrong?').fill('Two posts')
  await page.getByRole('button', { name: 'Begin' }).click()
  await page.locator('[data-sign="strings-thin"]').getByText('Seen', { exact: true }).click()
  const old = posts({ retract: 1.5 })
  const file = join(app.folder, 'two-posts.gcode')
  writeFileSync(file, old)
  await page.setInputFiles('input[aria-label="G-code file"]', file)
  const lead = page.locator('[data-entry="next"] [data-proposal]').first()
  await expect(lead).toContainText('retraction length 1.5 mm instead of 5.1 mm')
  await page
    .getByRole('button', { name: 'Change it and open an attempt' })
    .or(page.getByRole('button', { name: 'I will do this' }))
    .click()

  const make = page.getByRole('region', { name: 'Make the change' })
  await expect(make).toContainText('leave every other line as it is')
  await make.getByRole('button', { name: 'Change two-posts.gcode' }).click()
  const changed = page.getByRole('region', { name: 'The changed file' })
  await expect(changed).toContainText(/\d+ lines changed/)
  // a machine that is linked comes before all else
  await expect(changed.getByRole('button').first()).toHaveText('Print it on Potting shed')
  const saved = await save(page, 'changed.gcode')
  expect(saved.name).toContain('Retraction length 5.1')
  // only pull-backs differ, and what feeds again after them
  const [head, ...all] = saved.text.split('\n')
  // the recipe wipes where the file does not: those moves are put in, and say so
  const lines = all.filter((line) => !line.endsWith('; Verimend'))
  expect(all.length).toBeGreaterThan(lines.length)
  expect(head).toMatch(/^; Verimend changed .*Retraction length 1\.5 -> 5\.1.* in two-posts\.gcode/)
  const before = old.split('\n')
  expect(lines.length).toBe(before.length)
  const apart = before.flatMap((line, i) => (line === lines[i] ? [] : [[line, lines[i]]]))
  expect(apart.length).toBeGreaterThan(10)
  for (const [was, now] of apart) {
    // the recipe's layer time is the file's as well: lines may be slower, and nothing else
    const bare = (line: string) => line.replace(/ F\d+$/, '')
    if (/^G1 E-?1\.5\b/.test(was)) expect(now).toBe(was.replace('1.5', '5.1'))
    else expect(bare(now)).toBe(bare(was))
  }

  // what is taken is what will be printed: nobody asks for it again
  const told = page.locator('[data-entry="told"]')
  await expect(told).toContainText('two-posts - Retraction length 5.1')
  // it can be taken away again at any time, and is what was printed from now on
  await expect(page.getByRole('link', { name: /^Save two-posts - Retraction length 5.1/ })).toBeVisible()
  await page.locator('[data-outcome="strings-thin"]').getByText('Gone').click()
  await page.getByRole('button', { name: 'Record attempt 1' }).click()
  await expect(page.getByRole('heading', { name: 'All signs are gone' })).toBeVisible()
})

test('any file: one setting, a bad value, one that does nothing, two at once', async ({ page }) => {
  await page.goto(`${app.url}/paths`)
  const file = join(app.folder, 'other.gcode')
  writeFileSync(file, posts({ retract: 5 }))
  await page.setInputFiles('input[aria-label="G-code file"]', file)
  await page.getByText('Change it', { exact: true }).click()
  const panel = page.getByRole('region', { name: 'Change this file' })
  const choose = async (typed: string, label: string) => {
    await panel.getByRole('combobox', { name: 'Setting to change' }).fill(typed)
    await page.getByTitle(label, { exact: true }).click()
  }
  // found by the trade's other word
  await choose('z-hop', 'Z-lift')
  await choose('printing temperature', 'Nozzle')
  await expect(panel).toContainText('you cannot tell which of them made the difference')
  await panel.locator('[data-change="zLift"]').getByRole('button', { name: 'Leave it out' }).click()
  const value = panel.getByLabel('Nozzle, new value')
  await value.fill('900')
  await expect(panel.getByRole('alert')).toBeVisible()
  await expect(panel.getByRole('button', { name: 'Change the file' })).toBeDisabled()
  await value.fill('205')
  await panel.getByRole('button', { name: 'Change the file' }).click()
  const changed = page.getByRole('region', { name: 'The changed file' })
  await expect(changed).toContainText(/1 line (changed|added)|lines (changed|added)/)
  await changed.getByText('The first lines that differ').click()
  await expect(changed).toContainText('M104 S205')
  await changed.getByText('Both files side by side').click()
  await expect(changed.locator('[data-differs]').first()).toBeVisible()
})

test('a brim is laid round what a file draws, and seen from above before it is taken', async ({ page }) => {
  await page.goto(`${app.url}/paths`)
  const file = join(app.folder, 'corners.gcode')
  const old = posts({ retract: 5 })
  writeFileSync(file, old)
  await page.setInputFiles('input[aria-label="G-code file"]', file)
  await page.getByText('Change it', { exact: true }).click()
  const panel = page.getByRole('region', { name: 'Change this file' })
  await panel.getByRole('combobox', { name: 'Setting to change' }).fill('brim width')
  await page.getByTitle('Brim lines', { exact: true }).click()
  await panel.getByLabel('Brim lines, new value').fill('6')
  await panel.getByRole('button', { name: 'Change the file' }).click()
  const changed = page.getByRole('region', { name: 'The changed file' })
  await expect(changed).toContainText(/\d+ lines added/)
  await changed.getByText('Both files side by side').click()
  await expect(changed.locator('[data-differs="Brim"]')).toContainText('6')
  await expect(changed.getByRole('heading', { name: 'From above' })).toBeVisible()
  const saved = await save(page, 'brim.gcode')
  expect(saved.name).toBe('corners - Brim lines 6.gcode')
  const left = saved.text.split('\n').filter((line) => !line.endsWith('; Verimend'))
  // a feed rate that a line of the brim has changed is told again
  const apart = old.split('\n').filter((line) => !left.includes(line))
  expect(apart.length).toBeLessThan(3)
  // as many as may be: they run into each other
  await panel.getByLabel('Brim lines, new value').fill('40')
  await panel.getByRole('button', { name: 'Change the file' }).click()
  await expect(changed).toContainText(/\d+ lines added/)
})

test('a file that was never dropped is asked for once, in the attempt, and is the case’s from then on', async ({
  page,
}) => {
  await page.goto(app.url)
  await choosePair(page, app.url, /Terracotta/, /Potting shed/)
  await page.goto(`${app.url}/cases/new`)
  await page.getByLabel('Which part came out wrong?').fill('Posts without a file')
  await page.getByRole('button', { name: 'Begin' }).click()
  await page.locator('[data-sign="strings-thin"]').getByText('Seen', { exact: true }).click()
  const next = page.locator('[data-entry="next"]')
  const fix = next
    .locator('[data-proposal]')
    .filter({ hasText: /°C instead of|retraction length/i })
    .first()
  await fix.click()
  await page
    .getByRole('button', { name: 'Change it and open an attempt' })
    .or(page.getByRole('button', { name: 'I will do this' }))
    .click()
  const make = page.getByRole('region', { name: 'Make the change' })
  const file = join(app.folder, 'late.gcode')
  writeFileSync(file, posts({ retract: 1.5 }))
  await make.locator('input[type=file]').setInputFiles(file)
  await expect(make.getByRole('button', { name: 'Change late.gcode' })).toBeVisible()
  await expect(page.locator('[data-entry="told"]')).toContainText('late.gcode')
  await page.reload()
  await expect(make.getByRole('button', { name: 'Change late.gcode' })).toBeVisible()
})

test('steps up any file become a trial: its bands are in the file, and are read on it', async ({ page }) => {
  await page.goto(app.url)
  await choosePair(page, app.url, /Terracotta/, /Potting shed/)
  await page.goto(`${app.url}/paths`)
  const file = join(app.folder, 'gift.gcode')
  const old = posts({ retract: 5 })
  writeFileSync(file, old)
  await page.setInputFiles('input[aria-label="G-code file"]', file)
  await page.getByText('Change it', { exact: true }).click()
  await page.getByText('Try it in steps up this file').click()
  const count = page.getByLabel('Steps: in, steps')
  // more bands than there are layers for: said, and nothing that was typed is lost
  await count.fill('9')
  await page.getByRole('button', { name: 'Make the trial' }).click()
  const paths = page.getByRole('region', { name: 'The paths' })
  await expect(paths.getByRole('alert')).toContainText(/Choose fewer steps/)
  await expect(count).toHaveValue('9')
  await count.fill('4')
  await page.getByLabel('Steps: from, °C').fill('220')
  await page.getByLabel('Steps: to, °C').fill('190')
  await page.getByRole('button', { name: 'Make the trial' }).click()
  await expect(
    page.getByRole('heading', { name: /Temperature tower in gift\.gcode, trial \d+/ }),
  ).toBeVisible()
  const id = page.url().split('/').at(-1)
  const text = await (await fetch(`${app.url}/api/trials/${id}/piece.gcode`)).text()
  expect(text.match(/^M104 S\d+/gm)).toEqual([
    'M104 S210',
    'M104 S220',
    'M104 S210',
    'M104 S200',
    'M104 S190',
  ])
  const own = text.split('\n').filter((line) => !/; Verimend$/.test(line))
  expect(own.slice(-old.split('\n').length).join('\n')).toBe(old)
})

test('a pause goes into any file, where it is asked for and nowhere else', async ({ page }) => {
  await page.goto(`${app.url}/paths`)
  const file = join(app.folder, 'long.gcode')
  const old = posts({ retract: 5 })
  writeFileSync(file, old)
  await page.setInputFiles('input[aria-label="G-code file"]', file)
  await page.getByText('Change it', { exact: true }).click()
  await page.getByText('Pause it for another roll').click()
  const height = page.getByLabel('Pause at, mm')
  await height.fill('90')
  await expect(page.getByText('Nothing is laid above this height.')).toBeVisible()
  await page.getByRole('button', { name: 'Put the pause in' }).click()
  await expect(page.getByRole('region', { name: 'The paths' }).getByRole('alert')).toContainText(
    'would do nothing in this file',
  )
  await height.fill('4')
  await expect(page.getByText('Before layer 20 begins.')).toBeVisible()
  await page.getByRole('button', { name: 'Put the pause in' }).click()
  await expect(page.getByRole('region', { name: 'The changed file' })).toContainText('1 line added')
  const saved = await save(page, 'paused.gcode')
  expect(saved.name).toBe('long - pause at 4 mm.gcode')
  const [head, ...rest] = saved.text.split('\n')
  expect(head).toMatch(/^; Verimend changed pause at 4 mm in long\.gcode/)
  expect(rest.filter((line) => !line.startsWith('M600')).join('\n')).toBe(old)
})

test('the same change in several files: each for itself, one that cannot be is named, the rest in one ZIP', async ({
  page,
}) => {
  await page.goto(`${app.url}/paths`)
  const named = (name: string, text: string) => {
    const to = join(app.folder, name)
    writeFileSync(to, text)
    return to
  }
  await page.setInputFiles('input[aria-label="G-code file"]', named('first.gcode', posts({ retract: 5 })))
  await page.getByText('Change it', { exact: true }).click()
  const panel = page.getByRole('region', { name: 'Change this file' })
  await panel.getByRole('combobox', { name: 'Setting to change' }).fill('retraction length')
  await page.locator('.ant-select-item-option').getByText('Retraction length', { exact: true }).click()
  await panel.getByLabel('Retraction length, new value').fill('3')
  await panel.getByText('The same change in other files').click()
  const [two, none] = [posts({ retract: 2 }), posts({ retract: 0 })]
  await page.setInputFiles('input[aria-label="Other G-code files"]', [
    named('two.gcode', two),
    named('none.gcode', none),
    named('four.gcode', posts({ retract: 4 })),
    named('words.txt', 'no file of paths'),
  ])
  await panel.getByRole('button', { name: 'Change these 4 files' }).click()
  await expect(panel.locator('[data-file="four.gcode"]')).toContainText(/\d+ lines differ/)
  await expect(panel.locator('[data-file="none.gcode"]')).toContainText('would do nothing in this file')
  await expect(panel.locator('[data-file="words.txt"]')).not.toContainText(/not changed yet|lines differ/)
  const waiting = page.waitForEvent('download')
  await panel.getByRole('button', { name: 'Save all 2 as one ZIP' }).click()
  const to = join(app.folder, 'all.zip')
  await (await waiting).saveAs(to)
  const files = unzipSync(readFileSync(to))
  expect(Object.keys(files).sort()).toEqual([
    'four - Retraction length 3.gcode',
    'two - Retraction length 3.gcode',
  ])
  const now = strFromU8(files['two - Retraction length 3.gcode']).split('\n').slice(1)
  const was = two.split('\n')
  expect(now.length).toBe(was.length)
  // the pull-back before the first line of all is none between lines
  const begins = was.findIndex((line) => line.startsWith('G1 X'))
  was.forEach((line, i) => expect(now[i]).toBe(i < begins ? line : line.replace(/^G1 E(-?)2 /, 'G1 E$13 ')))
})
