import { expect, test, type Page } from '@playwright/test'
import type { Print, Trial } from '@verimend/contract'
import { App } from './lib/app'

const app = new App()
test.describe.configure({ mode: 'serial' })
const errors: string[] = []
test.beforeAll(async () => {
  await app.start()
  // not to wait for prints that nobody watches
  for (const { machineId } of await get<{ machineId: string }[]>('links')) await hurry(machineId)
})
test.afterAll(() => app.end())
test.beforeEach(({ page }) => {
  page.on('pageerror', (e) => errors.push(e.message))
})
test.afterEach(() => expect(errors).toEqual([]))

const get = async <T>(path: string): Promise<T> =>
  (await fetch(`${app.url}/api/${path}`)).json() as Promise<T>
const post = (path: string, body: unknown) =>
  fetch(`${app.url}/api/${path}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  })

const hurry = async (machineId: string, pace = 'quickest') => {
  const response = await fetch(`${app.url}/api/links/${machineId}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ pace }),
  })
  expect(response.status).toBe(200)
}

/** The pair of a demo roll on a demo machine. */
async function pairOf(roll: string, machine: string): Promise<string> {
  const filaments = await get<{ id: string; filament: { name: string } }[]>('filaments')
  const machines = await get<{ id: string; machine: { name: string } }[]>('machines')
  const response = await post('pairs', {
    machineId: machines.find((m) => m.machine.name === machine)!.id,
    filamentId: filaments.find((f) => f.filament.name === roll)!.id,
  })
  return ((await response.json()) as { id: string }).id
}

/** Writes a piece as it is proposed, prints it on the simulated machine, and enters what there is to read. */
async function tryPiece(page: Page, piece: string): Promise<void> {
  await page.goto(`${app.url}/trials/new/${piece}`)
  await page.getByRole('button', { name: 'Make this trial' }).click()
  await expect(page).toHaveURL(/\/trials\/[0-9a-f-]{36}$/)
  await page.getByRole('button', { name: /^Print it on/ }).click()
  await expect(page.getByTestId('tray')).toContainText('Printing')
  await page.getByRole('button', { name: 'Enter what there is to read' }).click()
  await expect(page.getByText('What there is to see is noted.')).toBeVisible()
  await expect(page.getByText('simulated').first()).toBeVisible()
}

test('a roll is tuned on a simulated machine: pieces are sent, watched, read, and their values taken', async ({
  page,
}) => {
  const pairId = await pairOf('Fern green', 'Greenhouse')
  await page.addInitScript((id) => localStorage.setItem('verimend.pair', id), pairId)
  for (const piece of ['temperature-tower', 'retraction-tower']) {
    await tryPiece(page, piece)
    // what a trial gives is taken where it gives something
    await expect(page.getByText('What comes of it')).toBeVisible()
    const take = page.getByRole('button', { name: 'Take into the recipe' })
    await page.waitForTimeout(800)
    if (await take.isVisible()) {
      await take.click()
      await expect(page.getByText(/^in version \d+$/)).toBeVisible()
    }
  }
  const trials = await get<Trial[]>(`trials?pairId=${pairId}`)
  const done = trials.filter((t) => t.simulated)
  expect(done).toHaveLength(2)
  expect(done.every((t) => Object.keys(t.readings).length > 0)).toBe(true)
  expect(done.some((t) => t.adoptedVersion !== null)).toBe(true)
})

test('a print is watched, stopped at once, looked at and measured', async ({ page }) => {
  const pairId = await pairOf('Fern green', 'Potting shed')
  const { machine } = await get<{ machine: { id: string } }>(`pairs/${pairId}`)
  // slow enough that it is still printing when it is stopped, however slow the browser is
  await hurry(machine.id, 'tenfold')
  const { id } = (await (await post('prints', { pairId, what: { kind: 'practice' } })).json()) as Print
  await page.goto(`${app.url}/prints/${id}`)
  await expect(page.getByText(/Printing, layer \d+ of \d+/)).toBeVisible()
  await expect(page.getByRole('img', { name: 'What the machine’s camera sees' })).toBeVisible()
  // whole lines lie on the bed
  await expect(page.getByText(/Printing, layer ([4-9]|\d\d) of \d+/)).toBeVisible()
  await page.getByRole('button', { name: 'Stop' }).click()
  await expect(page.getByText(/^Stopped/)).toBeVisible()
  await expect(page.getByText('It was not finished: this is what was made.')).toBeVisible()
  await expect(page.getByRole('img', { name: 'The part from the front' })).toBeVisible()
  await page.getByRole('button', { name: 'Measure' }).click()
  const reading = page.locator('output strong')
  await expect(reading).toHaveText(/^[78]\d(\.\d+)?.mm$/)
  await page.getByText('First layer', { exact: true }).click()
  await expect(page.getByRole('img', { name: 'Its first layer' })).toBeVisible()
  const one = await get<Print>(`prints/${id}`)
  expect(one).toMatchObject({ state: 'cancelled', simulated: true })
  expect(one.done).toBeGreaterThan(0)
  expect(one.done).toBeLessThan(one.total)
  await hurry(machine.id)
})

test('a machine with something wrong is found out and put right, and the truth agrees', async ({ page }) => {
  await page.goto(`${app.url}/machines`)
  await expect(page.getByRole('button', { name: 'Practise on it' })).toBeVisible()
  // a machine of a fixed id hides a fixed fault
  const started = (await (
    await post('practice', { id: '5a1ad000-0000-4000-8000-000000000017', kind: 'tube', hidden: 1 })
  ).json()) as { machineId: string; caseId: string; pairId: string }
  await page.addInitScript((id) => localStorage.setItem('verimend.pair', id), started.pairId)
  await hurry(started.machineId)
  await page.goto(`${app.url}/cases/${started.caseId}`)
  const print = async () => {
    await page.getByRole('button', { name: /^Print the practice piece/ }).click()
    await page.getByRole('button', { name: 'Note what there is to see' }).click()
  }
  await print()
  await expect(page.getByText('What there is to see is noted.')).toBeVisible()
  for (let attempt = 1; attempt <= 8; attempt++) {
    const kase = await get<{ signs: Record<string, string> }>(`cases/${started.caseId}`)
    if (!Object.values(kase.signs).includes('present')) break
    await page.getByRole('button', { name: /^(Change it and open an attempt|I will do this)$/ }).click()
    await expect(page.getByText(`Attempt ${attempt}`).first()).toBeVisible()
    await print()
    await expect(page.locator(`[data-entry="attempt-${attempt}"]`)).not.toContainText('to be looked at')
  }
  const { signs, learns } = await get<{ signs: Record<string, string>; learns: boolean }>(
    `cases/${started.caseId}`,
  )
  expect(Object.entries(signs).filter(([, s]) => s === 'present')).toEqual([])
  expect(learns).toBe(false)
  await page.goto(`${app.url}/machines`)
  await page.getByRole('button', { name: 'Show the truth' }).click()
  const truth = page.getByLabel('The truth')
  await expect(truth).toContainText('put right')
  await expect(truth).toContainText(/Named [01] of 1, put right 1 of 1/)
})

/** How often something is killed while it prints; more with KILLS=…. */
const KILLS = Number(process.env.KILLS ?? 3)

test('server, simulated machines or database killed while printing: afterwards the application tells the truth', async () => {
  const pairId = await pairOf('Fern green', 'Potting shed')
  const pause = (ms: number) => new Promise((r) => setTimeout(r, ms))
  const again = async <T>(work: () => Promise<T>): Promise<T> => {
    for (let i = 0; ; i++)
      try {
        return await work()
      } catch (error) {
        if (i > 200) throw error
        await pause(150)
      }
  }
  let failed = 0
  for (let round = 0; round < KILLS; round++) {
    const id = crypto.randomUUID()
    const sent = again(async () => {
      const response = await post('prints', { id, pairId, what: { kind: 'practice' } })
      if (!response.ok) throw new Error(await response.text())
    })
    // sometimes it is hit on its way, sometimes half way, sometimes near the end
    if (round % 4) await sent
    await pause((round * 471) % 1900)
    const which = ['server', 'standin', 'database'][round % 3]
    const pid =
      which === 'server' ? app.serverPid() : which === 'standin' ? app.standinPid() : app.databasePid()
    if (pid > 0) process.kill(pid, 'SIGKILL')
    await sent
    const ended = await again(async () => {
      const print = await get<Print>(`prints/${id}`)
      if (!['done', 'failed'].includes(print.state)) throw new Error(`${which}: ${print.state}`)
      return print
    })
    const report = await again(async () => {
      const response = await fetch(`${app.url}/api/prints/${id}/report`)
      if (!response.ok && ended.done > 0) throw new Error(await response.text())
      return (await response.json()) as { brokeOff?: boolean }
    })
    if (ended.state === 'done') {
      expect(ended.done).toBe(ended.total)
      expect(report.brokeOff).toBe(false)
    } else {
      failed++
      expect(which).toBe('standin')
      expect(ended.reason).toBeTruthy()
      if (ended.done > 0) expect(report.brokeOff).toBe(true)
    }
  }
  expect(failed).toBeGreaterThan(0)
})
