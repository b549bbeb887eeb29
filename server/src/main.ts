import { createApp } from './app'
import { readConfig } from './config'

async function main(): Promise<void> {
  const config = readConfig(process.env)
  const app = await createApp(config)
  await app.listen(config.port, config.host)
  const { port } = app.getHttpServer().address() as { port: number }
  process.send?.({ listening: port })
  // a database that is away must not keep the server from ending
  process.on('SIGTERM', () => setTimeout(() => process.exit(0), 5000).unref())
  // Without the program that started it the server has no database to care for: it ends in good order.
  process.on('disconnect', () => {
    void app.close().finally(() => process.exit(0))
    setTimeout(() => process.exit(0), 5000).unref()
  })
}

main().catch((error: unknown) => {
  process.send?.({ failed: error instanceof Error ? error.message : String(error) })
  console.error(error instanceof Error ? (error.stack ?? error.message) : error)
  process.exit(1)
})
