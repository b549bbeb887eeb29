import type { Page } from '@playwright/test'
import axe from 'axe-core'

/** Rules of WCAG 2.2 up to AA, and what is good practice besides. */
const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']

/** The rule that takes most of the time: text against what is behind it. */
const CONTRAST = 'color-contrast'

/**
 * What a page has against WCAG 2.2 AA, a line each.
 * @param part all of it, or the contrast of its text alone, or all but that
 */
export async function faultsOf(page: Page, part: 'all' | 'contrast' | 'rest' = 'all'): Promise<string[]> {
  // what an earlier look left is of no use after another page was loaded
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(axe.source)
  return page.evaluate(
    async ([part, tags, contrast]) => {
      const { violations } = await (window as unknown as { axe: typeof axe }).axe.run(document, {
        resultTypes: ['violations'],
        runOnly: part === 'contrast' ? [contrast] : [...tags],
        ...(part === 'rest' && { rules: { [contrast]: { enabled: false } } }),
      })
      return violations.map((v) => `${v.id} at ${v.nodes[0].target.join(' ')} (${v.nodes.length})`)
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
