import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Browser, type Page } from '@playwright/test'
import { App } from './lib/app'
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

async function open(browser: Browser, pairId: string, theme: 'light' | 'dark'): Promise<Page> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 900 } })
  const page = await context.newPage()
  await page.addInitScript(
    ([pair, mode]) => {
      localStorage.setItem('verimend.pair', pair)
      localStorage.setItem('verimend.theme', mode)
      new PerformanceObserver((list) => {
        for (const shift of list.getEntries() as (PerformanceEntry & { value: number })[])
          window.jumped = (window.jumped ?? 0) + shift.value
      }).observe({ type: 'layout-shift', buffered: true })
    },
    [pairId, theme],
  )
  return page
}

declare global {
  interface Window {
    jumped?: number
  }
}
/** Cumulative layout shift up to which a page is called steady (web.dev, “Cumulative Layout Shift”: good is 0.1 or less). */
const STEADY = 0.1
/** What jumped while it came. */
async function jumps(page: Page): Promise<string[]> {
  const jumped = await page.evaluate(() => window.jumped ?? 0)
  return jumped > STEADY ? [`it jumps by ${jumped.toFixed(2)} while it comes`] : []
}

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

/** FACE=all looks at every width in both themes; without it at one of each kind. */
const LOOKS =
  process.env.FACE === 'all'
    ? WIDTHS.flatMap((width) => (['light', 'dark'] as const).map((theme) => ({ theme, width })))
    : ([
        { theme: 'light', width: 1280 },
        { theme: 'dark', width: 390 },
      ] as const)
for (const { theme, width } of LOOKS) {
  const fits = theme === 'light' && width === 1280
  test(`no screen has a fault by WCAG 2.2 AA, ${theme}, ${width} wide${fits ? '; every screen fits every width, and its targets are large enough' : ''}`, async ({
    browser,
  }) => {
    test.setTimeout(600_000)
    const { paths, pairId } = await screens()
    const page = await open(browser, pairId, theme)
    const bad = new Set<string>()
    for (const path of paths) {
      await page.setViewportSize({ width, height: 900 })
      await page.goto(app.url + path)
      await settled(page)
      const told = (what: string) => bad.add(`${path}: ${what}`)
      // on a machine that is busy with other journeys everything comes piece by piece
      if (process.env.FACE === 'all') (await jumps(page)).forEach(told)
      // all of it in sight: what the bar at the bottom covers half is scrolled to, not missed
      const height = await page.evaluate(() => document.documentElement.scrollHeight)
      await page.setViewportSize({ width, height: Math.max(900, height + 200) })
      const { violations } = await new AxeBuilder({ page })
        .options({
          resultTypes: ['violations'],
          runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'],
        })
        .analyze()
      for (const v of violations) told(`${v.id} at ${v.nodes[0].target.join(' ')} (${v.nodes.length})`)
      for (const narrow of fits ? WIDTHS : []) {
        await page.setViewportSize({ width: narrow, height: 900 })
        await page.waitForTimeout(120)
        // what still finds its place is looked at once more
        if ((await page.evaluate(misfits)).length) await page.waitForTimeout(800)
        for (const m of await page.evaluate(misfits)) told(`at ${narrow}: ${m}`)
      }
    }
    expect([...bad]).toEqual([])
  })
}
