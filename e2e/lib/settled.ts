import { expect, type Page } from '@playwright/test'

/** Waits until a screen is there and nothing of it is on its way; the line on which prints are heard stays open for good. */
export async function settled(page: Page): Promise<void> {
  await page.locator('main :is(h1, input)').first().waitFor()
  await expect(page.getByText('Loading', { exact: true })).toHaveCount(0)
  await page.waitForTimeout(300)
}

/** Waits until a page has loaded no more for a second, what it fetches ahead of its use as well. */
export async function quiet(page: Page): Promise<void> {
  const loaded = () => page.evaluate(() => performance.getEntriesByType('resource').length)
  await expect
    .poll(async () => {
      const before = await loaded()
      await page.waitForTimeout(1000)
      return (await loaded()) - before
    })
    .toBe(0)
}

/** Does something that is kept by the server, and waits until it is. */
export async function kept(page: Page, what: string, work: () => Promise<void>): Promise<void> {
  const answer = page.waitForResponse(
    (r) => r.request().method() !== 'GET' && r.url().includes(`/api/${what}`) && r.ok(),
  )
  await work()
  await answer
}
