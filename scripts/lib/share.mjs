import { randomInt, X509Certificate } from 'node:crypto'
import { chmodSync, existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { hostname, networkInterfaces } from 'node:os'
import { isIP } from 'node:net'
import { join } from 'node:path'
import { keepPrivate, privateFolder } from './folder.mjs'

const CONSONANTS = 'bdfgklmnprstvz'
const VOWELS = 'aeiou'
/** Groups of a passphrase, each of two syllables: 8 syllables of 70 are 49 bits, and few guesses a minute are heard. */
const GROUPS = 4

/** A passphrase that is easily read from a screen and typed on a phone. */
export function newPassphrase() {
  const of = (letters) => letters[randomInt(letters.length)]
  const group = () => of(CONSONANTS) + of(VOWELS) + of(CONSONANTS) + of(VOWELS)
  return Array.from({ length: GROUPS }, group).join('-')
}

const put = (file, text) => {
  writeFileSync(`${file}-new`, text, { mode: 0o600 })
  chmodSync(`${file}-new`, 0o600)
  renameSync(`${file}-new`, file)
}

/**
 * The passphrase of a data folder: the person's own where one is given, else the one that was made before.
 * @param anew whether another one is made
 */
export function passphraseOf(folder, { anew = false, own = process.env.VERIMEND_PASSPHRASE } = {}) {
  if (own) return own
  const file = join(folder, 'passphrase')
  keepPrivate(file)
  const kept = existsSync(file) && !anew ? readFileSync(file, 'utf8').trim() : ''
  if (kept.length >= 8) return kept
  const made = newPassphrase()
  put(file, `${made}\n`)
  return made
}

/** Names and addresses of this machine that a certificate is made for. */
function names() {
  const addresses = Object.values(networkInterfaces())
    .flatMap((a) => a ?? [])
    .filter(({ address }) => !address.toLowerCase().startsWith('fe80:'))
    .map(({ address }) => address)
  return [...new Set(['localhost', hostname(), `${hostname()}.local`, '127.0.0.1', ...addresses])]
}

const MONTH_MS = 30 * 24 * 3600 * 1000
/** Days a certificate holds: the most that phones take of one that is not from an authority. */
const HOLDS_DAYS = 397

/** Whether a certificate is for all these names and holds a month on. */
export function stillHolds(pem, wanted = names()) {
  try {
    const certificate = new X509Certificate(pem)
    return (
      new Date(certificate.validTo).getTime() > Date.now() + MONTH_MS &&
      wanted.every((n) => (isIP(n) ? certificate.checkIP(n) : certificate.checkHost(n)))
    )
  } catch {
    return false
  }
}

/**
 * A certificate of this data folder's own, made anew when this machine has other addresses or it runs out.
 * @returns files of the certificate and its key, and the fingerprint that a phone shows
 */
export async function certificateOf(folder) {
  const place = privateFolder(join(folder, 'tls'))
  const cert = join(place, 'certificate.pem')
  const key = join(place, 'key.pem')
  keepPrivate(key)
  if (!existsSync(key) || !existsSync(cert) || !stillHolds(readFileSync(cert))) {
    const { generate } = await import('selfsigned')
    const made = await generate([{ name: 'commonName', value: 'Verimend at home' }], {
      keyType: 'ec',
      curve: 'P-256',
      algorithm: 'sha256',
      notAfterDate: new Date(Date.now() + HOLDS_DAYS * 24 * 3600 * 1000),
      extensions: [
        { name: 'basicConstraints', cA: false, critical: true },
        { name: 'keyUsage', digitalSignature: true, critical: true },
        { name: 'extKeyUsage', serverAuth: true },
        {
          name: 'subjectAltName',
          altNames: names().map((n) => (isIP(n) ? { type: 7, ip: n } : { type: 2, value: n })),
        },
      ],
    })
    put(key, made.private)
    put(cert, made.cert)
  }
  return { cert, key, fingerprint: new X509Certificate(readFileSync(cert)).fingerprint256 }
}

/** The words for who shares: the address as a QR code, the passphrase, and what it is worth. */
export async function invitation({ addresses, passphrase, fingerprint }) {
  if (!addresses.length) return 'This machine is in no network: only it can open Verimend.'
  const { default: qrcode } = await import('qrcode')
  // what follows the # never leaves the phone in a request; the page reads it and takes it away
  const at = `${addresses[0]}/#passphrase=${encodeURIComponent(passphrase)}`
  return [
    '',
    await qrcode.toString(at, { type: 'utf8', errorCorrectionLevel: 'L', margin: 2 }),
    `On a phone in the same network: scan this, or open ${addresses.join('  or  ')}`,
    `Passphrase: ${passphrase}`,
    fingerprint
      ? `The certificate is Verimend’s own, so the phone warns once. Its SHA-256 fingerprint: ${fingerprint}`
      : 'Without --tls, who listens in this network can read what is sent.',
  ].join('\n')
}
