// How much of a processor each test file takes, for `npm test -- --times`.
const { appendFileSync } = require('node:fs')

const file = process.env.VERIMEND_CPU_FILE
if (file) {
  const from = process.cpuUsage()
  afterAll(() => {
    const { user, system } = process.cpuUsage(from)
    const { testPath } = expect.getState()
    appendFileSync(file, `${JSON.stringify({ path: testPath, s: (user + system) / 1e6 })}\n`)
  })
}
