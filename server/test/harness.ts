import { spawn } from 'node:child_process'
import { closeSync, cpSync, mkdtempSync, openSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { INestApplication } from '@nestjs/common'
import { createConnection } from 'mariadb'
import { createApp } from '../src/app'
import { readConfig } from '../src/config'

export interface Answer {
  status: number
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  body: any
  headers: Headers
}

/** The real application on a database of its own. */
export class TestApp {
  app!: INestApplication
  port = 0
  private readonly folder = mkdtempSync(join(tmpdir(), 'verimend-test-'))
  readonly files = join(this.folder, 'files')

  constructor(
    private readonly name: string,
    /** Whether it begins with the demo: with a copy, or filled by the application itself. */
    private readonly demo: boolean | 'filled' = false,
    /** Settings of its own. */
    private readonly env: NodeJS.ProcessEnv = {},
  ) {}

  private get database(): string {
    return `verimend_${this.name}`
  }

  /** How the tests' database is reached. */
  get access() {
    return {
      host: '127.0.0.1',
      port: Number(process.env.VERIMEND_DB_PORT),
      user: 'verimend',
      password: process.env.VERIMEND_DB_PASSWORD!,
      name: this.database,
    }
  }

  /** Makes the database, empty. */
  async createDatabase(): Promise<void> {
    const connection = await createConnection({
      host: '127.0.0.1',
      port: Number(process.env.VERIMEND_DB_PORT),
      user: 'verimend',
      password: process.env.VERIMEND_DB_PASSWORD,
      // a busy machine answers late
      connectTimeout: 30_000,
    })
    await connection.query(`CREATE DATABASE IF NOT EXISTS ${this.database} CHARACTER SET utf8mb4`)
    await connection.end()
  }

  /** Puts the demo, which the tests' database was filled with once, into the database of this application. */
  private async copyDemo(): Promise<void> {
    const kept = process.env.VERIMEND_TEST_DEMO!
    const { host, port, user, password, name } = this.access
    const args = ['--no-defaults', `--host=${host}`, `--port=${port}`, `--user=${user}`, name]
    const rows = openSync(join(kept, 'rows.sql'), 'r')
    await new Promise<void>((resolve, reject) =>
      spawn('mariadb', args, {
        env: { ...process.env, MYSQL_PWD: password },
        stdio: [rows, 'ignore', 'inherit'],
      }).on('exit', (code) => (code === 0 ? resolve() : reject(new Error(`mariadb ended with ${code}`)))),
    )
    closeSync(rows)
    cpSync(join(kept, 'files'), this.files, { recursive: true })
  }

  get config() {
    return readConfig({
      ...process.env,
      VERIMEND_DB_NAME: this.database,
      VERIMEND_DEMO: this.demo ? '1' : '0',
      VERIMEND_LOG: 'silent',
      VERIMEND_PORT: '0',
      VERIMEND_FILES: this.files,
      ...this.env,
    })
  }

  async start(): Promise<void> {
    await this.createDatabase()
    if (this.demo === true) await this.copyDemo()
    this.app = await createApp(this.config)
    await this.app.listen(0, '127.0.0.1')
    this.port = (this.app.getHttpServer().address() as { port: number }).port
  }

  async stop(): Promise<void> {
    await this.app?.close()
    rmSync(this.folder, { recursive: true, force: true })
  }

  async call(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer> {
    const response = await fetch(`http://127.0.0.1:${this.port}/api/${path}`, {
      method,
      headers: { ...(body !== undefined && { 'content-type': 'application/json' }), ...headers },
      body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
    })
    const text = await response.text()
    return { status: response.status, body: text ? JSON.parse(text) : null, headers: response.headers }
  }
  get = (path: string) => this.call('GET', path)
  post = (path: string, body: unknown = {}) => this.call('POST', path, body)
  put = (path: string, body: unknown) => this.call('PUT', path, body)
  remove = (path: string) => this.call('DELETE', path)
}
