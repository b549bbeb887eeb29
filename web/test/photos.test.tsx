import { createEvent, fireEvent, screen, waitFor, within } from '@testing-library/react'
import { MAX_PHOTO_BYTES, type CasePhoto, type UpdatePhoto } from '@verimend/contract'
import { quantity } from '@verimend/core/quantity'
import { BeforeAfter } from '../src/photos/BeforeAfter'
import { PhotoStrip } from '../src/photos/PhotoStrip'
import { caseOf, demoServer, only, pick, problem, sent, undo } from './demo'
import { show, type Answers } from './show'

const kase = caseOf('Sensor hood')
const photo = (n: number, more: Partial<CasePhoto> = {}): CasePhoto => ({
  id: `0190d8a4-7d1c-7000-8000-0000000000${n}${n}`,
  afterAttempt: 0,
  width: 1000,
  height: 800,
  note: '',
  marks: [],
  scale: null,
  createdAt: '2026-01-01T00:00:00Z',
  ...more,
})
const strip = (photos: CasePhoto[], answers: Answers = {}) => {
  const asked = demoServer(answers)
  const view = show(<PhotoStrip caseId={kase.id} photos={photos} attempts={kase.attempts} />)
  return { asked, ...view }
}
const image = (name: string, size = 1000) => {
  const made = new File(['x'], name, { type: 'image/jpeg' })
  Object.defineProperty(made, 'size', { value: size })
  return made
}
const choose = (files: File[]) =>
  fireEvent.change(screen.getByLabelText('Choose photos'), { target: { files } })

/** Answers to photos that are sent, which are no text. */
function takingPhotos(answer: (file: Blob) => { status: number; body: unknown }) {
  const asked = demoServer()
  const others = globalThis.fetch
  const files: Blob[] = []
  globalThis.fetch = ((url: string, init: { method?: string; body?: unknown } = {}) => {
    if (!(init.body instanceof Blob)) return others(url, init as RequestInit)
    files.push(init.body)
    const { status, body } = answer(init.body)
    return Promise.resolve({ ok: status < 400, status, json: () => Promise.resolve(body) })
  }) as typeof fetch
  return { asked, files }
}

test('one that had no answer is sent again under its id; what is refused is not', async () => {
  const asked: string[] = []
  let away = true
  demoServer()
  const others = globalThis.fetch
  globalThis.fetch = ((url: string, init: { body?: unknown } = {}) => {
    if (!(init.body instanceof Blob)) return others(url, init as RequestInit)
    asked.push(url)
    if ((init.body as File).name === 'bad.jpg') {
      const body = problem(422, 'This is not a picture.')
      return Promise.resolve({ ok: false, status: 422, json: () => Promise.resolve(body) })
    }
    if (away) return Promise.reject(new TypeError('no answer'))
    return Promise.resolve({ ok: true, status: 200, json: () => Promise.resolve(kase) })
  }) as typeof fetch
  show(<PhotoStrip caseId={kase.id} photos={[]} attempts={[]} />)
  choose([image('one.jpg'), image('bad.jpg')])
  await waitFor(() => expect(screen.getAllByRole('alert')).toHaveLength(2))
  away = false
  fireEvent.click(screen.getByRole('button', { name: 'Try again' }))
  await waitFor(() => expect(screen.getAllByRole('alert')).toHaveLength(1))
  expect(screen.queryByRole('button', { name: 'Try again' })).toBeNull()
  expect(asked[2]).toBe(asked[0])
  expect(asked[1]).not.toBe(asked[0])
})

test('several at once: each is sent, one that is refused is named, the others stand', async () => {
  const { files } = takingPhotos((f) =>
    (f as File).name === 'bad.jpg'
      ? { status: 400, body: problem(400, 'This is not a picture.') }
      : { status: 200, body: kase },
  )
  show(<PhotoStrip caseId={kase.id} photos={[]} attempts={[]} />)
  choose([image('one.jpg'), image('bad.jpg'), image('three.jpg')])
  expect((await screen.findByRole('alert')).textContent).toContain('bad.jpg: This is not a picture.')
  await waitFor(() => expect(files).toHaveLength(3))
  await waitFor(() => expect(screen.getByRole('status').textContent).toMatch(/^Photos: drop or paste/))
})

test('one that is too large is not sent; what is no picture is passed over', async () => {
  const { files } = takingPhotos(() => ({ status: 200, body: kase }))
  show(<PhotoStrip caseId={kase.id} photos={[]} attempts={[]} />)
  choose([image('huge.jpg', MAX_PHOTO_BYTES + 1), new File(['x'], 'notes.txt', { type: 'text/plain' })])
  expect((await screen.findByRole('alert')).textContent).toMatch(/^huge\.jpg: A photo has at most 25 MB/)
  expect(files).toEqual([])
})

test('pasted and dropped, as well as chosen', async () => {
  const { files } = takingPhotos(() => ({ status: 200, body: kase }))
  show(<PhotoStrip caseId={kase.id} photos={[]} attempts={[]} />)
  const paste = createEvent.paste(document.body, { clipboardData: { files: [image('pasted.png')] } })
  fireEvent(document.body, paste)
  await waitFor(() => expect(files).toHaveLength(1))
  fireEvent.drop(screen.getByTestId('drop'), { dataTransfer: { files: [image('dropped.png')] } })
  await waitFor(() => expect(files).toHaveLength(2))
  // a paste of words is the page's own
  const words = createEvent.paste(document.body, { clipboardData: { files: [] } })
  fireEvent(document.body, words)
  expect(words.defaultPrevented).toBe(false)
})

test('a photo taken out comes back', async () => {
  const one = photo(1)
  const { user, asked } = strip([one], {
    [`DELETE photos/${one.id}`]: kase,
    [`POST photos/${one.id}/restore`]: kase,
  })
  await user.click(screen.getByRole('button', { name: /^Open the photo/ }))
  await user.click(screen.getByRole('button', { name: 'Take it out' }))
  await undo(/The photo is taken out/)
  await waitFor(() => expect(sent(asked, 'POST')).toHaveLength(1))
})

/** A pointer over the picture, which is shown at half its size. */
function draw(from: [number, number], to: [number, number]) {
  const svg = screen.getByTestId('marking')
  svg.getBoundingClientRect = () => ({ left: 0, top: 0, width: 500, height: 400 }) as DOMRect
  ;(svg as unknown as { setPointerCapture: () => void }).setPointerCapture = () => undefined
  const at = ([clientX, clientY]: [number, number]) => ({ clientX, clientY, bubbles: true })
  for (const [kind, where] of [
    ['pointerdown', from],
    ['pointermove', to],
    ['pointerup', to],
  ] as const)
    fireEvent(svg, new MouseEvent(kind, at(where)))
}
const opened = async (one: CasePhoto, answers: Answers = {}) => {
  const view = strip([one], { [`PUT photos/${one.id}`]: kase, ...answers })
  await view.user.click(screen.getByRole('button', { name: /^Open the photo/ }))
  await screen.findByTestId('marking')
  return view
}

test('a ring drawn from its middle outwards, in pixels of the picture; a mere touch is none', async () => {
  const { asked } = await opened(photo(1))
  draw([100, 100], [101, 100])
  expect(sent(asked, 'PUT')).toEqual([])
  draw([100, 100], [130, 140])
  const { marks } = await only<UpdatePhoto>(asked, 'PUT')
  expect(marks).toEqual([{ kind: 'ring', x: 200, y: 200, r: 100 }])
})

test('a mark that leaves the picture ends at its edge', async () => {
  const { user, asked } = await opened(photo(1))
  await user.click(screen.getByText('Length'))
  draw([400, 100], [900, 900])
  const { marks } = await only<UpdatePhoto>(asked, 'PUT')
  expect(marks).toEqual([{ kind: 'length', x1: 800, y1: 200, x2: 1000, y2: 800 }])
})

test('one known length gives the scale, and every line its length', async () => {
  const line = { kind: 'length' as const, x1: 0, y1: 0, x2: 300, y2: 400 }
  const { user, asked, unmount } = await opened(photo(1, { marks: [line] }))
  await user.click(screen.getByText('Length'))
  await user.type(screen.getByLabelText('Length of the last line, mm'), '20')
  await user.click(screen.getByRole('button', { name: 'Set the scale by it' }))
  expect((await only<UpdatePhoto>(asked, 'PUT')).scale).toBeCloseTo(20 / 500, 10)
  unmount()
  const known = await opened(photo(1, { marks: [line, { ...line, x2: 0, y2: 200 }], scale: 0.04 }))
  const texts = [...screen.getByTestId('marking').querySelectorAll('text')].map((t) => t.textContent)
  expect(texts).toEqual([quantity(20, 'mm', 1), quantity(8, 'mm', 1)])
  await known.user.click(screen.getByText('Length'))
  await known.user.click(screen.getByRole('button', { name: 'Forget the scale' }))
  expect((await only<UpdatePhoto>(known.asked, 'PUT')).scale).toBeNull()
})

test('the last mark is taken away first; a note is kept when it is left; and which print it shows', async () => {
  const ring = { kind: 'ring' as const, x: 10, y: 10, r: 20 }
  const { user, asked } = await opened(photo(1, { marks: [ring, { ...ring, x: 90 }] }))
  await user.click(screen.getByRole('button', { name: 'Take the last mark away' }))
  await waitFor(() => expect(sent(asked, 'PUT')[0]?.body).toMatchObject({ marks: [ring] }))
  await user.type(screen.getByLabelText('Note on the photo'), 'left corner')
  await user.tab()
  await waitFor(() => expect(sent(asked, 'PUT')[1]?.body).toMatchObject({ note: 'left corner' }))
  await pick('Which print it shows', 'after attempt 1')
  await waitFor(() => expect(sent(asked, 'PUT')[2]?.body).toMatchObject({ afterAttempt: 1 }))
})

test('a change that is refused is said beside the photo', async () => {
  const one = photo(1)
  const { user } = await opened(one, { [`PUT photos/${one.id}`]: problem(404, 'This photo is gone.') })
  await user.type(screen.getByLabelText('Note on the photo'), 'x')
  await user.tab()
  await screen.findByText('This photo is gone.')
})

test('before and after: two photos over each other, which ones is chosen, the slider shows more of one', async () => {
  demoServer()
  const photos = [photo(1, { note: 'first' }), photo(2, { note: 'second' }), photo(3, { note: 'third' })]
  show(<BeforeAfter photos={photos} />)
  const figure = within(screen.getByLabelText('Before and after'))
  const sources = () => figure.getAllByRole('img', { name: /^The part/ }).map((i) => i.getAttribute('src'))
  expect(sources()).toEqual([`/api/photos/${photos[2].id}.jpg`, `/api/photos/${photos[0].id}.jpg`])
  await pick('The photo on the left', '2: second')
  expect(sources()[1]).toBe(`/api/photos/${photos[1].id}.jpg`)
  const over = () => figure.getAllByRole('img', { name: /^The part/ })[1].style.clipPath
  expect(over()).toBe('inset(0 50% 0 0)')
  const slider = screen.getByLabelText('How much of the left photo shows')
  fireEvent.keyDown(slider, { key: 'ArrowRight', keyCode: 39 })
  await waitFor(() => expect(over()).toBe('inset(0 49% 0 0)'))
})
