import { createHash, randomUUID } from 'node:crypto'
import {
  closeSync,
  createReadStream,
  createWriteStream,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  type ReadStream,
} from 'node:fs'
import { open } from 'node:fs/promises'
import { join } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { Inject, Injectable } from '@nestjs/common'
import { MAX_BLOB_PART, type BlobState } from '@verimend/contract'
import { CONFIG, type Config } from '../config'
import { conflict, notFound, ProblemException, refused } from '../problem/problem'

/** Name of a kept file. */
const NAME = /^[0-9a-f]{64}$/
/** Half a week after the last part an upload that was never finished is cleared away. */
const STALE = 3.5 * 86_400_000

/** ms without a byte after which a sender is taken to have gone. */
const STALLED = 1500

/** A part that is arriving: when its last byte came, by a clock that nobody sets, and how it is ended. */
interface Arriving {
  heard: number
  stop: () => void
  ended: Promise<unknown>
}

/**
 * Files by their content: a folder for each first byte of the fingerprint. A file arrives in parts under a
 * temporary name, is checked, synced, and only then renamed; a part that was cut off is simply sent again.
 */
@Injectable()
export class BlobsService {
  private readonly folder: string
  private readonly incoming: string
  /** Files that no record names; deleted after a while, and until then brought back when somebody asks. */
  private readonly leaving: string
  /** Parts that are arriving, by their file. */
  private readonly arriving = new Map<string, Arriving>()
  private readonly finishing = new Map<string, Promise<BlobState>>()

  constructor(@Inject(CONFIG) config: Config) {
    this.folder = config.files
    this.incoming = join(this.folder, 'incoming')
    mkdirSync(this.incoming, { recursive: true })
    this.leaving = join(this.folder, 'leaving')
    mkdirSync(this.leaving, { recursive: true })
    for (const name of readdirSync(this.incoming)) {
      const path = join(this.incoming, name)
      if (Date.now() - statSync(path).mtimeMs > STALE) rmSync(path, { force: true })
    }
  }

  private place(sha256: string): string {
    return join(this.folder, sha256.slice(0, 2), sha256)
  }
  private part(sha256: string): string {
    return join(this.incoming, sha256)
  }

  /** Whether a whole file of this content is kept; one that was set aside is back then. */
  has(sha256: string): boolean {
    if (existsSync(this.place(sha256))) return true
    const aside = join(this.leaving, sha256)
    if (!existsSync(aside)) return false
    this.settle(aside, sha256)
    return true
  }

  /** The same for whoever is about to name it in a record: nobody clears it away before. */
  claim(sha256: string): boolean {
    if (!this.has(sha256)) return false
    const now = new Date()
    utimesSync(this.place(sha256), now, now)
    return true
  }

  /** Bytes of kept files; those that are not there count nothing. */
  bytesOf(names: readonly string[]): number {
    return [...new Set(names)].reduce(
      (sum, n) => sum + (statSync(this.place(n), { throwIfNoEntry: false })?.size ?? 0),
      0,
    )
  }

  /** Takes a file that no record names out of its place. @returns its bytes */
  setAside(sha256: string): number {
    const from = this.place(sha256)
    const bytes = statSync(from, { throwIfNoEntry: false })?.size
    if (bytes === undefined) return 0
    const to = join(this.leaving, sha256)
    renameSync(from, to)
    const now = new Date()
    utimesSync(to, now, now)
    return bytes
  }
  /** Files that were set aside before a time, ms. */
  aside(before: number): string[] {
    return readdirSync(this.leaving).filter((n) => {
      const found = statSync(join(this.leaving, n), { throwIfNoEntry: false })
      return NAME.test(n) && found && found.mtimeMs < before
    })
  }
  /** @returns its bytes */
  deleteAside(sha256: string): number {
    const path = join(this.leaving, sha256)
    const bytes = statSync(path, { throwIfNoEntry: false })?.size ?? 0
    rmSync(path, { force: true })
    return bytes
  }
  /** Kept files that came, or were last claimed, before a time, ms. */
  older(before: number): string[] {
    return readdirSync(this.folder)
      .filter((n) => /^[0-9a-f]{2}$/.test(n))
      .flatMap((n) => readdirSync(join(this.folder, n)))
      .filter((n) => {
        const found = NAME.test(n) && statSync(this.place(n), { throwIfNoEntry: false })
        return found && found.mtimeMs < before
      })
  }

  private state(sha256: string): BlobState {
    if (this.claim(sha256)) return { sha256, have: statSync(this.place(sha256)).size, done: true }
    const part = this.part(sha256)
    return { sha256, have: existsSync(part) ? statSync(part).size : 0, done: false }
  }

  /** Begins an upload or takes one up again: says how much is there already. */
  begin(sha256: string): BlobState {
    return this.state(sha256)
  }

  /**
   * Appends a part at a place; another place than the end of what is there is a conflict that says where to go on. What came of
   * a part that was cut off stays. A sender of whom nothing is heard any more gives way to the next.
   */
  async append(sha256: string, from: number, body: Readable): Promise<BlobState> {
    const before = this.arriving.get(sha256)
    if (before && performance.now() - before.heard > STALLED) {
      before.stop()
      await before.ended
    }
    const now = this.state(sha256)
    if (now.done) return now
    if (now.have !== from || this.arriving.has(sha256) || this.finishing.has(sha256))
      throw conflict(`This file is there up to byte ${now.have}: go on from there.`, now)
    const arriving: Arriving = {
      heard: performance.now(),
      stop: () => body.destroy(new Error('another sends it')),
      ended: Promise.resolve(),
    }
    this.arriving.set(sha256, arriving)
    const written = this.write(sha256, from, body, arriving).finally(() => this.arriving.delete(sha256))
    arriving.ended = written.catch(() => undefined)
    await written
    return this.state(sha256)
  }

  private async write(sha256: string, from: number, body: Readable, arriving: Arriving): Promise<void> {
    const handle = await open(this.part(sha256), 'a')
    try {
      let size = 0
      for await (const chunk of body as AsyncIterable<Buffer>) {
        size += chunk.length
        if (size > MAX_BLOB_PART) throw refused('part-too-large', 'A part carries at most 4 MB.')
        arriving.heard = performance.now()
        await handle.write(chunk)
      }
    } catch (error) {
      if (error instanceof ProblemException) await handle.truncate(from).catch(() => undefined)
      throw error
    } finally {
      await handle.sync().catch(() => undefined)
      await handle.close()
    }
  }

  /** Checks a whole upload against its fingerprint and keeps it; asked for twice at once it is done once. */
  finish(sha256: string, bytes: number): Promise<BlobState> {
    const already = this.finishing.get(sha256)
    if (already) return already
    const finishing = this.check(sha256, bytes).finally(() => this.finishing.delete(sha256))
    this.finishing.set(sha256, finishing)
    return finishing
  }

  private async check(sha256: string, bytes: number): Promise<BlobState> {
    const now = this.state(sha256)
    if (now.done) return now
    if (this.arriving.has(sha256))
      throw conflict('A part of this file is still on its way: finish it once that is there.', now)
    if (now.have !== bytes)
      throw conflict(`Only ${now.have} of ${bytes} bytes are there: go on from there.`, now)
    const hash = createHash('sha256')
    for await (const chunk of createReadStream(this.part(sha256))) hash.update(chunk as Buffer)
    if (hash.digest('hex') !== sha256) {
      rmSync(this.part(sha256), { force: true })
      throw refused('fingerprint', 'What arrived is not the file that was sent. Please send it again.')
    }
    this.settle(this.part(sha256), sha256)
    return this.state(sha256)
  }

  /** Keeps bytes that are at hand. @returns their fingerprint */
  async keep(bytes: Buffer): Promise<string> {
    const sha256 = createHash('sha256').update(bytes).digest('hex')
    if (this.claim(sha256)) return sha256
    // a name of its own: the same bytes may be on their way twice
    const part = join(this.incoming, `${sha256}.${randomUUID()}`)
    const handle = await open(part, 'wx')
    try {
      await handle.writeFile(bytes)
      await handle.sync()
    } finally {
      await handle.close()
    }
    this.settle(part, sha256)
    return sha256
  }

  /**
   * Lets bytes arrive in a file of their own, works with it, and takes it away.
   * @param most bytes
   * @throws whatever `tooLarge` makes where more arrive, or whatever `work` throws
   */
  async arrive<T>(
    body: Readable,
    most: number,
    tooLarge: () => Error,
    work: (path: string) => Promise<T>,
  ): Promise<T> {
    const path = join(this.incoming, randomUUID())
    try {
      let size = 0
      const counted = new Transform({
        transform(chunk: Buffer, _, pass) {
          size += chunk.length
          pass(size > most ? tooLarge() : null, chunk)
        },
      })
      await pipeline(body, counted, createWriteStream(path, { flags: 'wx', mode: 0o600 }))
      return await work(path)
    } finally {
      rmSync(path, { force: true })
    }
  }

  /** Renames a whole, synced file to its place, for good. */
  private settle(part: string, sha256: string): void {
    const place = join(this.folder, sha256.slice(0, 2))
    mkdirSync(place, { recursive: true })
    renameSync(part, this.place(sha256))
    const folder = openSync(place, 'r')
    fsyncSync(folder)
    closeSync(folder)
  }

  /** Where a kept file lies. */
  path(sha256: string): string {
    return this.place(sha256)
  }

  /** The bytes of a kept file. */
  read(sha256: string): { stream: ReadStream; bytes: number } {
    if (!this.has(sha256)) throw notFound('kept file')
    return { stream: createReadStream(this.place(sha256)), bytes: statSync(this.place(sha256)).size }
  }
}
