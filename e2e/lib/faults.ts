import type { Page } from '@playwright/test'
import axe from 'axe-core'

/** Rules of WCAG 2.2 up to AA, and what is good practice besides. */
const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']

/** What is looked at. */
export type Part = 'all' | 'contrast' | 'but contrast' | 'frame'

/** The rule that takes most of the time: text against what is behind it. */
const CONTRAST = 'color-contrast'

/**
 * What a page has against WCAG 2.2 AA, a line each.
 * @param part all of it, or the contrast of its text alone, or all but that; in the frame round the screen contrast
 * is always looked at
 */
export async function faultsOf(page: Page, part: Part = 'all'): Promise<string[]> {
  // what an earlier look left is of no use after another page was loaded
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(axe.source)
  return page.evaluate(
    async ([part, tags, contrast]) => {
      const { run } = (window as unknown as { axe: typeof axe }).axe
      const violations: axe.Result[] = []
      const look = async (context: axe.ElementContext, rules: axe.RunOptions) =>
        violations.push(...(await run(context, { resultTypes: ['violations'], ...rules })).violations)
      if (part === 'all') await look(document, { runOnly: [...tags] })
      if (part === 'but contrast')
        await look(document, { runOnly: [...tags], rules: { [contrast]: { enabled: false } } })
      if (part === 'contrast') await look(document, { runOnly: [contrast] })
      if (part === 'but contrast' || part === 'frame')
        await look({ include: [['header'], ['nav']] }, { runOnly: [contrast] })
      // what lies half behind the bar at the foot of a phone is as large as it is once scrolled to
      for (const v of violations.filter((x) => x.id === 'target-size')) {
        const still: typeof v.nodes = []
        for (const node of v.nodes) {
          const element = document.querySelector(String(node.target[0]))
          element?.scrollIntoView({ block: 'center', behavior: 'instant' })
          const again = element && (await run(element, { runOnly: ['target-size'] })).violations
          if (!again || again.length) still.push(node)
        }
        v.nodes = still
      }
      return violations
        .filter((v) => v.nodes.length)
        .map((v) => `${v.id} at ${v.nodes[0].target.join(' ')} (${v.nodes.length})`)
    },
    [part, RULES, CONTRAST] as const,
  )
}

/** The same once nothing changes its colour any more. */
export async function restingFaultsOf(page: Page): Promise<string[]> {
  await page.mouse.move(1, 1)
  await page.waitForTimeout(600)
  return faultsOf(page)
}
