import { existsSync, readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { needDebian } from '../lib/run.mjs'
import { startApplication, Writer } from './application.mjs'
import { pause } from './processes.mjs'

/** Where Debian puts the library that hands a program another clock. */
const libraryOf = () =>
  readdirSync('/usr/lib', { recursive: false })
    .map((name) => `/usr/lib/${name}/faketime/libfaketimeMT.so.1`)
    .find(existsSync)
/** Where the clock goes, from today: as after a lost battery, a battery found again, and somebody who sets it wrong. */
const LEAPS = ['+1h', '-2h', '+40d', '-3y', '-50y', '+10y', '+0']
const PASSPHRASE = 'a clock that leaps about'

/**
 * A clock that leaps while the application runs, years ahead and back to 1976: every write is taken, nothing that was confirmed is
 * missing, what was put away can be brought back, who has signed in may go on or signs in again, and a print ends after the time that it
 * takes. Server, database and simulated machines see the same clock.
 * @param place folder that the data goes into
 */
export async function leapingClock(place) {
  try {
    if (!libraryOf())
      await needDebian('faketime', 'faketime', 'faketime, which hands a program another clock')
  } catch {
    return { fair: true, said: 'A clock that leaps was not tried: there is no faketime.' }
  }
  const file = join(place, 'clock')
  const set = (leap) => writeFileSync(file, leap)
  set('+0')
  const application = await startApplication(join(place, 'clocked'), {
    LD_PRELOAD: libraryOf(),
    FAKETIME_TIMESTAMP_FILE: file,
    FAKETIME_NO_CACHE: '1',
    FAKETIME_DONT_FAKE_MONOTONIC: '1',
    VERIMEND_PASSPHRASE: PASSPHRASE,
  })
  let [cookie, signedIn] = ['', 0]
  // who is signed out signs in again
  const signed = {
    ask: async (method, path, body) => {
      const answer = await application.ask(method, path, body, { cookie })
      if (answer.status !== 401) return answer
      const { headers } = await application.ask('POST', 'session', { passphrase: PASSPHRASE })
      cookie = (headers.get('set-cookie') ?? '').split(';')[0]
      signedIn++
      return application.ask(method, path, body, { cookie })
    },
  }
  try {
    const writer = await Writer.of(signed)
    await writer.write()
    const [removed] = writer.kept.keys()
    await signed.ask('DELETE', `cases/${removed}`)
    const wrong = []
    for (const leap of LEAPS) {
      const id = crypto.randomUUID()
      await signed.ask('POST', 'prints', { id, pairId: writer.pair, what: { kind: 'practice' } })
      set(leap)
      for (let n = 0; n < 5; n++) {
        const status = await writer.write()
        if (status !== 200) wrong.push(`${leap}: a case ${status}`)
      }
      for (const list of [
        'cases',
        `trials?pairId=${writer.pair}`,
        'removed',
        'backups',
        'pairs/readiness',
        'prints',
      ]) {
        const { status } = await signed.ask('GET', list)
        if (status !== 200) wrong.push(`${leap}: ${list} ${status}`)
      }
      // it goes on by what passes, not by what the clock says
      const state = async () => (await signed.ask('GET', `prints/${id}`)).body?.state
      let ended = false
      for (let n = 0; n < 150 && !ended; n++) {
        await pause(200)
        ended = (await state()) === 'done'
      }
      if (!ended) wrong.push(`${leap}: a print ${await state()}`)
    }
    const back = (await signed.ask('POST', `cases/${removed}/restore`)).status
    const missing = await writer.missing()
    return {
      fair: !wrong.length && missing === 0 && back < 300,
      said: `A clock that leaps while it runs (${LEAPS.join(', ')}): ${writer.answers}; ${wrong.length} lists, writes or prints otherwise${wrong.length ? ` (${wrong.join('; ')})` : ''}; signed in ${signedIn} times; ${missing} of ${writer.kept.size} confirmed cases missing; what was put away before it came back (${back}).`,
    }
  } finally {
    await application.stop()
  }
}
