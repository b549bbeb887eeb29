import { fileURLToPath } from 'node:url'
import { z } from 'zod'

const schema = z.object({
  VERIMEND_HOST: z.string().default('127.0.0.1'),
  VERIMEND_PORT: z.coerce.number().int().min(0).max(65535).default(4310),
  VERIMEND_PASSPHRASE: z.string().min(8).max(200).optional(),
  VERIMEND_NAMES: z.string().default(''),
  VERIMEND_TLS_CERT: z.string().min(1).optional(),
  VERIMEND_TLS_KEY: z.string().min(1).optional(),
  VERIMEND_DB_HOST: z.string().min(1).default('127.0.0.1'),
  VERIMEND_DB_TLS: z.enum(['off', 'verified', 'unverified']).default('off'),
  VERIMEND_DB_CA: z.string().min(1).optional(),
  VERIMEND_DB_PORT: z.coerce.number().int(),
  VERIMEND_DB_USER: z.string().default('verimend'),
  VERIMEND_DB_PASSWORD: z.string(),
  VERIMEND_DB_NAME: z.string().regex(/^\w+$/).default('verimend'),
  VERIMEND_FILES: z.string().min(1),
  VERIMEND_WEB: z.string().optional(),
  VERIMEND_WORKER: z.string().optional(),
  VERIMEND_STANDIN_URL: z.url().optional(),
  VERIMEND_STANDIN_TOKEN: z.string().min(16).optional(),
  VERIMEND_DEMO: z.enum(['0', '1']).default('0'),
  VERIMEND_DAILY_BACKUPS: z.enum(['0', '1']).default('0'),
  VERIMEND_LOG: z.enum(['debug', 'info', 'warn', 'error', 'silent']).default('info'),
})

/** How the database is reached. */
export interface DatabaseAccess {
  host: string
  port: number
  user: string
  password: string
  name: string
  /** Over TLS: whether its certificate is checked, and the file of the authority it is checked by, the system's when left out. */
  tls?: { verify: boolean; ca?: string }
}

export interface Config {
  host: string
  port: number
  /** Asked for by everybody when it is set, on this machine too. */
  passphrase?: string
  /** Names and addresses it is reached by besides its own. */
  names: string[]
  /** Files of a certificate and its key, to be served over TLS. */
  tls?: { cert: string; key: string }
  database: DatabaseAccess
  /** Folder that kept files lie in. */
  files: string
  /** Folder of the built web application; API only when left out. */
  web?: string
  /** The built program of the threads. */
  worker: string
  /** Where the simulated machines answer, and their token; none when they are not there. */
  standin?: { url: string; token: string }
  demo: boolean
  /** Whether a backup is made each day, unless somebody has switched that off. */
  backups: boolean
  log: string
}
export const CONFIG = Symbol('config')
export const LOOPBACK = ['127.0.0.1', 'localhost', '::1']

/**
 * Reads the configuration from the environment.
 * @throws Error with one sentence when something is missing, or when another address than loopback is asked
 * for without a passphrase
 */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const parsed = schema.safeParse(env)
  if (!parsed.success)
    throw new Error(
      `The server's settings are wrong: ${parsed.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; ')}`,
    )
  const e = parsed.data
  if (!LOOPBACK.includes(e.VERIMEND_HOST) && !e.VERIMEND_PASSPHRASE)
    throw new Error(
      `Verimend only listens on ${e.VERIMEND_HOST} with a passphrase: set VERIMEND_PASSPHRASE (at least 8 characters).`,
    )
  if (!e.VERIMEND_TLS_CERT !== !e.VERIMEND_TLS_KEY)
    throw new Error('TLS needs both a certificate and its key: VERIMEND_TLS_CERT and VERIMEND_TLS_KEY.')
  return {
    host: e.VERIMEND_HOST,
    port: e.VERIMEND_PORT,
    passphrase: e.VERIMEND_PASSPHRASE,
    names: e.VERIMEND_NAMES.split(',')
      .map((n) => n.trim().toLowerCase())
      .filter(Boolean),
    tls:
      e.VERIMEND_TLS_CERT && e.VERIMEND_TLS_KEY
        ? { cert: e.VERIMEND_TLS_CERT, key: e.VERIMEND_TLS_KEY }
        : undefined,
    database: {
      host: e.VERIMEND_DB_HOST,
      ...(e.VERIMEND_DB_TLS !== 'off' && {
        tls: { verify: e.VERIMEND_DB_TLS === 'verified', ca: e.VERIMEND_DB_CA },
      }),
      port: e.VERIMEND_DB_PORT,
      user: e.VERIMEND_DB_USER,
      password: e.VERIMEND_DB_PASSWORD,
      name: e.VERIMEND_DB_NAME,
    },
    files: e.VERIMEND_FILES,
    web: e.VERIMEND_WEB,
    worker: e.VERIMEND_WORKER ?? fileURLToPath(new URL('./worker.mjs', import.meta.url)),
    standin:
      e.VERIMEND_STANDIN_URL && e.VERIMEND_STANDIN_TOKEN
        ? { url: e.VERIMEND_STANDIN_URL, token: e.VERIMEND_STANDIN_TOKEN }
        : undefined,
    demo: e.VERIMEND_DEMO === '1',
    backups: e.VERIMEND_DAILY_BACKUPS === '1',
    log: e.VERIMEND_LOG,
  }
}
