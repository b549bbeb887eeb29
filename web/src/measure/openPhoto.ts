import type { GreyPicture } from '@verimend/core/measurement'
import { imageSize } from 'image-size'

/** Longest side a photo is read at, pixels. */
const LONGEST = 2000
/** Larger than this no camera makes them: refused before it is decoded. */
const MOST_BYTES = 60_000_000
/** More pixels than a browser should be asked to unpack. */
const MOST_PIXELS = 80_000_000
/** As far into a file as its size is written, bytes. */
const HEAD = 1_000_000
const NO_PICTURE = 'This is no picture that can be read here: a JPEG, PNG or WebP is.'

/** Opens a photo, upright and no larger than it is read at; what the camera wrote beside it is left behind. */
export async function openPhoto(file: File): Promise<ImageBitmap> {
  if (file.size > MOST_BYTES) throw new Error('This photo is larger than 60 MB: scale it down first.')
  // by what its head says, before anything is unpacked
  const size = sizeOf(new Uint8Array(await file.slice(0, HEAD).arrayBuffer()))
  if (!size) throw new Error(NO_PICTURE)
  if (size.width * size.height > MOST_PIXELS)
    throw new Error(
      `This photo has ${Math.round((size.width * size.height) / 1e6)} million pixels: scale it down first.`,
    )
  let whole: ImageBitmap
  try {
    whole = await createImageBitmap(file, { imageOrientation: 'from-image' })
  } catch {
    throw new Error(NO_PICTURE)
  }
  const share = Math.min(1, LONGEST / Math.max(whole.width, whole.height))
  if (share === 1) return whole
  const small = await createImageBitmap(whole, {
    resizeWidth: Math.round(whole.width * share),
    resizeHeight: Math.round(whole.height * share),
    resizeQuality: 'high',
  })
  whole.close()
  return small
}

/** Width and height that a picture's head gives; null where it is none. */
function sizeOf(head: Uint8Array): { width: number; height: number } | null {
  try {
    return imageSize(head)
  } catch {
    return null
  }
}

/** A picture in grey: what the eye sees of its brightness (ITU-R BT.601). */
export function greyOf(picture: ImageBitmap): GreyPicture {
  const { width, height } = picture
  const canvas = new OffscreenCanvas(width, height)
  const ink = canvas.getContext('2d', { willReadFrequently: true })!
  ink.drawImage(picture, 0, 0)
  const { data } = ink.getImageData(0, 0, width, height)
  const grey = new Uint8ClampedArray(width * height)
  for (let i = 0; i < grey.length; i++)
    grey[i] = 0.299 * data[4 * i] + 0.587 * data[4 * i + 1] + 0.114 * data[4 * i + 2]
  return { width, height, grey }
}
