import sharp from 'sharp'
import { ProblemException, refused } from '../problem/problem'

/** Longest side of a kept photo and of its thumbnail, px. */
const LARGE = 2400
const SMALL = 360
/** More pixels than any camera at a bench makes. */
const MOST_PIXELS = 60_000_000
const KINDS = new Set(['jpeg', 'png', 'webp', 'avif', 'heif', 'gif'])

// what was decoded is not held for another time
sharp.cache(false)
/** The photo before: decoded ones are large, and one at a time is enough. */
let before: Promise<unknown> = Promise.resolve()
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const now = before.then(work, work)
  before = now.catch(() => undefined)
  return now
}

/**
 * A photo turned upright by what the camera noted, then written anew without any of the camera's notes (place, time), with its
 * thumbnail; sizes in pixels.
 * @param photo its bytes, or the path of its file
 * @param gone whether nobody waits for it any more: one whose turn has not come is left alone then
 * @throws ProblemException in a sentence for what is no picture, or has too many pixels
 */
export async function preparePhoto(
  photo: Buffer | string,
  gone?: AbortSignal,
): Promise<{ picture: Buffer; thumbnail: Buffer; width: number; height: number }> {
  const unreadable = refused(
    'not-a-photo',
    'This is no picture that can be read here. JPEG, PNG, WebP, AVIF and GIF can.',
  )
  try {
    const open = () => sharp(photo, { limitInputPixels: MOST_PIXELS, failOn: 'error' })
    // told by its head, before anything of it is decoded
    const {
      format,
      width: across,
      height: down,
      pages = 1,
    } = await sharp(photo, {
      limitInputPixels: false,
    }).metadata()
    if (!KINDS.has(format)) throw unreadable
    if (across * down * (format === 'gif' ? 1 : pages) > MOST_PIXELS)
      throw refused(
        'too-many-pixels',
        `This picture has ${Math.round((across * down) / 1e6)} million pixels; ${MOST_PIXELS / 1e6} are the most that are taken. Make it smaller first.`,
      )
    const fit = (side: number) =>
      open()
        .autoOrient()
        .resize({ width: side, height: side, fit: 'inside', withoutEnlargement: true })
        .flatten({ background: '#ffffff' })
        .jpeg({ quality: 84 })
    return await inTurn(async () => {
      gone?.throwIfAborted()
      const { data: picture, info } = await fit(LARGE).toBuffer({ resolveWithObject: true })
      return { picture, thumbnail: await fit(SMALL).toBuffer(), width: info.width, height: info.height }
    })
  } catch (error) {
    if (gone?.aborted) throw error
    throw error instanceof ProblemException ? error : unreadable
  }
}
