import fc from 'fast-check'
import { unzipSync } from 'fflate'
import { zipOf } from '../src/geometry'
import { tries } from './lib/property'

test('what goes in comes out, each under a name of its own that leads nowhere else', () => {
  const file = fc.record({
    name: fc.oneof(fc.string(), fc.constantFrom('a.gcode', '../a.gcode', '__proto__', 'toString', '')),
    bytes: fc.uint8Array({ maxLength: 40 }),
  })
  fc.assert(
    fc.property(fc.array(file, { maxLength: 8 }), (files) => {
      const out = Object.entries(unzipSync(zipOf(files)))
      expect(out.length).toBe(files.length)
      const sorted = (list: Uint8Array[]) => list.map((b) => [...b].join()).sort()
      expect(sorted(out.map(([, bytes]) => bytes))).toEqual(sorted(files.map(({ bytes }) => bytes)))
      for (const [name] of out) expect(name).not.toMatch(/[\\/\0]/)
    }),
    tries(60),
  )
})
