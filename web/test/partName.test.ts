import fc from 'fast-check'
import { partNameOf } from '../src/components/partName'

test('a file’s name without its ending, with spaces for what stands for them', () => {
  expect(partNameOf('drip-line_clip--v2.gcode')).toBe('drip line clip v2')
  expect(partNameOf('  hood.3mf')).toBe('hood')
  expect(partNameOf('no ending')).toBe('no ending')
})

test('a long name keeps whole words; one word that is too long is cut', () => {
  expect(partNameOf(`${'x'.repeat(90)}.stl`)).toBe('x'.repeat(80))
  expect(partNameOf(`${'word '.repeat(16)}and-more.stl`)).toBe('word '.repeat(16).trim())
  fc.assert(
    fc.property(fc.array(fc.stringMatching(/^[a-z]{1,30}$/), { minLength: 1, maxLength: 20 }), (words) => {
      const whole = words.join(' ')
      const name = partNameOf(`${words.join('-')}.gcode`)
      expect(name.length).toBeLessThanOrEqual(80)
      expect(whole.startsWith(name)).toBe(true)
      // it ends where a word ends
      expect([undefined, ' ']).toContain(whole[name.length])
      if (whole.length <= 80) expect(name).toBe(whole)
    }),
  )
})
