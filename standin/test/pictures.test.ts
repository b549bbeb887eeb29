import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { GRADES_SHOWN, picturesOfGrades } from '../pictures/grades'
import type { Picture } from '../src/picture/render'

/** Share of a picture's pixels that are lighter than something. */
function lighter({ data, width, height }: Picture, than: number, from = 0): number {
  let count = 0
  let all = 0
  for (let y = 0; y < height; y++)
    for (let x = Math.floor(from * width); x < width; x++) {
      all++
      if (data[3 * (y * width + x)] > than) count++
    }
  return count / all
}

test('strings between the posts: the worse the grade, the more of the dark between them is crossed', () => {
  const pictures = picturesOfGrades('strings', 120)
  expect(pictures.every(Boolean)).toBe(true)
  // the right half is air
  const crossed = pictures.map((p) => lighter(p!, 90, 0.6))
  expect(crossed[4]).toBe(0)
  expect(crossed[0]).toBeGreaterThan(0.1)
  for (let grade = 1; grade <= 4; grade++) expect(crossed[grade]).toBeLessThanOrEqual(crossed[grade - 1])
})

test('what is shown has a picture of each grade', () => {
  for (const criterion of Object.keys(GRADES_SHOWN))
    for (let grade = 0; grade <= 4; grade++) {
      const file = join(__dirname, '../../web/public/grades', `${criterion}-${grade}.webp`)
      expect([file, existsSync(file)]).toEqual([file, true])
    }
})
