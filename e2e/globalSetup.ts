import { rmSync } from 'node:fs'
import { App, DEMO_FOLDER } from './lib/app'

/** Fills one data folder with the demo; the journeys begin from copies of it. */
export default async function globalSetup(): Promise<() => void> {
  const app = new App()
  await app.start()
  await app.stop()
  process.env[DEMO_FOLDER] = app.folder
  return () => rmSync(app.folder, { recursive: true, force: true })
}
