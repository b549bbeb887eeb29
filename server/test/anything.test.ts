import { TestApp, type Answer } from './harness'

// the demo, so that addresses lead to something
const app = new TestApp('anything', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

const UNKNOWN = '00000000-0000-4000-8000-000000000000'
const NOUNS = ['machines', 'filaments', 'pairs', 'cases', 'trials', 'parts'] as const
const PLACES = [UNKNOWN, '%00', '..%2F..%2Fetc', `'%20OR%201=1--`, 'x'.repeat(300), '-1']
const BODIES: unknown[] = [
  undefined,
  {},
  [],
  'null',
  '{',
  { constructor: 1, set: { __proto__: null }, readings: { x: 1 } },
  '{"__proto__":{"admin":true},"set":{"__proto__":5},"results":{"constructor":"gone"},"signs":{"toString":"present"}}',
  JSON.parse('['.repeat(200) + ']'.repeat(200)),
  {
    name: 7,
    base: 'one',
    set: 'all',
    mends: {},
    plan: [],
    signs: [],
    machine: {},
    filament: null,
    marks: 'x',
  },
]

interface Operation {
  method: string
  path: string
}
async function operations(): Promise<Operation[]> {
  const { body } = await app.get('openapi.json')
  return Object.entries(body.paths as Record<string, object>).flatMap(([path, methods]) =>
    // a line that stays open answers nothing
    (path.endsWith('/events') ? [] : Object.keys(methods)).map((method) => ({
      method: method.toUpperCase(),
      path: path.replace(/^\/api\//, ''),
    })),
  )
}
/** What is wrong with an answer to nonsense; null when it is as it should be. */
function wrongWith({ status, body, headers }: Answer): string | null {
  if (status >= 500) return `${status}: ${JSON.stringify(body)?.slice(0, 200)}`
  if (status < 400) return null
  if (!/problem\+json/.test(headers.get('content-type') ?? '')) return `${status} is no problem document`
  if (body.status !== status) return `says ${body.status} with a ${status}`
  if (!/^[A-Z“].*[.?!]$/.test(body.detail)) return `no sentence: ${body.detail}`
  for (const f of body.fields ?? [])
    if (!/^[A-Z“].*\.$/.test(f.message) || /expected|invalid input/i.test(f.message))
      return `no sentence at ${f.path}: ${f.message}`
  return null
}
/** Reads an answer that need not be JSON. */
async function ask(method: string, path: string, body?: unknown): Promise<Answer> {
  const response = await fetch(`http://127.0.0.1:${app.port}/api/${path}`, {
    method,
    headers: body === undefined ? {} : { 'content-type': 'application/json' },
    body: body === undefined || typeof body === 'string' ? (body as string) : JSON.stringify(body),
  })
  const text = await response.text()
  const json = /json/.test(response.headers.get('content-type') ?? '')
  return { status: response.status, body: json && text ? JSON.parse(text) : text, headers: response.headers }
}

test('nonsense at any address, in any body, is refused in a sentence and never breaks the server', async () => {
  const all = await operations()
  expect(all.length).toBeGreaterThan(60)
  const real = new Map<string, string>()
  for (const noun of NOUNS) {
    const pair = real.get('pairs')
    const { body } = await app.get(noun === 'trials' ? `trials?pairId=${pair}` : noun)
    const [first] = noun === 'cases' ? body.cases : body
    if (first?.id) real.set(noun, first.id)
  }
  expect([...real.keys()]).toEqual(expect.arrayContaining(['machines', 'filaments', 'pairs', 'cases']))
  const bad: string[] = []
  let asked = 0
  for (const { method, path } of all) {
    const noun = path.split('/')[0]
    // the thing itself is there, and what hangs on it is nonsense; then nothing is there
    const addresses = new Set<string>()
    for (const [i, junk] of PLACES.entries()) {
      let n = 0
      addresses.add(path.replace(/\{\w+\}/g, () => (n++ === 0 && i % 2 ? (real.get(noun) ?? junk) : junk)))
    }
    for (const [i, address] of (path.includes('{') ? [...addresses] : [path]).entries())
      // every body where something is there or nothing at all; elsewhere the address itself is what is tried
      for (const body of method === 'GET' || method === 'DELETE' ? [undefined] : i < 1 ? BODIES : [{}]) {
        asked++
        const fault = wrongWith(await ask(method, address, body))
        if (fault)
          bad.push(`${method} ${address.slice(0, 90)} ← ${JSON.stringify(body)?.slice(0, 60)}: ${fault}`)
      }
  }
  expect(bad).toEqual([])
  expect(asked).toBeGreaterThan(500)
  expect((await app.get('health')).status).toBe(200)
  expect(({} as { admin?: boolean }).admin).toBeUndefined()
})

test('words that are none: queries', async () => {
  for (const q of [
    '',
    '?pairId=',
    '?pairId=%00',
    '?pairId[]=1',
    `?pairId=${'x'.repeat(5000)}`,
    '?pairId=a&pairId=b',
  ])
    for (const noun of ['trials', 'cases/lessons', 'pairs/readiness', 'photos'])
      expect([noun, q, wrongWith(await ask('GET', `${noun}${q}`))]).toEqual([noun, q, null])
})
