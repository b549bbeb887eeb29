import { expect, type Page } from '@playwright/test'

/** Waits until a screen is there and nothing of it is on its way; the line on which prints are heard stays open for good. */
export async function settled(page: Page): Promise<void> {
  await page.locator('main :is(h1, input)').first().waitFor()
  await expect(page.getByText('Loading', { exact: true })).toHaveCount(0)
  await page.waitForTimeout(300)
}
