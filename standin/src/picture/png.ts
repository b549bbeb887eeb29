import sharp from 'sharp'
import type { Picture } from './render'

/** A picture as PNG. */
export const png = ({ data, width, height }: Picture): Promise<Buffer> =>
  sharp(data, { raw: { width, height, channels: 3 } })
    .png()
    .toBuffer()
