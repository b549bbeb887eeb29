import { readFileSync } from 'node:fs'
import { childrenOf, exitOf, kill, lineOf, pause, scriptWith, until } from './processes.mjs'

/** The longest that an answer is waited for, ms. */
const PATIENCE = 60_000

/**
 * Starts the application on a data folder of its own.
 * @param data the folder
 * @param env what its processes are told besides this one's environment
 * @param flags of its start
 * @returns how it is asked and written to, and how it ends
 */
export async function startApplication(data, env = {}, ...flags) {
  const child = scriptWith(env, 'start.mjs', '--data', data, '--port', '0', '--no-build', ...flags)
  let said = ''
  for (const words of [child.stdout, child.stderr]) words.on('data', (d) => (said += d))
  const port = await until(() => /is ready.*127\.0\.0\.1:(\d+)/.exec(said)?.[1], 180_000)
  if (!port) throw new Error(`It did not start.\n${said}`)
  const address = `http://127.0.0.1:${port}/api/`
  /** @returns status and body of an answer; status 0 where there is none */
  const ask = async (method, path, body, headers = {}) => {
    try {
      const answer = await fetch(address + path, {
        method,
        headers: { ...(body && { 'content-type': 'application/json' }), ...headers },
        body: body && JSON.stringify(body),
        signal: AbortSignal.timeout(PATIENCE),
      })
      const text = await answer.text()
      return { status: answer.status, body: text ? JSON.parse(text) : null, headers: answer.headers }
    } catch {
      return { status: 0, body: null, headers: new Headers() }
    }
  }
  return {
    ask,
    port: Number(port),
    said: () => said,
    pid: (what) =>
      what === 'database'
        ? Number(readFileSync(`${data}/mariadb.pid`, 'utf8'))
        : childrenOf(child.pid).find((pid) => lineOf(pid).includes(what)),
    stop: async () => {
      kill(child.pid, 'SIGTERM')
      await exitOf(child)
      await pause(500)
    },
  }
}

/** Who writes cases and knows which of them were confirmed, and with what. */
export class Writer {
  /** Confirmed cases: the note that each was last confirmed with. */
  kept = new Map()
  /** How often each status was answered. */
  told = {}
  /** ms that each answer took. */
  took = []

  constructor(application, pair) {
    this.application = application
    this.pair = pair
  }

  static async of(application) {
    const pairs = await application.ask('GET', 'pairs')
    return new Writer(application, pairs.body[0].id)
  }

  async ask(...request) {
    const from = performance.now()
    const answer = await this.application.ask(...request)
    this.took.push(performance.now() - from)
    this.told[answer.status] = (this.told[answer.status] ?? 0) + 1
    return answer
  }

  /** Begins a case and notes something on it. @returns the status of the last answer */
  async write(note = 'x'.repeat(4000)) {
    const id = crypto.randomUUID()
    const made = await this.ask('POST', 'cases', { id, pairId: this.pair, part: 'Full' })
    if (made.status !== 201) return made.status
    this.kept.set(id, null)
    const noted = await this.ask('PUT', `cases/${id}`, {
      was: { part: 'Full', note: '' },
      part: 'Full',
      note,
    })
    if (noted.status === 200) this.kept.set(id, note)
    return noted.status
  }

  /** How many confirmed cases are not there, or not as they were confirmed. */
  async missing(application = this.application) {
    let missing = 0
    for (const [id, note] of this.kept) {
      const { status, body } = await application.ask('GET', `cases/${id}`)
      if (status !== 200 || (note !== null && body.note !== note)) missing++
    }
    return missing
  }

  /** What was answered, as `201: 40, 507: 3`. */
  get answers() {
    return Object.entries(this.told)
      .map(([status, n]) => `${status === '0' ? 'none' : status}: ${n}`)
      .join(', ')
  }
}
