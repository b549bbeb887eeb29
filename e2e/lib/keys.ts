import type { Page } from '@playwright/test'

/** Tabs until a control of that name has the focus. */
export async function tabTo(page: Page, name: RegExp, most = 120): Promise<void> {
  const seen: string[] = []
  for (let i = 0; i < most; i++) {
    const now = await page.evaluate(() => {
      const e = document.activeElement as HTMLElement | null
      if (!e || !/^(INPUT|BUTTON|A|TEXTAREA)$/.test(e.tagName)) return ''
      return `${e?.getAttribute('aria-label') ?? ''} ${e?.textContent ?? ''} ${(e as HTMLInputElement)?.labels?.[0]?.textContent ?? ''}`
    })
    if (name.test(now)) return
    seen.push(now.trim().slice(0, 40))
    await page.keyboard.press('Tab')
  }
  throw new Error(`no control ${name} by Tab, but ${[...new Set(seen)].join(' | ')}`)
}
/** Tabs to a control and presses it. */
export async function pressByTab(page: Page, name: RegExp, most?: number): Promise<void> {
  await tabTo(page, name, most)
  await page.keyboard.press('Enter')
}
