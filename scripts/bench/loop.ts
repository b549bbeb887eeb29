// Does the loop close? Pairs are tuned and faults are found on drawn worlds, by following the app's next step; a table goes
// to docs/closed-loop.md. VERIMEND_TUNE and VERIMEND_FIND say how many of each.
import { writeFileSync } from 'node:fs'
import { prove, tableOf } from '../../standin/proof/prove'

const tune = Number(process.env.VERIMEND_TUNE ?? 200)
const each = Number(process.env.VERIMEND_FIND ?? 12)
const doubles = Number(process.env.VERIMEND_DOUBLES ?? 100)
const proof = prove({ tune, each, doubles, say: (line) => console.log(line) })
const text = tableOf(proof)
console.log(text)
if (process.env.VERIMEND_WRITE !== '0') writeFileSync('docs/closed-loop.md', text)
