// Does the loop close? Pairs are tuned and faults are found on drawn worlds, by following the app's next step; a table goes
// to docs/closed-loop.md. VERIMEND_TUNE, VERIMEND_FIND and VERIMEND_DOUBLES say how many of each, VERIMEND_FROM
// from which seed on, VERIMEND_WAYS by which ways.
import { writeFileSync } from 'node:fs'
import { prove, tableOf, WAYS, type Proof } from '../../standin/proof/prove'

const number = (name: string, usual: number) => Number(process.env[name] ?? usual)
const ways = WAYS.filter((w) => (process.env.VERIMEND_WAYS ?? WAYS.join()).split(',').includes(w))
const size = {
  tune: number('VERIMEND_TUNE', 200),
  each: number('VERIMEND_FIND', 12),
  doubles: number('VERIMEND_DOUBLES', 100),
  from: number('VERIMEND_FROM', 1),
}
const run = `This run: ${size.tune} worlds tuned, ${size.each} of each property and ${size.doubles} of two, seeds from ${size.from} on.`
const page = (proof: Proof) => {
  // what is there is kept at every step: it runs for hours
  if (process.env.VERIMEND_WRITE !== '0') writeFileSync('docs/closed-loop.md', tableOf(proof, run))
}
const proof = prove({
  ...size,
  ways,
  say: (line) => console.log(line),
  step: page,
})
console.log(tableOf(proof, run))
page(proof)
