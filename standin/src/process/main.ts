import { createServer } from 'node:http'
import { z } from 'zod'
import { createStandin } from './app'
import { Store } from './store'
import { Work } from './work'

/** Words to whoever started it, if that is still there. */
const tell = (message: object) => process.connected && process.send?.(message, () => undefined)
// a full disk, or nobody who listens, makes its words fail and nothing else
for (const words of [process.stdout, process.stderr]) words.on('error', () => undefined)

const env = z
  .object({
    VERIMEND_STANDIN_PORT: z.coerce.number().int().min(0).max(65535).default(0),
    VERIMEND_STANDIN_DATA: z.string().min(1),
    VERIMEND_STANDIN_TOKEN: z.string().min(16),
  })
  .safeParse(process.env)
if (!env.success) {
  const said = `The simulated machines' settings are wrong: ${env.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; ')}`
  tell({ failed: said })
  console.error(said)
  process.exit(1)
}
const { VERIMEND_STANDIN_PORT, VERIMEND_STANDIN_DATA, VERIMEND_STANDIN_TOKEN } = env.data
const work = new Work(new URL('./worker.mjs', import.meta.url))
const { app, machines } = createStandin(new Store(VERIMEND_STANDIN_DATA), work, VERIMEND_STANDIN_TOKEN)
const server = createServer(app)
server.on('error', (error) => {
  tell({ failed: error.message })
  console.error(error.message)
  process.exit(1)
})
server.listen(VERIMEND_STANDIN_PORT, '127.0.0.1', () => {
  const { port } = server.address() as { port: number }
  tell({ listening: port })
})
const end = () => {
  machines.close()
  server.closeAllConnections()
  server.close()
  void work.close().finally(() => process.exit(0))
  setTimeout(() => process.exit(0), 2000).unref()
}
process.on('SIGTERM', end)
// without the program that started it nobody asks for it any more
process.on('disconnect', end)
