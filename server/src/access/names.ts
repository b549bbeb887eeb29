import { hostname, networkInterfaces } from 'node:os'
import { LOOPBACK, type Config } from '../config'

/** Addresses of this machine in its networks: those of version 4, and of version 6 that need no interface's name. */
export function ownAddresses(): string[] {
  return Object.values(networkInterfaces())
    .flatMap((addresses) => addresses ?? [])
    .filter(({ internal, address }) => !internal && !address.toLowerCase().startsWith('fe80:'))
    .map(({ address }) => address.toLowerCase())
}

/** Whether the server listens to others than this machine. */
export const isShared = ({ host }: Pick<Config, 'host'>): boolean => !LOOPBACK.includes(host)

const isEverywhere = ({ host }: Pick<Config, 'host'>) => ['0.0.0.0', '::'].includes(host)

/**
 * The names the server answers to: its own ones on this machine, and beyond it the address it listens on, or with
 * 0.0.0.0 every address of this machine, its name, and what it was told besides.
 */
export function knownNames(config: Pick<Config, 'host' | 'names'>): (host: string) => boolean {
  const told = config.names.map((n) => n.toLowerCase())
  if (!isShared(config)) return (host) => LOOPBACK.includes(host) || told.includes(host)
  const own = hostname().toLowerCase()
  const always = [...LOOPBACK, ...told]
  if (!isEverywhere(config)) return (host) => always.includes(host) || host === config.host.toLowerCase()
  // asked each time: an address may change while the server runs
  return (host) =>
    always.includes(host) || host === own || host === `${own}.local` || ownAddresses().includes(host)
}

/** Addresses under which a phone in the same network finds the server. */
export function addressesForPhones(config: Pick<Config, 'host' | 'names' | 'tls'>, port: number): string[] {
  if (!isShared(config)) return []
  const likely = (a: string) => (/^192\.168\./.test(a) ? 0 : /^10\./.test(a) ? 1 : 2)
  const hosts = isEverywhere(config)
    ? [
        ...config.names,
        ...ownAddresses()
          .filter((a) => !a.includes(':'))
          .sort((a, b) => likely(a) - likely(b)),
      ]
    : [config.host]
  const scheme = config.tls ? 'https' : 'http'
  return [...new Set(hosts)].map((h) => `${scheme}://${h.includes(':') ? `[${h}]` : h}:${port}`)
}
