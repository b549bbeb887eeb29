import type { GreyPicture } from '@verimend/core/measurement'

/** Longest side a photo is read at, pixels. */
const LONGEST = 2000
/** Larger than this no camera makes them: refused before it is decoded. */
const MOST_BYTES = 60_000_000

/** Opens a photo, upright and no larger than it is read at; what the camera wrote beside it is left behind. */
export async function openPhoto(file: File): Promise<ImageBitmap> {
  if (file.size > MOST_BYTES) throw new Error('This photo is larger than 60 MB: scale it down first.')
  let whole: ImageBitmap
  try {
    whole = await createImageBitmap(file, { imageOrientation: 'from-image' })
  } catch {
    throw new Error('This is no picture that can be read here: a JPEG, PNG or WebP is.')
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
