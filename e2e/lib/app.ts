import { spawn, type ChildProcess } from 'node:child_process'
import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = join(fileURLToPath(import.meta.url), '..', '..', '..')

/** Where a folder with the demo lies that can be copied. */
export const DEMO_FOLDER = 'VERIMEND_E2E_DEMO'

/** The real application, started as a person starts it, on a data folder of its own. */
export class App {
  /** Told by the application at its first start, and kept for the next ones. */
  port = 0
  said = ''
  private child: ChildProcess | null = null
  readonly folder: string

  /** @param folder of its data; where none is given, and nothing is asked for otherwise, it begins with a copy of the demo */
  constructor(
    private readonly flags: string[] = [],
    folder?: string,
    private readonly env: NodeJS.ProcessEnv = {},
  ) {
    this.folder = folder ?? mkdtempSync(join(tmpdir(), 'verimend-e2e-'))
    const demo = process.env[DEMO_FOLDER]
    this.copied = demo && !folder && !flags.length && !Object.keys(env).length ? demo : null
  }
  private copied: string | null

  get url(): string {
    return `http://127.0.0.1:${this.port}`
  }

  async start(): Promise<void> {
    this.said = ''
    if (this.copied) cpSync(this.copied, this.folder, { recursive: true })
    this.copied = null
    const child = spawn(
      process.execPath,
      [
        join(root, 'scripts/start.mjs'),
        '--data',
        this.folder,
        '--port',
        String(this.port),
        '--no-build',
        ...this.flags,
      ],
      {
        stdio: ['ignore', 'pipe', 'pipe'],
        env: { ...process.env, ...this.env },
      },
    )
    this.child = child
    await new Promise<void>((resolve, reject) => {
      const hear = (d: Buffer) => {
        this.said += d.toString()
        const address = /(?:is ready|on this data folder already).*https?:\/\/127\.0\.0\.1:(\d+)/.exec(
          this.said,
        )
        if (!address) return
        this.port = Number(address[1])
        resolve()
      }
      child.stdout.on('data', hear)
      child.stderr.on('data', hear)
      child.on('exit', (code) => reject(new Error(`start ended with ${code}\n${this.said}`)))
      setTimeout(() => reject(new Error(`start took too long\n${this.said}`)), 600_000).unref()
    })
  }

  /** The starter's own process id. */
  get pid(): number {
    return this.child!.pid!
  }

  serverPid(): number {
    return this.childPid('server/dist/main.mjs')
  }

  standinPid(): number {
    return this.childPid('standin/dist/main.mjs')
  }

  private childPid(program: string): number {
    return Number(
      readFileSync(`/proc/${this.pid}/task/${this.pid}/children`, 'utf8')
        .trim()
        .split(' ')
        .find((p) => readFileSync(`/proc/${p}/cmdline`, 'utf8').includes(program)),
    )
  }

  databasePid(): number {
    return Number(readFileSync(join(this.folder, 'mariadb.pid'), 'utf8'))
  }

  /** Where the database of this start listens. */
  database(): { port: number; socket: string } {
    const line = readFileSync(`/proc/${this.databasePid()}/cmdline`, 'utf8')
    const given = (name: string) => new RegExp(`--${name}=([^\0]*)`).exec(line)![1]
    return { port: Number(given('port')), socket: given('socket') }
  }

  async stop(signal: NodeJS.Signals = 'SIGTERM'): Promise<void> {
    const child = this.child
    if (!child || child.exitCode !== null || child.signalCode !== null) return
    const gone = new Promise((r) => child.once('exit', r))
    child.kill(signal)
    await gone
    this.child = null
  }

  async end(): Promise<void> {
    await this.stop()
    rmSync(this.folder, { recursive: true, force: true })
  }
}
