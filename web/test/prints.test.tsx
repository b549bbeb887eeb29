import type { MachineLink, Print, PrintReport, Revealed } from '@verimend/contract'
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react'
import PrintPage from '../src/prints/PrintPage'
import Practise from '../src/prints/Practise'
import { PrintIt } from '../src/prints/PrintIt'
import { PrintProgress } from '../src/prints/PrintProgress'
import { Prints } from '../src/prints/Prints'
import { SendFile } from '../src/prints/SendFile'
import { Observe } from '../src/prints/Observe'
import { SimulatedMachine } from '../src/machines/SimulatedMachine'
import { demoServer, only, pairOf, problem, sent } from './demo'
import { server, show } from './show'

const PAIR = pairOf('Morning dew')
const MACHINE = PAIR.machine.id
const ID = '0a1b2c3d-4e5f-4a6b-8c7d-9e0f1a2b3c4d'
const TRIAL = '1a1b2c3d-4e5f-4a6b-8c7d-9e0f1a2b3c4d'

const printOf = (over: Partial<Print> = {}): Print => ({
  id: ID,
  machineId: MACHINE,
  pairId: PAIR.id,
  kind: 'trial',
  name: 'Temperature tower',
  trialId: TRIAL,
  caseId: null,
  afterAttempt: null,
  version: 3,
  link: 'standin',
  simulated: true,
  state: 'printing',
  reason: null,
  done: 300,
  total: 1200,
  left: 900,
  layer: 40,
  layerCount: 160,
  nozzle: 236.4,
  bed: 80.2,
  waitsFor: 0,
  enteredAt: null,
  createdAt: '2026-01-01T10:00:00.000Z',
  endedAt: null,
  ...over,
})
const linkOf = (over: Partial<MachineLink> = {}): MachineLink => ({
  machineId: MACHINE,
  pace: 'quick',
  reachable: true,
  practice: null,
  ...over,
})
const REPORT: PrintReport = {
  signs: { 'strings-thick': 2, 'dull-finish': 1, 'sagging-overhangs': 0 },
  grams: 8.24,
  seconds: 1200,
  layers: 160,
  brokeOff: false,
  box: { x0: 80, x1: 120, y0: 90, y1: 110, z0: 0, z1: 32 },
}
const ended = printOf({ state: 'done', done: 1200, layer: 160, left: 0, endedAt: '2026-01-01T10:20:00.000Z' })

/** What is written there, every space a plain one. */
const textOf = (element: Element) => element.textContent!.replace(/[\u00a0\u202f\u2009]/g, ' ')

/** The line on which prints are heard, in the test's hand. */
class Line extends EventTarget {
  static open: Line[] = []
  constructor(readonly address: string) {
    super()
    Line.open.push(this)
  }
  close(): void {
    Line.open = Line.open.filter((l) => l !== this)
  }
  tell(print: Print): void {
    act(() => void this.dispatchEvent(new MessageEvent('print', { data: JSON.stringify(print) })))
  }
}
const hide = (hidden: boolean) => {
  Object.defineProperty(document, 'hidden', { configurable: true, value: hidden })
  act(() => void document.dispatchEvent(new Event('visibilitychange')))
}

/** Also answers the picture of a print, which is no JSON. */
function withPicture(answers: Record<string, unknown>, lies = { scale: 0.5, left: 70, top: 40 }) {
  const asked = server(answers)
  const plain = globalThis.fetch
  globalThis.fetch = (async (url: string, init?: RequestInit) =>
    String(url).includes('picture.png')
      ? {
          ok: true,
          headers: new Headers({ 'X-Picture': JSON.stringify(lies) }),
          blob: async () => new Blob(['a picture'], { type: 'image/png' }),
        }
      : plain(url, init)) as unknown as typeof fetch
  return asked
}

describe('a print that runs', () => {
  test('says how far it is, how long it takes and how warm it is; is paused, gone on with and stopped', async () => {
    const asked = demoServer({
      [`POST prints/${ID}/pause`]: printOf({ state: 'paused' }),
      [`POST prints/${ID}/resume`]: printOf(),
      [`POST prints/${ID}/stop`]: printOf({ state: 'cancelled' }),
    })
    const { user, container, unmount } = show(<PrintProgress print={printOf()} />)
    expect(textOf(container)).toContain('layer 40 of 160')
    expect(textOf(container)).toContain('15 min 00 s left')
    expect(textOf(container)).toContain('nozzle 236 °C, bed 80 °C')
    expect(screen.getByRole('progressbar').getAttribute('aria-valuenow')).toBe('25')
    expect(screen.queryByRole('button', { name: 'Go on' })).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Pause' }))
    unmount()
    show(<PrintProgress print={printOf({ state: 'paused' })} />)
    expect(screen.queryByRole('button', { name: 'Pause' })).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Go on' }))
    await user.click(screen.getByRole('button', { name: 'Stop' }))
    await waitFor(() =>
      expect(sent(asked, 'POST').map((a) => a.path)).toEqual(
        ['pause', 'resume', 'stop'].map((what) => `prints/${ID}/${what}`),
      ),
    )
  })
  test('one that waits says behind how many; one that failed says why and cannot be stopped', () => {
    demoServer()
    const { unmount, container } = show(
      <PrintProgress print={printOf({ state: 'waiting', waitsFor: 3, done: 0, layer: 0 })} />,
    )
    expect(textOf(container)).toContain('2 before it')
    expect(textOf(container)).not.toContain('left')
    unmount()
    const failed = printOf({ state: 'failed', reason: 'The machine lost power in layer 12.' })
    const { container: after } = show(<PrintProgress print={failed} />)
    expect(textOf(after)).toContain('The machine lost power in layer 12.')
    expect(screen.queryByRole('button', { name: 'Stop' })).toBeNull()
  })
  test('is seen at the top of every screen, and told when it ends', async () => {
    Object.assign(globalThis, { EventSource: Line })
    demoServer()
    show(<Prints />)
    expect(Line.open).toHaveLength(1)
    Line.open[0].tell(printOf())
    expect(await screen.findByRole('button', { name: /25 %|printing/i })).toBeTruthy()
    Line.open[0].tell(ended)
    expect(await screen.findByText(/Temperature tower/)).toBeTruthy()
    await waitFor(() => expect(screen.queryByRole('progressbar')).toBeNull())
  })
  test('a tab that nobody sees holds no line, and asks after what ended meanwhile', async () => {
    Object.assign(globalThis, { EventSource: Line })
    Line.open = []
    const asked = demoServer({ [`GET prints/${ID}`]: ended })
    const { unmount } = show(<Prints />)
    Line.open[0].tell(printOf())
    hide(true)
    expect(Line.open).toHaveLength(0)
    hide(false)
    expect(Line.open).toHaveLength(1)
    act(() => void Line.open[0].dispatchEvent(new Event('open')))
    await waitFor(() => expect(asked.some((a) => a.path === `prints/${ID}`)).toBe(true))
    expect(await screen.findByText(/Temperature tower/)).toBeTruthy()
    unmount()
    expect(Line.open).toHaveLength(0)
  })
})

describe('sending', () => {
  const what = { kind: 'trial', trialId: TRIAL } as const
  const ui = <PrintIt pair={PAIR} what={what} label="Print it" where={{ trialId: TRIAL }} />
  test('nothing is offered on a machine that is real', async () => {
    demoServer({ 'GET links': [] })
    const { container } = show(ui)
    await waitFor(() => expect(container.querySelector('[data-testid="print-it"]')).toBeNull())
  })
  test('sends once, shows how it goes, and takes what there is to read', async () => {
    let list: Print[] = []
    let now = ended
    const asked = demoServer({
      'GET links': [linkOf()],
      [`GET prints?trialId=${TRIAL}`]: () => ({ prints: list, total: list.length }),
      [`GET prints/${ID}`]: () => now,
      'POST prints': () => {
        list = [ended]
        return ended
      },
      [`POST prints/${ID}/enter`]: () => (now = { ...ended, enteredAt: '2026-01-01T10:21:00.000Z' }),
    })
    const { user } = show(ui)
    await user.click(await screen.findByRole('button', { name: 'Print it' }))
    const body = await only<{ pairId: string; what: typeof what; id: string }>(asked, 'POST')
    expect(body).toMatchObject({ pairId: PAIR.id, what })
    await user.click(await screen.findByRole('button', { name: 'Enter what there is to read' }))
    expect(await screen.findByText('What there is to see is noted.')).toBeTruthy()
    expect(sent(asked, 'POST').map((a) => a.path)).toEqual(['prints', `prints/${ID}/enter`])
  })
  test('a machine that does not answer yet is waited for; one that refuses says why', async () => {
    demoServer({ 'GET links': [linkOf({ reachable: false })] })
    const { unmount } = show(ui)
    expect(await screen.findByText(/just starting/)).toBeTruthy()
    expect((screen.getByRole('button', { name: 'Print it' }) as HTMLButtonElement).disabled).toBe(true)
    unmount()
    const detail = 'Line 41 asks for 320 °C; the machine goes to 260 °C.'
    demoServer({ 'GET links': [linkOf()], 'POST prints': problem(422, detail) })
    const { user } = show(ui)
    await user.click(await screen.findByRole('button', { name: 'Print it' }))
    expect(await screen.findByText(detail)).toBeTruthy()
  })
})

describe('a file that is looked at', () => {
  const ui = <SendFile pair={PAIR} name="clip.gcode" sha256={'a'.repeat(64)} caseId="the-case" />
  test('is sent to a simulated machine, once however often the answer is lost, and its print is opened', async () => {
    let lost = true
    const asked = demoServer({
      'GET links': [linkOf()],
      'POST prints': () => {
        if (!lost) return printOf({ kind: 'file', trialId: null, caseId: 'the-case' })
        lost = false
        return problem(503, 'The database is starting again.')
      },
    })
    const { user, where } = show(ui)
    const print = await screen.findByRole('button', { name: `Print it on ${PAIR.machine.machine.name}` })
    await user.click(print)
    expect(await screen.findByText('The database is starting again.')).toBeTruthy()
    await user.click(print)
    await waitFor(() => expect(where()).toBe(`/prints/${ID}`))
    const [first, second] = sent(asked, 'POST').map((a) => a.body as { id: string; caseId: string })
    expect(first.id).toBe(second.id)
    expect(first).toMatchObject({
      caseId: 'the-case',
      what: { kind: 'file', name: 'clip.gcode', sha256: 'a'.repeat(64) },
    })
  })
  test('is not offered to a real machine', async () => {
    demoServer({ 'GET links': [] })
    show(ui)
    await waitFor(() => expect(screen.queryByRole('button')).toBeNull())
  })
})

describe('a print at its address', () => {
  const at = { at: `/prints/${ID}`, route: '/prints/:id' }
  test('the part with what there is to see, measured between the jaws', async () => {
    const asked = withPicture({
      [`GET prints/${ID}`]: ended,
      [`GET prints/${ID}/report`]: REPORT,
      [`GET pairs/${PAIR.id}`]: PAIR,
      [`POST prints/${ID}/measure`]: [40.13, 40.11, 40.12],
    })
    const { user } = show(<PrintPage />, at)
    const seen = await screen.findByRole('region', { name: 'What there is to see' })
    await waitFor(() => expect(within(seen).getAllByRole('listitem')).toHaveLength(2))
    expect(within(seen).getAllByRole('listitem')[0].textContent).toContain('clear')
    expect(textOf(seen)).toContain('Looked for and not there, 1')
    expect(textOf(seen)).toContain('8.2 g on the scale, 160 layers, 20 min')
    const image = await screen.findByRole('img', { name: 'The part from the front' })
    expect(image.getAttribute('src')).toMatch(/^data:image\/png;base64,/)
    await user.click(screen.getByRole('button', { name: 'Measure' }))
    expect((await screen.findByText(/^40\.12.mm$/)).tagName).toBe('STRONG')
    // the foot flares: it is left out until the person says otherwise
    expect(await only(asked, 'POST')).toMatchObject({
      what: 'outside',
      axis: 'x',
      repeats: 3,
      region: { x0: 80, x1: 120, z0: 1, z1: 32 },
    })
    // another thing to measure: what was read no longer holds
    await user.click(screen.getByText('On the scale'))
    expect(screen.queryByText(/^40\.12.mm$/)).toBeNull()
  })
  test('a block drawn on the picture is what lies between the jaws', async () => {
    const asked = withPicture({
      [`GET prints/${ID}`]: ended,
      [`GET prints/${ID}/report`]: REPORT,
      [`GET pairs/${PAIR.id}`]: PAIR,
      [`POST prints/${ID}/measure`]: [],
    })
    const { user } = show(<PrintPage />, at)
    const image = await screen.findByRole('img', { name: 'The part from the front' })
    for (const [key, value] of Object.entries({ naturalWidth: 120, naturalHeight: 80 }))
      Object.defineProperty(image, key, { configurable: true, value })
    fireEvent.load(image)
    const sheet = image.parentElement!
    sheet.setPointerCapture = () => undefined
    sheet.getBoundingClientRect = () => ({ left: 10, top: 20, width: 240, height: 160 }) as DOMRect
    const point = (kind: 'pointerDown' | 'pointerMove' | 'pointerUp', clientX: number, clientY: number) =>
      fireEvent(
        sheet,
        Object.assign(new MouseEvent(kind.toLowerCase(), { bubbles: true, clientX, clientY }), {
          pointerId: 1,
        }),
      )
    // two pixels of the screen for one of the picture, half a millimetre each: four pixels a millimetre
    point('pointerDown', 50, 60)
    point('pointerMove', 90, 100)
    point('pointerUp', 90, 100)
    await user.click(screen.getByRole('button', { name: 'Measure' }))
    expect(await only(asked, 'POST')).toMatchObject({
      region: { x0: 80, x1: 90, z0: 20, z1: 30, y0: 90, y1: 110 },
    })
    expect(await screen.findByText('Nothing lies between the jaws there.')).toBeTruthy()
  })
  test('a file carried by hand, one of which nothing was made, one that is not there', async () => {
    const answers = { [`GET pairs/${PAIR.id}`]: PAIR }
    const away = printOf({ link: 'download', simulated: false, state: 'handed-over', done: 0 })
    server({ ...answers, [`GET prints/${ID}`]: away })
    const first = show(<PrintPage />, at)
    expect(await screen.findByText(/carried to its machine by hand/)).toBeTruthy()
    expect(screen.queryByText('Simulated')).toBeNull()
    first.unmount()
    server({ ...answers, [`GET prints/${ID}`]: printOf({ state: 'cancelled', done: 0 }) })
    const second = show(<PrintPage />, at)
    expect(await screen.findByText('Nothing was made.')).toBeTruthy()
    second.unmount()
    server({ [`GET prints/${ID}`]: problem(404, 'This print is not there.') })
    show(<PrintPage />, at)
    expect(await screen.findByText('This print is not there.')).toBeTruthy()
  })
})

describe('practice', () => {
  test('a machine of the kind chosen, with as many faults; its case is opened', async () => {
    const asked = demoServer({
      'POST practice': {
        machineId: MACHINE,
        filamentId: PAIR.filament.id,
        pairId: PAIR.id,
        caseId: 'the-case',
      },
    })
    const { user, where } = show(<Practise />)
    await user.click(screen.getByText('Enclosed'))
    await user.click(screen.getByText('Two at once'))
    await user.click(screen.getByRole('button', { name: 'Practise on it' }))
    expect(await only(asked, 'POST')).toMatchObject({ kind: 'enclosed', hidden: 2 })
    await waitFor(() => expect(where()).toBe('/cases/the-case'))
  })
  test('the truth: what was wrong, what of it was put right, at what cost', async () => {
    const truthOf = (label: string, wasBroken: boolean, broken: boolean, value: number) => ({
      id: label,
      label,
      unit: 'mm',
      digits: 2,
      value,
      broken,
      wasBroken,
    })
    const shown: Revealed = {
      truths: [
        truthOf('Slack of the tube', true, false, 0.4),
        truthOf('Gap error', true, true, 0.09),
        truthOf('Bow of the bed', false, false, 0.02),
      ],
      score: { found: 1, mended: 1, of: 2, prints: 3, grams: 21.4, minutes: 66 },
    }
    const asked = demoServer({
      'GET prints': { prints: [ended], total: 1 },
      [`POST links/${MACHINE}/reveal`]: shown,
      [`PUT links/${MACHINE}`]: linkOf({ pace: 'real' }),
    })
    const practice = { hidden: 2, startedAt: '2026-01-01T10:00:00.000Z', revealedAt: null }
    const { user } = show(<SimulatedMachine link={linkOf({ practice })} />)
    expect(screen.getByText(/Two things are wrong/)).toBeTruthy()
    // the truth is not sent before it is asked for
    expect(asked.some((a) => a.path.endsWith('reveal'))).toBe(false)
    await user.click(screen.getByRole('button', { name: 'Show the truth' }))
    const truth = await screen.findByLabelText('The truth')
    const rows = within(truth).getAllByRole('listitem')
    expect(textOf(rows[0])).toMatch(/Slack of the tube.*0\.4 mm.*put right/)
    expect(textOf(rows[1])).toMatch(/Gap error.*0\.09 mm.*still so/)
    expect(textOf(truth)).toContain('Named 1 of 2, put right 1 of 2, with 3 prints, 21 g')
  })
  test('a check is made on it, and what is seen is told as a person sees it', async () => {
    let visit = 0
    const look = `links/${MACHINE}/observed?pairId=${PAIR.id}&check=measure-diameter&visit=`
    const answer = (at: number) => () => {
      visit = at
      return { text: 'Measured in five places.', values: [1.74, 1.75, 1.76], unit: 'mm' }
    }
    demoServer({
      'GET links': [linkOf()],
      [`GET ${look}1`]: answer(1),
      [`GET ${look}2`]: answer(2),
    })
    const { user, unmount } = show(<Observe pair={PAIR} check="measure-diameter" />)
    const again = await screen.findByRole('button', { name: `Do it on ${PAIR.machine.machine.name}` })
    await user.click(again)
    expect(await screen.findByText('1.74, 1.75, 1.76 mm')).toBeTruthy()
    await user.click(again)
    await waitFor(() => expect(visit).toBe(2))
    unmount()
    // what is answered by looking at a print is not asked of the machine
    const { container } = show(<Observe pair={PAIR} check={'look-close' as never} />)
    expect(container.querySelector('button')).toBeNull()
  })
})
