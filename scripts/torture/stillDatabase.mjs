import { join } from 'node:path'
import { startApplication } from './application.mjs'
import { kill, pause, until } from './processes.mjs'

/** s that the database stands still, and prints that end meanwhile. */
const STILL = 12
const PRINTS = 4
/** ms within which all sides agree afterwards. */
const AGREES = 8000

/**
 * A database that stands still while prints end: soon after it goes on, what is shown, what is written and what the machine says
 * are one.
 * @param place folder that the data goes into
 */
export async function stillDatabase(place) {
  const application = await startApplication(join(place, 'still'))
  try {
    const ask = async (...request) => (await application.ask(...request)).body
    const made = await ask('POST', 'practice', { id: crypto.randomUUID(), kind: 'tube', hidden: 1 })
    await ask('PUT', `links/${made.machineId}`, { pace: 'quickest' })
    const ids = []
    for (let n = 0; n < PRINTS; n++) {
      const print = await ask('POST', 'prints', { pairId: made.pairId, what: { kind: 'practice' } })
      ids.push(print.id)
    }
    const stateOf = async (id) => (await ask('GET', `prints/${id}`))?.state
    const database = application.pid('database')
    kill(database, 'SIGSTOP')
    await pause(STILL * 1000)
    kill(database, 'SIGCONT')
    const from = Date.now()
    const agree = await until(async () => {
      for (const id of ids) if ((await stateOf(id)) !== 'done') return false
      return true
    }, 60_000)
    const took = Date.now() - from
    let refused = 0
    for (const id of ids) if ((await application.ask('GET', `prints/${id}/report`)).status !== 200) refused++
    // what is written, and not what is remembered
    kill(application.pid('server/dist/main.mjs'))
    await until(async () => (await application.ask('GET', 'health')).status === 200, 60_000)
    let written = 0
    for (const id of ids) if ((await stateOf(id)) === 'done') written++
    return {
      fair: !!agree && took < AGREES && !refused && written === PRINTS,
      said: `A database that stood still for ${STILL} s while ${PRINTS} prints ended: all were told done ${(took / 1000).toFixed(1)} s after it went on, ${refused} of their reports were refused, ${written} of ${PRINTS} are done in the database.`,
    }
  } finally {
    await application.stop()
  }
}
