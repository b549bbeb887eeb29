import { crc32 } from 'node:zlib'
import { openPhoto } from '../src/measure/openPhoto'

/** The head of a PNG that says how large it is; nothing of it can be unpacked. */
function png(width: number, height: number): Uint8Array<ArrayBuffer> {
  const head = Buffer.alloc(33)
  head.set([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])
  head.writeUInt32BE(13, 8)
  head.write('IHDR', 12, 'ascii')
  head.writeUInt32BE(width, 16)
  head.writeUInt32BE(height, 20)
  head.set([8, 2, 0, 0, 0], 24)
  head.writeUInt32BE(crc32(head.subarray(12, 29)), 29)
  return Uint8Array.from(head)
}
const file = (bytes: Uint8Array<ArrayBuffer>, size?: number) => {
  const f = new File([bytes], 'photo.png', { type: 'image/png' })
  if (size !== undefined) Object.defineProperty(f, 'size', { value: size })
  // the page that stands in for a browser here has no reading of parts
  Object.defineProperty(f, 'slice', {
    value: () => ({ arrayBuffer: () => Promise.resolve(bytes.buffer) }),
  })
  return f
}
const made: [number, number][] = []
beforeEach(() => {
  made.length = 0
  const picture = (width: number, height: number) => ({ width, height, close: () => undefined })
  globalThis.createImageBitmap = ((
    _: { width?: number },
    o: { resizeWidth?: number; resizeHeight?: number },
  ) => {
    const bitmap = o.resizeWidth ? picture(o.resizeWidth, o.resizeHeight!) : picture(4000, 3000)
    made.push([bitmap.width, bitmap.height])
    return Promise.resolve(bitmap)
  }) as unknown as typeof createImageBitmap
})

test('a photo is scaled to what it is read at', async () => {
  const { width, height } = await openPhoto(file(png(4000, 3000)))
  expect([width, height]).toEqual([2000, 1500])
})

test.each([
  ['of 200 million pixels', file(png(20_000, 10_000)), /200 million pixels/],
  ['of 70 MB', file(png(100, 100), 70_000_000), /larger than 60 MB/],
  ['that is none', file(new TextEncoder().encode('no picture, words')), /no picture that can be read/],
  ['that is empty', file(new Uint8Array(0)), /no picture that can be read/],
])('a photo %s is refused with a sentence, and nothing of it is unpacked', async (_, bad, sentence) => {
  await expect(openPhoto(bad)).rejects.toThrow(sentence)
  expect(made).toEqual([])
})

test('a picture whose body is broken is refused as well', async () => {
  globalThis.createImageBitmap = (() =>
    Promise.reject(new Error('broken'))) as unknown as typeof createImageBitmap
  await expect(openPhoto(file(png(100, 100)))).rejects.toThrow(/no picture that can be read/)
})
