// Files of a folder beside themselves as .br and .gz, so that nothing is packed while somebody waits.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { brotliCompress, constants, gzip } from 'node:zlib'

const brotli = promisify(brotliCompress)
const zip = promisify(gzip)
const TEXT = /\.(js|css|svg|wasm)$/
/** Bytes under which packing is not worth a file. */
const LEAST = 400

/** Packs what is text in a folder as tightly as can be. */
export async function packed(folder) {
  const files = readdirSync(folder, { recursive: true }).filter((name) => TEXT.test(name))
  await Promise.all(
    files.map(async (name) => {
      const path = join(folder, name)
      const bytes = readFileSync(path)
      if (bytes.length < LEAST) return
      const params = {
        [constants.BROTLI_PARAM_QUALITY]: 10,
        [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length,
      }
      writeFileSync(`${path}.br`, await brotli(bytes, { params }))
      writeFileSync(`${path}.gz`, await zip(bytes, { level: 9 }))
    }),
  )
}
