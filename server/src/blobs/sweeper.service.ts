import { Injectable } from '@nestjs/common'
import { QueryTypes } from 'sequelize'
import { Database } from '../database/database.module'
import { BlobsService } from './blobs.service'
import { blobsInUse, FILES_LOCK } from './inUse'

/** A file nobody names stays this long after it came or was last asked for: its record may be on its way, ms. */
const YOUNG_MS = 24 * 3600_000
/** How long one that was set aside can still be brought back, ms. */
const ASIDE_MS = 3600_000

/** Clears away kept files that no record names. */
@Injectable()
export class BlobSweeper {
  constructor(
    private readonly database: Database,
    private readonly blobs: BlobsService,
  ) {}

  /**
   * Sets files aside that no record names any more. They are deleted at a later sweep; until then whoever asks for one has it
   * back.
   * @returns bytes
   */
  async release(names: readonly string[]): Promise<number> {
    if (!names.length) return 0
    const { all } = await blobsInUse(this.database.sequelize)
    return [...new Set(names)].filter((n) => !all.has(n)).reduce((sum, n) => sum + this.blobs.setAside(n), 0)
  }

  /**
   * Deletes what was set aside long ago, and sets aside what no record names. While a backup is being made it does nothing.
   * @param young how long a file that nobody names stays, ms
   * @param aside how long one that was set aside can be brought back, ms: longer than a request takes from asking for a file to
   * naming it
   * @returns how many files were deleted, and their bytes
   */
  async sweep(young = YOUNG_MS, aside = ASIDE_MS): Promise<{ files: number; bytes: number }> {
    const { sequelize } = this.database
    const held = await sequelize.transaction()
    const freed = { files: 0, bytes: 0 }
    try {
      const [{ got }] = await sequelize.query<{ got: number }>(`SELECT GET_LOCK(${FILES_LOCK}, 0) AS got`, {
        type: QueryTypes.SELECT,
        transaction: held,
      })
      if (Number(got) !== 1) return freed
      // what was set aside and has been named since, by somebody who did not ask for it first, comes back
      const { all } = await blobsInUse(sequelize)
      for (const name of this.blobs.aside(Date.now() - aside)) {
        if (all.has(name)) this.blobs.has(name)
        else {
          freed.files++
          freed.bytes += this.blobs.deleteAside(name)
        }
      }
      for (const name of this.blobs.older(Date.now() - young)) if (!all.has(name)) this.blobs.setAside(name)
      return freed
    } finally {
      await sequelize.query(`DO RELEASE_LOCK(${FILES_LOCK})`, { transaction: held }).catch(() => undefined)
      await held.rollback().catch(() => undefined)
    }
  }
}
