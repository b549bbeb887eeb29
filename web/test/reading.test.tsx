import { screen, waitFor, within } from '@testing-library/react'
import type { Trial } from '@verimend/contract'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { deriveRecipe } from '@verimend/core/recipe'
import { makePiece, type PiecePlan } from '@verimend/core/trials'
import ReadTrial from '../src/trials/ReadTrial'
import { server, show, type Asked } from './show'

const id = '0190d8a4-7d1c-7000-8000-000000000001'
const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').fern
const recipe = deriveRecipe({ machine, filament })

function trialOf(plan: PiecePlan): Trial {
  const piece = makePiece({ machine, filament, recipe }, plan, [])
  return {
    id,
    rev: 1,
    pairId: id,
    caseId: null,
    number: 4,
    plan,
    cells: piece.cells,
    view: piece.view,
    version: 1,
    readings: {},
    resolution: 0.01,
    note: '',
    seconds: 600,
    grams: 2,
    adoptedVersion: null,
    simulated: false,
    createdAt: '2026-01-01T10:00:00Z',
    updatedAt: '2026-01-01T10:00:00Z',
  }
}
/** Keeps readings as the server does. */
function reading(plan: PiecePlan, refuses = false) {
  const t = trialOf(plan)
  const answers: Record<string, unknown> = {
    [`GET trials/${id}`]: () => t,
    [`GET trials/${id}/photos`]: [],
  }
  for (const c of t.cells)
    answers[`PUT trials/${id}/readings/${c.id}`] = (body: never) => {
      if (refuses) return { status: 400, code: 'bad', detail: 'The disk is full.', title: '', type: '' }
      t.readings = { ...t.readings, [c.id]: body }
      return { ...t }
    }
  const asked = server(answers)
  const view = show(<ReadTrial />, { at: `/trials/${id}/read`, route: '/trials/:id/read' })
  return { ...view, t, asked, kept: () => asked.filter((a) => a.method === 'PUT') }
}
const last = (kept: Asked[]) => kept.at(-1)!.body as { grades: object; measures: number[]; skipped: boolean }
const TOWER: PiecePlan = {
  piece: 'temperature-tower',
  steps: { key: 'nozzle', from: 200, to: 220, count: 3 },
}
const BOX: PiecePlan = { piece: 'flow-box', steps: { key: 'flowSolid', from: 97, to: 103, count: 3 } }
const cellShown = () => document.querySelector('[data-cell]')!.getAttribute('data-cell')

test('by keys: a digit grades what is still open, arrows go on and back, each tap is kept whole', async () => {
  const { user, t, kept } = reading(TOWER)
  await screen.findByRole('heading', { level: 1 })
  const first = cellShown()
  await user.keyboard('3')
  await waitFor(() => expect(kept()).toHaveLength(1))
  expect(last(kept()).grades).toEqual({ [criterion(0)]: 3 })
  await user.keyboard('1')
  await waitFor(() => expect(kept()).toHaveLength(2))
  expect(last(kept()).grades).toEqual({ [criterion(0)]: 3, [criterion(1)]: 1 })
  await user.keyboard('9')
  expect(kept()).toHaveLength(2)
  await user.keyboard('{ArrowRight}')
  expect(cellShown()).toBe(t.cells[1].id)
  await user.keyboard('{ArrowLeft}')
  expect(cellShown()).toBe(first)
})
const criterion = (i: number) =>
  document.querySelectorAll('[data-criterion]')[i].getAttribute('data-criterion')!

test('it opens at the first place that was not read', async () => {
  const t = trialOf(TOWER)
  t.readings = {
    [t.cells[0].id]: { grades: { strings: 2 }, measures: [], unsure: false, skipped: false, note: '' },
  }
  server({ [`GET trials/${id}`]: t, [`GET trials/${id}/photos`]: [] })
  show(<ReadTrial />, { at: `/trials/${id}/read`, route: '/trials/:id/read' })
  await screen.findByRole('heading', { level: 1 })
  expect(cellShown()).toBe(t.cells[1].id)
  expect(screen.getByText('1 of 3')).toBeTruthy()
})

test('skip goes on and counts as read; redo makes it open again; unsure is kept', async () => {
  const { user, t, kept } = reading(TOWER)
  await screen.findByRole('heading', { level: 1 })
  await user.click(screen.getByRole('button', { name: 'Skip' }))
  await waitFor(() => expect(last(kept()).skipped).toBe(true))
  expect(cellShown()).toBe(t.cells[1].id)
  await user.click(screen.getByRole('button', { name: 'Back' }))
  await user.click(screen.getByRole('button', { name: 'Redo' }))
  await waitFor(() => expect(last(kept())).toMatchObject({ skipped: false, grades: {} }))
  await user.click(screen.getByRole('button', { name: 'Unsure' }))
  await waitFor(() => expect(last(kept())).toMatchObject({ unsure: true }))
})

test('what cannot be kept is said, and can be tried again', async () => {
  const { user } = reading(TOWER, true)
  await screen.findByRole('heading', { level: 1 })
  await user.keyboard('3')
  const alert = await screen.findByRole('alert')
  expect(alert.textContent).toContain('The disk is full.')
  expect(within(alert).getByRole('button', { name: 'Try again' })).toBeTruthy()
})

test('measurements: a comma will do, words and a wall of 40 mm will not, and each can be taken out', async () => {
  const { user, kept, t } = reading(BOX)
  await screen.findByRole('heading', { level: 1 })
  const wall = t.cells.find((c) => c.measure === 'wall')!
  expect(cellShown()).toBe(wall.id)
  const field = screen.getByLabelText<HTMLInputElement>('Measured, mm')
  for (const [typed, said] of [
    ['', 'Type what you measured.'],
    ['thick', /number/],
    ['-0.4', /above 0/],
    ['40', /cannot be that/],
  ] as const) {
    await user.clear(field)
    if (typed) await user.type(field, typed)
    await user.click(screen.getByRole('button', { name: 'Add' }))
    expect(screen.getByRole('alert').textContent).toMatch(said)
    expect(field.value).toBe(typed) // nothing typed is lost
  }
  expect(kept()).toHaveLength(0)
  const near = String(wall.nominal!.toFixed(2))
  await user.clear(field)
  await user.type(field, `${near.replace('.', ',')}{Enter}`)
  await waitFor(() => expect(last(kept()).measures).toEqual([Number(near)]))
  expect(field.value).toBe('')
  await user.click(screen.getByRole('button', { name: near }))
  await waitFor(() => expect(last(kept()).measures).toEqual([]))
})
