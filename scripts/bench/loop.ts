// Does the loop close? Rolls are tuned and faults are found on drawn worlds, by following the app's next step; a table goes
// to docs/closed-loop.md. VERIMEND_TUNE, VERIMEND_FIND and VERIMEND_DOUBLES say how many of each, VERIMEND_OTHERS in how many of
// each property the other ways are followed, VERIMEND_FROM from which seed on. What is done is kept in .cache, a line each: a run
// that was cut short goes on from there. It takes an hour on two cores.
import { appendFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { createRequire } from 'node:module'
import { Worker, isMainThread, parentPort } from 'node:worker_threads'
import Module from 'manifold-3d'
import type { Kernel } from '@verimend/core/geometry'
import { pageOf } from '../../standin/proof/page'
import { done, shareOfProof, tasksOf, type Result, type Task } from '../../standin/proof/worlds'

/** The library for areas: brims and walls are laid round what a file draws. */
async function kernelReady(): Promise<Kernel> {
  const kernel = await Module({
    wasmBinary: readFileSync(createRequire(import.meta.url).resolve('manifold-3d/manifold.wasm')),
  } as unknown as Parameters<typeof Module>[0])
  kernel.setup()
  return kernel
}

const number = (name: string, usual: number) => Number(process.env[name] ?? usual)

/** MB of short-lived objects that a worker keeps before it sweeps: a print makes many. */
const YOUNG = 64

/** How many rolls and faults of the share of `npm test`: --share=6,10. */
const share = process.argv.find((word) => word.startsWith('--share='))

if (!isMainThread) {
  const kernel = await kernelReady()
  parentPort!.on('message', (task: Task) => parentPort!.postMessage(done(task, kernel)))
} else if (share) {
  const results: Result[] = []
  const [rolls, faults] = share.split('=')[1].split(',').map(Number)
  await goThrough(shareOfProof(rolls, faults), (result) => results.push(result))
  console.log(JSON.stringify(results))
} else await proof()

/** Goes through worlds, as many at once as there are cores. A worker stays with a pair that it has settled. */
async function goThrough(tasks: readonly Task[], onEnd: (result: Result) => void): Promise<void> {
  const left = [...tasks]
  const pairOf = ({ kind, family, seed }: Task) => `${kind} ${family} ${seed}`
  const busyWith = new Map<Worker, string>()
  const nextFor = (worker: Worker): Task | undefined => {
    const mine = busyWith.get(worker)
    busyWith.delete(worker)
    const others = new Set(busyWith.values())
    const own = left.findIndex((t) => pairOf(t) === mine)
    const fresh = left.findIndex((t) => !others.has(pairOf(t)))
    const [task] = left.splice(own >= 0 ? own : Math.max(0, fresh), 1)
    if (task) busyWith.set(worker, pairOf(task))
    return task
  }
  const work = (worker: Worker) =>
    new Promise<void>((end, fail) => {
      const next = () => {
        const task = nextFor(worker)
        if (task) worker.postMessage(task)
        else void worker.terminate().then(() => end())
      }
      worker.on('message', (result: Result) => {
        onEnd(result)
        next()
      })
      worker.on('error', fail)
      next()
    })
  await Promise.all(
    Array.from({ length: availableParallelism() }, () =>
      work(new Worker(new URL(import.meta.url), { resourceLimits: { maxYoungGenerationSizeMb: YOUNG } })),
    ),
  )
}

async function proof() {
  const size = {
    tune: number('VERIMEND_TUNE', 200),
    each: number('VERIMEND_FIND', 12),
    doubles: number('VERIMEND_DOUBLES', 100),
    others: number('VERIMEND_OTHERS', 3),
    from: number('VERIMEND_FROM', 1),
  }
  const kept = `.cache/closed-loop-${Object.values(size).join('-')}.jsonl`
  mkdirSync('.cache', { recursive: true })
  const results: Result[] = existsSync(kept)
    ? readFileSync(kept, 'utf8')
        .split('\n')
        .filter(Boolean)
        .map((line) => JSON.parse(line) as Result)
    : []
  const had = new Set(results.map(nameOf))
  const tasks = tasksOf(size)
  const order = new Map(tasks.map((t, i) => [nameOf(t), i]))
  const left = tasks.filter((t) => !had.has(nameOf(t)))
  const began = Date.now()
  await goThrough(left, (result) => {
    results.push(result)
    appendFileSync(kept, `${JSON.stringify(result)}\n`)
    const so = result.do === 'tune' ? result.ok : result.fixed
    console.log(`${((Date.now() - began) / 1000).toFixed(0)} s ${nameOf(result)}: ${so ? 'yes' : 'no'}`)
  })
  results.sort((a, b) => order.get(nameOf(a))! - order.get(nameOf(b))!)
  const run = `This run: ${size.tune} worlds tuned, ${size.each} of each property and ${size.doubles} of two, seeds from ${size.from} on.`
  writeFileSync('docs/closed-loop.md', pageOf(results, run))
  console.log(pageOf(results, run))
}

function nameOf(t: Task | Result): string {
  const what = t.do === 'tune' ? `tune ${t.how}` : `${t.way} ${t.hidden.join('+')}`
  return `${t.seed} ${t.kind} ${t.family} ${what}`
}
