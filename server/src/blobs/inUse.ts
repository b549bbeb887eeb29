import { QueryTypes, type Sequelize } from 'sequelize'
import type { PartVersion } from '@verimend/contract'

/** Where records name a kept file; of a path file often only the reading is kept. */
const NAMED = [
  { table: 'case_files', column: 'sha256', must: false },
  { table: 'case_photos', column: 'sha256', must: true },
  { table: 'case_photos', column: 'thumb', must: true },
  { table: 'prints', column: 'sha256', must: true },
]

/**
 * Fingerprints of all kept files that a record names, one that is put away included.
 * @param has whether a table is there: a backup may be of an older version
 * @returns all of them, and those without which something is missing
 */
export async function blobsInUse(
  sequelize: Sequelize,
  has: (table: string) => boolean = () => true,
): Promise<{ all: Set<string>; must: Set<string> }> {
  const all = new Set<string>()
  const must = new Set<string>()
  const add = (name: string, needed: boolean) => {
    all.add(name)
    if (needed) must.add(name)
  }
  for (const { table, column, must: needed } of NAMED) {
    if (!has(table)) continue
    const rows = await sequelize.query<{ name: string }>(`SELECT DISTINCT ${column} AS name FROM ${table}`, {
      type: QueryTypes.SELECT,
    })
    for (const { name } of rows) add(name, needed)
  }
  if (has('trials')) {
    // a piece of a part is written anew from its mesh, one in a finished file from that
    for (const made of ['onPart', 'onFile']) {
      const rows = await sequelize.query<{ name: string }>(
        `SELECT DISTINCT JSON_VALUE(plan, '$.${made}.sha256') AS name FROM trials WHERE plan LIKE '%"${made}"%'`,
        { type: QueryTypes.SELECT },
      )
      for (const { name } of rows) if (name) add(name, true)
    }
  }
  if (has('parts')) {
    const rows = await sequelize.query<{ versions: string }>('SELECT versions FROM parts', {
      type: QueryTypes.SELECT,
    })
    for (const { versions } of rows)
      for (const { sha256 } of JSON.parse(versions) as PartVersion[]) add(sha256, true)
  }
  return { all, must }
}

/** Name, in SQL, of the lock that whoever copies or clears away kept files holds; each database of a server has its own. */
export const FILES_LOCK = "CONCAT('verimend-files-', DATABASE())"
