import type { Manifest } from '@verimend/contract'
import { BackupError, checkBackup, writeBackup } from './backup/archive'
import { refuseFilled, restoreBackup } from './backup/restore'
import { readConfig } from './config'
import { Database } from './database/database.module'

/** What a backup holds, in a line for whoever has asked. */
function tell({ madeAt, files, beside, missing, migrations }: Manifest): void {
  const told = { madeAt, files: files.length + beside.length, missing, newest: migrations.at(-1) ?? null }
  process.stdout.write(`${JSON.stringify(told)}\n`)
}

/** Makes a backup, checks one, or puts one back, or sees that there is nothing yet; the database runs already, and its access is in the environment. */
async function main([what, file]: string[]): Promise<void> {
  if (what === 'check') {
    return tell(await checkBackup(file))
  }
  const config = readConfig(process.env)
  const database = new Database(config)
  try {
    if (what === 'empty') {
      await refuseFilled(database.sequelize)
      process.stdout.write('{}\n')
      return
    }
    tell(
      what === 'restore'
        ? await restoreBackup(config, database.sequelize, file, process.env.VERIMEND_RESTORE === 'over')
        : await writeBackup(config, database.sequelize, file),
    )
  } finally {
    await database.onApplicationShutdown()
  }
}

main(process.argv.slice(2)).catch((error: unknown) => {
  console.error(error instanceof BackupError ? error.message : error)
  process.exit(error instanceof BackupError ? 3 : 1)
})
