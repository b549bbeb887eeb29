import { expect, test, type Browser, type Page } from '@playwright/test'
import { App } from './lib/app'
import { faultsOf, type Part } from './lib/faults'
import { settled } from './lib/settled'

const app = new App()
test.beforeAll(() => app.start())
test.afterAll(() => app.end())

const WIDTHS = [320, 360, 390, 768, 1280, 1920]
const get = async (path: string) => (await fetch(`${app.url}/api/${path}`)).json()

/** Every screen, and what stands behind screens; with the pair that its trial is of. */
async function screens(): Promise<{ paths: string[]; pairId: string }> {
  const { cases } = (await get('cases')) as {
    cases: { id: string; part: string; status: string; awaiting: boolean }[]
  }
  const hinge = cases.find((c) => c.part === 'Vent hinge')!.id
  const [file] = (await get(`cases/${hinge}`)).files as { id: string }[]
  const [part] = (await get('parts')) as { id: string }[]
  const [machine] = (await get('machines')) as { id: string }[]
  const [roll] = (await get('filaments')) as { id: string }[]
  const found: { id: string; pairId: string }[] = []
  for (const { id } of (await get('pairs')) as { id: string }[])
    found.push(...((await get(`trials?pairId=${id}`)) as { id: string; pairId: string }[]))
  const { id: trial, pairId } = found[0]
  return {
    pairId,
    paths: [
      '/',
      '/cases',
      `/cases/${cases.find((c) => c.part === 'Drip-line clips')!.id}`,
      `/cases/${cases.find((c) => c.awaiting)!.id}`,
      `/cases/${cases.find((c) => c.status === 'closed')!.id}`,
      '/cases/new',
      '/recipes',
      '/trials',
      '/trials/new/temperature-tower',
      `/trials/${trial}`,
      `/trials/${trial}/read`,
      '/measure',
      '/parts',
      `/parts/${part.id}`,
      '/paths',
      `/paths?case=${hinge}&file=${file.id}`,
      '/shelf',
      '/shelf/new',
      `/shelf/${roll.id}`,
      '/machines',
      `/machines/${machine.id}`,
      '/handbook/signs',
      '/handbook/disputes',
      '/storeroom',
      '/nowhere',
    ],
  }
}

async function open(browser: Browser, pairId: string): Promise<Page> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 900 } })
  await page.addInitScript((pair) => {
    localStorage.setItem('verimend.pair', pair)
    new PerformanceObserver((list) => {
      for (const shift of list.getEntries() as (PerformanceEntry & { value: number })[])
        window.jumped = (window.jumped ?? 0) + shift.value
    }).observe({ type: 'layout-shift', buffered: true })
  }, pairId)
  return page
}

declare global {
  interface Window {
    jumped?: number
  }
}
/** Cumulative layout shift up to which a page is called steady (web.dev, “Cumulative Layout Shift”: good is 0.1 or less). */
const STEADY = 0.1
/** What does not fit: the page, or a box in it that has to be pushed sideways; and targets that a finger misses. */
const misfits = () => {
  const bad: string[] = []
  const { scrollWidth, clientWidth } = document.scrollingElement!
  if (scrollWidth > clientWidth) bad.push(`the page is ${scrollWidth - clientWidth} px too wide`)
  const told = (e: Element) => `${e.tagName.toLowerCase()} “${(e.textContent ?? '').trim().slice(0, 24)}”`
  for (const e of document.querySelectorAll<HTMLElement>('main *, header *, nav *')) {
    const style = getComputedStyle(e)
    // charts beside each other, which say how they are moved, are pushed
    if (e.getAttribute('aria-label')?.startsWith('Strips by height')) continue
    if (/auto|scroll/.test(style.overflowX) && e.scrollWidth > e.clientWidth + 1)
      bad.push(`${told(e)} is pushed sideways, ${e.scrollWidth - e.clientWidth} px`)
  }
  // what the library draws inside a larger field is not the target
  const inner = '.ant-select, .ant-input-number, .ant-input-affix-wrapper, .ant-picker, .ant-upload'
  for (const e of document.querySelectorAll<HTMLElement>(
    'main :is(button, a, summary, [role=tab]), header button, nav :is(a, button)',
  )) {
    const { width, height } = e.getBoundingClientRect()
    if (!width || !height || e.closest(inner)) continue
    // in a line of text a link is as high as its line
    if (e.tagName === 'A' && getComputedStyle(e).display === 'inline') continue
    if (Math.min(width, height) < 23.5)
      bad.push(`${told(e)} is a target of ${width.toFixed(0)} × ${height.toFixed(0)}`)
  }
  return bad
}

const ALL = process.env.FACE === 'all'
/**
 * What the rules look at: structure and frame with the bar and with the rail, the colours of the screen in both themes.
 * Whether it fits and its targets are large enough is looked at at every width. FACE=all takes nothing for granted.
 */
const part = (theme: string, width: number): Part | null =>
  ALL
    ? 'all'
    : width === 1280
      ? theme === 'light'
        ? 'all'
        : 'contrast'
      : width === 390
        ? theme === 'light'
          ? 'but contrast'
          : 'frame'
        : null
/** ms in which colours change, and in which what follows the width finds its place. */
const [FADE, PLACE] = [350, 120]

/** Browsers that share the screens. */
const SHARES = 3
test.describe.configure({ mode: 'parallel' })

for (let share = 0; share < SHARES; share++)
  test(`no screen has a fault by WCAG 2.2 AA in either theme; each fits at every width, and its targets are large enough (${share + 1} of ${SHARES})`, async ({
    browser,
  }) => {
    const { paths, pairId } = await screens()
    const page = await open(browser, pairId)
    const bad = new Set<string>()
    for (const path of paths.filter((_, i) => i % SHARES === share)) {
      await page.setViewportSize({ width: 1280, height: 900 })
      await page.goto(app.url + path)
      await settled(page)
      const told = (what: string) => bad.add(`${path}: ${what}`)
      for (const theme of ['light', 'dark']) {
        await page.setViewportSize({ width: 1280, height: 900 })
        if (theme === 'dark') await page.getByRole('button', { name: 'Dark theme' }).click()
        await page.mouse.move(1, 1)
        for (const width of WIDTHS) {
          const looked = part(theme, width)
          if (!looked && theme === 'dark') continue
          // all of it in sight: what the bar at the bottom covers half is scrolled to, not missed
          await page.setViewportSize({ width, height: 900 })
          const height = await page.evaluate(() => document.documentElement.scrollHeight)
          await page.setViewportSize({ width, height: Math.max(900, height + 200) })
          await page.waitForTimeout(looked ? FADE : PLACE)
          if (looked) for (const fault of await faultsOf(page, looked)) told(`${theme} at ${width}: ${fault}`)
          if (theme === 'dark') continue
          // what still finds its place is looked at once more
          if ((await page.evaluate(misfits)).length) await page.waitForTimeout(800)
          for (const m of await page.evaluate(misfits)) told(`at ${width}: ${m}`)
        }
      }
      await page.setViewportSize({ width: 1280, height: 900 })
      await page.getByRole('button', { name: 'Light theme' }).click()
    }
    expect([...bad]).toEqual([])
  })

// by hand, with nothing beside it: on a machine that is busy with other journeys everything comes piece by piece
for (const width of ALL ? WIDTHS : [])
  test(`no screen jumps while it comes, ${width} wide`, async ({ browser }) => {
    const { paths, pairId } = await screens()
    const page = await open(browser, pairId)
    await page.setViewportSize({ width, height: 900 })
    const bad: string[] = []
    for (const path of paths) {
      await page.goto(app.url + path)
      await settled(page)
      const jumped = await page.evaluate(() => window.jumped ?? 0)
      if (jumped > STEADY) bad.push(`${path} jumps by ${jumped.toFixed(2)}`)
    }
    expect(bad).toEqual([])
  })
