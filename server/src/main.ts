import { addressesForPhones } from './access/names'
import { createApp } from './app'
import { readConfig } from './config'

/** Words to whoever started it, if that is still there. */
const tell = (message: object) => process.connected && process.send?.(message, () => undefined)

async function main(): Promise<void> {
  // a full disk, or nobody who listens, makes its words fail and nothing else
  for (const words of [process.stdout, process.stderr]) words.on('error', () => undefined)
  let close = (): Promise<void> => Promise.resolve()
  // Without the program that started it the server has no database to care for: it ends in good order, even when it
  // is not up yet.
  process.on('disconnect', () => {
    void close().finally(() => process.exit(0))
    setTimeout(() => process.exit(0), 5000).unref()
  })
  const config = readConfig(process.env)
  const app = await createApp(config)
  close = () => app.close()
  await app.listen(config.port, config.host)
  const { port } = app.getHttpServer().address() as { port: number }
  tell({ listening: port, addresses: addressesForPhones(config, port) })
  // a database that is away must not keep the server from ending
  process.on('SIGTERM', () => setTimeout(() => process.exit(0), 5000).unref())
}

main().catch((error: unknown) => {
  tell({ failed: error instanceof Error ? error.message : String(error) })
  console.error(error instanceof Error ? (error.stack ?? error.message) : error)
  process.exit(1)
})
