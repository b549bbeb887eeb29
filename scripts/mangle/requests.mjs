// Asks a running application for nonsense: what its own description allows, and that broken at random places. Nothing may be
// answered with a fault of its own, nothing may hang, and its memory stays bounded.
import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { randomOf } from '../lib/random.mjs'
import { root } from '../lib/run.mjs'

const AT_ONCE = 12
/** An answer takes no longer than this, ms, and the server no more memory, MB. */
const PATIENCE = 20_000
const MEMORY = 1500

const JUNK = [
  null,
  true,
  -1,
  0,
  1e308,
  -1e-308,
  0.1,
  4294967296,
  '',
  ' ',
  '\0',
  '../../etc/passwd',
  '<script>alert(1)</script>',
  "' OR 1=1 --",
  '=1+1',
  '\u202e',
  '\ud800',
  'NaN',
  '1,5',
  '2026-02-30',
  'x'.repeat(5000),
  [],
  {},
  [[[[]]]],
  { constructor: 1 },
  { length: 1e9 },
  '00000000-0000-4000-8000-000000000000',
  1e21,
  '9'.repeat(400),
]

/** Anything as text, whatever it has in place of its own ways to be one. */
const textOf = (v) => {
  try {
    return (v && typeof v === 'object' ? JSON.stringify(v) : String(v)).toWellFormed()
  } catch {
    return 'x'
  }
}

/** @returns how it went: counts, and what was not as it should be */
export async function mangleRequests(count, seed) {
  const random = randomOf(seed)
  const below = (n) => Math.floor(random() * n)
  const pick = (list) => list[below(list.length)]
  const folder = mkdtempSync(join(tmpdir(), 'verimend-mangle-'))
  const starter = spawn(
    process.execPath,
    [join(root, 'scripts/start.mjs'), '--data', folder, '--port', '0', '--no-build'],
    { stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, VERIMEND_LOG: 'silent' } },
  )
  let said = ''
  for (const words of [starter.stdout, starter.stderr]) words.on('data', (d) => (said += d))
  const port = await new Promise((resolve, reject) => {
    const look = setInterval(() => {
      const at = /is ready.*127\.0\.0\.1:(\d+)/.exec(said)
      if (at) resolve((clearInterval(look), Number(at[1])))
      else if (starter.exitCode !== null) reject((clearInterval(look), new Error(said)))
    }, 50)
  })
  const url = `http://127.0.0.1:${port}/api/`
  const server = readFileSync(`/proc/${starter.pid}/task/${starter.pid}/children`, 'utf8')
    .trim()
    .split(' ')
    .find((pid) => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('server/dist/main.mjs'))
  const memory = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server}/status`, 'utf8'))[1]) / 1024
  const description = await (await fetch(`${url}openapi.json`)).json()
  const resolveRef = (s) =>
    s?.$ref
      ? s.$ref
          .replace('#/', '')
          .split('/')
          .reduce((o, k) => o?.[k], description)
      : s

  // ids that are there, by noun
  const ids = { any: [] }
  const learn = async (noun, path, list = (b) => b) => {
    try {
      ids[noun] = list(await (await fetch(url + path)).json()).map((x) => x.id)
      ids.any.push(...ids[noun])
    } catch {
      ids[noun] = []
    }
  }
  const relearn = async () => {
    ids.any = []
    await learn('machines', 'machines')
    await learn('filaments', 'filaments')
    await learn('pairs', 'pairs')
    await learn('cases', 'cases', (b) => b.cases)
    await learn('parts', 'parts')
    for (const pair of (ids.pairs ?? []).slice(0, 3)) await learn('trials', `trials?pairId=${pair}`)
  }
  await relearn()

  /** Something the schema allows. */
  const made = (schema, depth = 0) => {
    const s = resolveRef(schema)
    if (!s || depth > 9) return pick(JUNK)
    if (s.const !== undefined) return s.const
    if (s.enum) return pick(s.enum)
    const one = s.anyOf ?? s.oneOf
    if (one) return made(pick(one), depth + 1)
    if (s.allOf) return Object.assign({}, ...s.allOf.map((x) => made(x, depth + 1)))
    const type = Array.isArray(s.type) ? pick(s.type) : s.type
    switch (type) {
      case 'object': {
        const out = {}
        for (const [key, of] of Object.entries(s.properties ?? {}))
          if (s.required?.includes(key) || random() < 0.5) out[key] = made(of, depth + 1)
        if (typeof s.additionalProperties === 'object')
          for (let n = below(3); n > 0; n--) {
            const names = resolveRef(s.propertyNames)?.enum
            out[names ? pick(names) : `k${below(9)}`] = made(s.additionalProperties, depth + 1)
          }
        return out
      }
      case 'array': {
        const least = s.minItems ?? 0
        return Array.from({ length: least + below(Math.min(4, (s.maxItems ?? 99) - least + 1)) }, () =>
          made(s.items, depth + 1),
        )
      }
      case 'integer':
      case 'number': {
        const low = s.minimum ?? s.exclusiveMinimum ?? -5
        const high = s.maximum ?? s.exclusiveMaximum ?? low + 300
        const v = random() < 0.2 ? pick([low, high]) : low + random() * (Math.min(high, low + 1e6) - low)
        return type === 'integer' ? Math.round(v) : Number(v.toFixed(3))
      }
      case 'boolean':
        return random() < 0.5
      case 'null':
        return null
      case 'string':
        if (s.format === 'uuid') return random() < 0.8 && ids.any.length ? pick(ids.any) : crypto.randomUUID()
        if (s.format === 'date') return '2026-05-01'
        if (s.format === 'date-time') return '2026-05-01T10:00:00.000Z'
        return pick(['Fern', 'a', 'Seed tray', 'sha'.repeat(1 + below(20))]).slice(0, s.maxLength ?? 200)
      default:
        return pick(JUNK)
    }
  }
  /** The same with one to three places in it broken. */
  const broken = (value) => {
    const out = structuredClone(value)
    for (let n = 1 + below(3); n > 0; n--) {
      let at = out
      for (let depth = below(5); depth > 0; depth--) {
        const inner =
          at && typeof at === 'object' ? Object.values(at).filter((v) => v && typeof v === 'object') : []
        if (!inner.length) break
        at = pick(inner)
      }
      if (!at || typeof at !== 'object') return structuredClone(pick(JUNK))
      const keys = Object.keys(at)
      const key = keys.length ? pick(keys) : 'x'
      const kind = below(4)
      if (kind === 0) delete at[key]
      else if (kind === 1)
        at[pick(['__proto__', 'constructor', 'extra', '0', key])] = structuredClone(pick(JUNK))
      else at[key] = structuredClone(pick(JUNK))
    }
    return out
  }

  const operations = Object.entries(description.paths).flatMap(([path, methods]) =>
    path.endsWith('/events')
      ? []
      : Object.entries(methods).map(([method, of]) => ({
          method: method.toUpperCase(),
          path: path.replace(/^\/api\//, ''),
          query: (of.parameters ?? []).filter((p) => p.in === 'query'),
          body: of.requestBody?.content?.['application/json']?.schema,
        })),
  )
  const told = { requests: 0, taken: 0, refused: 0, busy: 0, slowest: 0, memory: memory(), bad: [] }
  const ask = async () => {
    const { method, path, query, body } = pick(operations)
    const noun = path.split('/')[0]
    let n = 0
    const address = path.replace(/\{\w+\}/g, () => {
      const own = n++ === 0 ? ids[noun] : ids.any
      return random() < 0.85 && own?.length ? pick(own) : encodeURIComponent(textOf(pick(JUNK)))
    })
    const words = query.flatMap((q) =>
      random() < 0.6
        ? [`${q.name}=${encodeURIComponent(textOf(random() < 0.7 ? made(q.schema) : pick(JUNK)))}`]
        : [],
    )
    const options = { method, headers: {}, signal: AbortSignal.timeout(PATIENCE) }
    if (method !== 'GET' && method !== 'DELETE') {
      let text = JSON.stringify(random() < 0.3 ? made(body) : broken(made(body) ?? {})) ?? 'null'
      // never more than a body may be, and now and then no JSON at all
      if (random() < 0.04) text = text.slice(0, below(text.length))
      options.body = text.toWellFormed()
      options.headers['content-type'] =
        random() < 0.97
          ? 'application/json'
          : pick(['text/plain', 'application/x-www-form-urlencoded', 'application/octet-stream', 'x'])
    }
    const from = performance.now()
    try {
      const response = await fetch(`${url}${address}${words.length ? `?${words.join('&')}` : ''}`, options)
      const text = await response.text()
      if (response.status >= 500 && response.status !== 503)
        told.bad.push(
          `${response.status} ${method} ${address.slice(0, 80)} ← ${String(options.body).slice(0, 300)}: ${text.slice(0, 200)}`,
        )
      else if (response.status === 503) told.busy++
      else if (response.status >= 400) {
        told.refused++
        if (!/problem\+json/.test(response.headers.get('content-type') ?? ''))
          told.bad.push(`${response.status} without a sentence: ${method} ${address.slice(0, 80)}`)
      } else told.taken++
    } catch (error) {
      told.bad.push(`${method} ${address.slice(0, 80)} ← ${String(options.body).slice(0, 300)}: ${error}`)
    }
    told.slowest = Math.max(told.slowest, performance.now() - from)
    told.requests++
    if (told.requests % 2000 === 0) {
      told.memory = Math.max(told.memory, memory())
      // what is removed meanwhile leaves fewer addresses that lead to something
      await relearn()
      process.stderr.write(`\r${told.requests} requests, ${told.bad.length} at fault `)
    }
  }
  const worker = async () => {
    while (told.requests + AT_ONCE <= count) await ask()
  }
  await Promise.all(Array.from({ length: AT_ONCE }, worker))
  told.memory = Math.max(told.memory, memory())
  if (told.memory > MEMORY) told.bad.push(`${told.memory.toFixed(0)} MB`)
  // after all that it answers as before
  const health = await fetch(`${url}health`).catch(() => null)
  if (!health?.ok) told.bad.push('it does not answer any more')
  starter.kill('SIGTERM')
  await new Promise((r) => starter.once('exit', r))
  rmSync(folder, { recursive: true, force: true })
  return told
}
