/** Progress for a person: one line a step, with the time it took. */
const start = Date.now()
const seconds = (from) => `${((Date.now() - from) / 1000).toFixed(1)} s`

export const say = (text) => console.log(text)

/** Runs a step and says how long it took. */
export async function step(text, work) {
  const from = Date.now()
  process.stdout.write(`· ${text} … `)
  try {
    const result = await work()
    process.stdout.write(`${seconds(from)}\n`)
    return result
  } catch (error) {
    process.stdout.write('failed\n')
    throw error
  }
}

export const sinceStart = () => seconds(start)
