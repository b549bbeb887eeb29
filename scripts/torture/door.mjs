import { request } from 'node:http'
import { connect } from 'node:net'
import { join } from 'node:path'
import { startApplication, Writer } from './application.mjs'
import { pause } from './processes.mjs'

const PASSPHRASE = 'tuvo-kemi-ralo'
/** How long the noise goes on, s, the addresses it comes from, and how often each of them asks, a second. */
const SECONDS = 20
const ADDRESSES = 24
const EACH = 4
/** How much longer somebody who is in may wait for a save meanwhile. */
const MOST_TIMES = 3

/** Asks from an address of this machine's own network. @returns the status; 0 where there was no answer */
const from = (address, port, method, path, headers, body) =>
  new Promise((resolve) => {
    const asked = request(
      { host: '127.0.0.1', port, localAddress: address, method, path, headers, timeout: 30_000 },
      (answer) => {
        answer.resume()
        answer.on('end', () => resolve(answer.statusCode))
        answer.on('error', () => resolve(0))
      },
    )
    asked.on('error', () => resolve(0))
    asked.end(body)
  })

/**
 * Noise at the door of a shared application: made-up cookies, bodies that nest without end, wrong guesses, headers that never end.
 * Whoever is in works on, the right passphrase lets in, and so does an invitation.
 * @param place folder that the data goes into
 */
export async function door(place) {
  const application = await startApplication(
    join(place, 'door'),
    { VERIMEND_PASSPHRASE: PASSPHRASE },
    '--share',
  )
  const { port } = application
  const json = { 'content-type': 'application/json' }
  try {
    const signIn = await application.ask('POST', 'session', { passphrase: PASSPHRASE })
    const cookie = signIn.headers.get('set-cookie').split(';')[0]
    const inside = { ...application, ask: (m, p, b) => application.ask(m, p, b, { cookie }) }
    const quiet = await Writer.of(inside)
    for (let n = 0; n < 25; n++) await quiet.write('x')
    const bomb = '['.repeat(3000)
    const kinds = [
      (a, n) => from(a, port, 'GET', '/api/cases', { cookie: `verimend=${n}garbage${n}` }),
      (a) => from(a, port, 'POST', '/api/session', json, bomb),
      (a) => from(a, port, 'POST', '/api/session', json, '['.repeat(8_000_000)),
      (a, n) => from(a, port, 'POST', '/api/session', json, JSON.stringify({ passphrase: `guess ${n}` })),
      (a) => from(a, port, 'GET', '/', {}),
    ]
    let noisy = true
    const told = {}
    const sockets = []
    const noise = Array.from({ length: ADDRESSES }, async (_, i) => {
      const address = `127.0.1.${i + 1}`
      for (let n = 0; n < 8; n++) {
        const socket = connect({ host: '127.0.0.1', port, localAddress: address })
        socket.on('error', () => undefined)
        socket.write('GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ')
        sockets.push(socket)
      }
      for (let n = i; noisy; n++) {
        const status = await kinds[n % kinds.length](address, n)
        told[status] = (told[status] ?? 0) + 1
        await pause(1000 / EACH)
      }
    })
    await pause(500)
    const loud = await Writer.of(inside)
    const end = Date.now() + SECONDS * 1000
    while (Date.now() < end) await loud.write('x')
    // somebody new who knows the passphrase, at an address that was never heard of
    const began = Date.now()
    const right = await from('127.0.2.1', port, 'POST', '/api/session', json, JSON.stringify({ passphrase: PASSPHRASE })) // prettier-ignore
    const waited = (Date.now() - began) / 1000
    const { body: phone } = await inside.ask('POST', 'session/phone', {})
    // from one of those that guess
    const invited = await from('127.0.1.1', port, 'POST', '/api/session', json, JSON.stringify({ invitation: phone.invitation })) // prettier-ignore
    noisy = false
    for (const socket of sockets) socket.destroy()
    await Promise.all(noise)
    const at95 = (took) => [...took].sort((a, b) => a - b)[Math.floor(0.95 * (took.length - 1))]
    const times = at95(loud.took) / at95(quiet.took)
    const honest = Object.keys(loud.told).every((status) => ['200', '201'].includes(status))
    const answers = Object.entries(told)
      .map(([status, n]) => `${status === '0' ? 'none' : status}: ${n}`)
      .join(', ')
    return {
      fair: honest && times < MOST_TIMES && right === 200 && invited === 200 && !told[503],
      said: `Noise at the door for ${SECONDS} s from ${ADDRESSES} addresses (made-up cookies, bodies that nest, wrong guesses, ${sockets.length} connections whose headers never end): it was answered ${answers}; somebody who was in saved on (${loud.answers}), 95 of 100 within ${times.toFixed(1)} times as long as without; the right passphrase let in after ${waited.toFixed(1)} s (${right}), an invitation from an address that guesses as well (${invited}).`,
    }
  } finally {
    await application.stop()
  }
}
