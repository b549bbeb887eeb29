import { expect, type Page } from '@playwright/test'

/** Chooses a roll and a machine at the top, as a person does. */
export async function choosePair(page: Page, url: string, roll: RegExp, machine: RegExp): Promise<void> {
  await page.goto(url)
  await page.getByTestId('change-pair').click()
  const pick = (name: RegExp) =>
    expect(async () => {
      const radio = page.getByRole('radio', { name })
      await radio.click({ timeout: 5000 })
      await expect(radio).toBeChecked({ timeout: 1000 })
    }).toPass()
  await pick(roll)
  await pick(machine)
  await page.getByRole('button', { name: 'Work with this pair' }).click()
  await expect(page.getByRole('banner')).toContainText(roll)
}
