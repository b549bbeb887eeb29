import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import type { CaseDetail } from '@verimend/contract'
import { findingContext, findingsOf } from '@verimend/core/diagnosis'
import { given, partFile } from './part'
import { correlate } from '@verimend/core/toolpath'
import { said } from '@verimend/core/quantity'
import { say } from '@verimend/core/words'
import PathsScreen from '../src/paths/PathsScreen'
import { onBench } from '../src/pairs/onBench'
import { answerTo, caseOf, demoServer, only, pairOf, pick, problem, sent } from './demo'
import { show, type Answers } from './show'
import { openFiles } from '../src/work/openFiles'
import { started, withWorkers } from './worker'

withWorkers()
const hinge = caseOf('Vent hinge')
const [file] = hinge.files
const pair = pairOf('Morning dew')
beforeEach(() => {
  localStorage.clear()
  localStorage.setItem('verimend.pair', pair.id)
})
afterEach(() => openFiles.close())
const ofCase = (kase: CaseDetail = hinge, answers: Answers = {}) => {
  const asked = demoServer({ [`GET cases/${kase.id}`]: kase, ...answers })
  const view = show(<PathsScreen />, { at: `/paths?case=${kase.id}&file=${file.id}`, route: '/paths' })
  return { asked, ...view }
}
const tab = (name: string) => screen.getByText(name, { selector: '.ant-segmented-item-label' })

test('a case’s file: its figures, its strips by height, and the findings that core makes', async () => {
  ofCase()
  await screen.findByTestId('silhouette')
  expect(document.body.textContent).toContain(`${file.reading.layerCount} layers`)
  const findings = findingsOf(file.reading, findingContext(onBench(pair)))
  await waitFor(() =>
    expect(
      [...document.querySelectorAll<HTMLElement>('[data-finding]')].map((f) => f.dataset.finding),
    ).toEqual(findings.filter((f) => f.severity !== 'good').map((f) => f.kind)),
  )
  const good = findings.filter((f) => f.severity === 'good')
  if (good.length) fireEvent.click(screen.getByText(/as they should be$/))
  expect(document.querySelectorAll('[data-finding]')).toHaveLength(findings.length)
})

test('heights are marked by typing, what changes there is ranked as core ranks it, and made evidence', async () => {
  const { user, asked } = ofCase(hinge, { [`POST cases/${hinge.id}/marks`]: hinge })
  await screen.findByTestId('silhouette')
  await user.click(screen.getByRole('button', { name: 'Mark a height' }))
  await screen.findByLabelText('What changes there')
  const from = Number(screen.getByLabelText<HTMLInputElement>('Flaw 1, from, mm').value)
  const to = Number(screen.getByLabelText<HTMLInputElement>('Flaw 1, to, mm').value)
  const best = correlate(file.reading.layers, [{ from, to }])[0]
  const first = document.querySelector<HTMLElement>('[data-match]')!
  expect(first.dataset.match).toBe(best.id)
  expect(first.textContent).toContain(say(best.reason))
  await user.click(within(first).getByRole('button', { name: 'Make it evidence' }))
  expect(await only(asked, 'POST')).toEqual({
    fileId: file.id,
    heightRanges: [{ from, to }],
    quantity: best.id,
  })
})

test('a second height, corrected, taken away, and all cleared', async () => {
  const { user } = ofCase()
  await screen.findByTestId('silhouette')
  await user.click(screen.getByRole('button', { name: 'Mark a height' }))
  await user.click(screen.getByRole('button', { name: 'Mark another height' }))
  const second = screen.getByLabelText<HTMLInputElement>('Flaw 2, from, mm')
  await user.clear(second)
  await user.type(second, '1.5')
  expect(second.value).toBe('1.5')
  await user.click(screen.getAllByRole('button', { name: 'Remove' })[0])
  expect(screen.queryByLabelText('Flaw 2, from, mm')).toBeNull()
  expect(screen.getByLabelText<HTMLInputElement>('Flaw 1, from, mm').value).toBe('1.5')
  await user.click(screen.getByRole('button', { name: 'Mark another height' }))
  await user.click(screen.getByRole('button', { name: 'Clear' }))
  expect(screen.queryByLabelText('Flaw 1, from, mm')).toBeNull()
})

test('evidence of the case stands above, and can be taken back', async () => {
  const marked: CaseDetail = {
    ...hinge,
    marks: [
      {
        id: '0190d8a4-7d1c-7000-8000-00000000000b',
        fileId: file.id,
        heightRanges: [{ from: 5, to: 8 }],
        quantity: 'fan',
        strength: 0.9,
        p: 0.001,
        reason: said('The fan changes there.'),
      },
    ],
  }
  const { user, asked } = ofCase(marked, {
    [`DELETE cases/${hinge.id}/marks/${marked.marks[0].id}`]: hinge,
  })
  const evidence = within(await screen.findByLabelText('Evidence in the case'))
  // the marked heights are those that are looked at
  expect(Number(screen.getByLabelText<HTMLInputElement>('Flaw 1, to, mm').value)).toBe(8)
  await user.click(evidence.getByRole('button', { name: 'No evidence after all' }))
  await waitFor(() => expect(sent(asked, 'DELETE')).toHaveLength(1))
  await waitFor(() => expect(screen.queryByLabelText('Evidence in the case')).toBeNull())
})

test('seam, filament and figures, each drawn from the reading', async () => {
  const { user } = ofCase()
  await screen.findByTestId('silhouette')
  await user.click(tab('Seam'))
  await waitFor(() => expect(screen.getByLabelText('The paths').querySelector('svg, .empty')).toBeTruthy())
  await user.click(tab('Filament'))
  expect(screen.getByLabelText('The paths').textContent!.length).toBeGreaterThan(40)
  await user.click(tab('Figures'))
  expect(screen.getByLabelText('The paths').querySelectorAll('table').length).toBeGreaterThan(0)
  await user.click(tab('From above'))
  expect(screen.getByText(/Only the reading is here, not the moves/)).toBeTruthy()
})

test('the strips that are shown are chosen, and stay chosen', async () => {
  const { unmount } = ofCase()
  await screen.findByTestId('silhouette')
  const strips = () => screen.getAllByRole('img', { name: / by height, at most / }).length
  const before = strips()
  await pick('Strips to show', /./)
  await waitFor(() => expect(strips()).not.toBe(before))
  const now = strips()
  unmount()
  ofCase()
  await screen.findByTestId('silhouette')
  expect(strips()).toBe(now)
})

test('two files side by side: the other is one of this pair’s cases', async () => {
  const other = { ...file, id: '0190d8a4-7d1c-7000-8000-00000000000c', name: 'older.gcode' }
  const both = { ...hinge, files: [other, file] }
  const heads = answerTo<{ id: string }[]>(`cases/files?pairId=${pair.id}`)
  const { user } = ofCase(both, {
    [`GET cases/files?pairId=${pair.id}`]: [{ ...heads[0], id: other.id, name: other.name }, ...heads],
  })
  await screen.findByTestId('silhouette')
  await user.click(tab('Two files'))
  await pick('Compare with a file of a case', /older\.gcode/)
  await waitFor(() => expect(screen.getByLabelText('The paths').textContent).toContain('older.gcode'))
})

test('a file that was taken out of its case, and a case that is gone', async () => {
  const { user, where, unmount } = ofCase({ ...hinge, files: [] })
  await user.click(await screen.findByRole('button', { name: 'To the paths' }))
  expect(where()).toBe('/paths')
  unmount()
  ofCase(hinge, { [`GET cases/${hinge.id}`]: problem(404, 'This case is not there any more.') })
  await screen.findByText(/not there any more/)
})

const drop = (dropped: File) =>
  fireEvent.change(screen.getByLabelText('G-code file'), { target: { files: [dropped] } })
const dropped = async () => {
  const asked = demoServer()
  const view = show(<PathsScreen />, { at: '/paths', route: '/paths' })
  await screen.findByLabelText('G-code file')
  return { asked, ...view }
}

test('without a file: those of the pair’s cases, each with its way there', async () => {
  await dropped()
  const list = within(await screen.findByLabelText('Files of this pair’s cases'))
  expect(list.getByText(file.name).getAttribute('href')).toBe(`/paths?case=${hinge.id}&file=${file.id}`)
})

test('a file dropped here is read in a worker; nothing of it is sent', async () => {
  const { asked, user } = await dropped()
  drop(given(partFile()))
  await screen.findByTestId('silhouette')
  expect(document.body.textContent).toContain('part.gcode')
  expect(sent(asked, 'POST')).toEqual([])
  // its moves are still there: a layer can be looked at from above
  await user.click(tab('From above'))
  await waitFor(() => expect(screen.getByLabelText('The paths').querySelector('canvas')).toBeTruthy())
})

test('a file that is none says what is wrong, and goes away when told to', async () => {
  const { user } = await dropped()
  drop(given('this is a letter to a friend\n', 'letter.gcode'))
  const alert = await screen.findByRole('alert')
  expect(alert.textContent).toMatch(/^letter\.gcode: .{10}/)
  await user.click(within(alert).getByRole('button', { name: 'Dismiss' }))
  expect(screen.queryByRole('alert')).toBeNull()
})

test('a reading that is called off ends its worker; a reader that dies says so', async () => {
  const { user } = await dropped()
  drop(given(partFile()))
  await user.click(await screen.findByRole('button', { name: 'Cancel' }))
  expect(started.at(-1)!.ended).toBe(true)
  expect(screen.queryByTestId('silhouette')).toBeNull()
  drop(given(partFile()))
  await screen.findByText(/^Reading part/)
  started.at(-1)!.onerror!(new Event('error'))
  expect((await screen.findByRole('alert')).textContent).toContain('try the file once more')
})

test('without a pair the screen says why it needs one', async () => {
  localStorage.clear()
  demoServer({ 'GET pairs': [] })
  show(<PathsScreen />)
  await screen.findByText(/Choose a pair first/)
})
