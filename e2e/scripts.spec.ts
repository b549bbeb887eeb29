import { expect, test } from '@playwright/test'
import { execFile, spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync, existsSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

// the scripts by themselves, as a person types them; no browser
const root = join(fileURLToPath(import.meta.url), '..', '..')
const folders: string[] = []
const folder = () => {
  const made = mkdtempSync(join(tmpdir(), 'verimend-scripts-'))
  folders.push(made)
  return made
}
test.afterAll(() => folders.forEach((f) => rmSync(f, { recursive: true, force: true })))

const plain = { cwd: root, env: { ...process.env, FORCE_COLOR: '0' } }
/** Runs a script to its end. */
const run = (script: string, ...args: string[]) =>
  new Promise<{ code: number; said: string }>((resolve) =>
    execFile(process.execPath, [join(root, script), ...args], plain, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, said: out + err }),
    ),
  )
/** Runs a few lines with the scripts' own modules at hand. */
const runLines = (lines: string, ...args: string[]) =>
  new Promise<{ code: number; said: string }>((resolve) =>
    execFile(process.execPath, ['--input-type=module', '-e', lines, ...args], plain, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, said: out + err }),
    ),
  )

test('a flag it does not know, or a port that is none, is refused in a sentence, and nothing is made', async () => {
  const data = join(folder(), 'data')
  for (const args of [
    ['--prot', '4310'],
    ['--port', 'many'],
    ['--port', '70000'],
  ]) {
    const { code, said } = await run('scripts/start.mjs', '--data', data, ...args)
    expect(code).not.toBe(0)
    expect(said.trim().split('\n').length).toBeLessThan(12)
    expect(said).not.toMatch(/^\s+at /m)
  }
  expect(existsSync(data)).toBe(false)
})

test('the checks tell how they are used', async () => {
  const help = await run('scripts/test.mjs', '--help')
  expect(help.code).toBe(0)
  expect(help.said).toContain('npm test -- e2e/paths')
})

test('the bench knows its parts by name', async () => {
  const { code, said } = await run('scripts/bench.mjs', 'everything')
  expect(code).toBe(1)
  expect(said).toContain('core, planner, advice, loop, application, screens')
})

const TAKE = `
  import { takeFolder } from './scripts/lib/folder.mjs'
  const { taken, other } = takeFolder(process.argv[1], process.argv[2], 4310)
  console.log(taken ? 'taken' : 'other ' + other.pid)
`
/** Takes a folder in a process of its own. */
const take = async (data: string, script = '-e') => (await runLines(TAKE, data, script)).said.trim()

test('a data folder is taken once; one whose owner is gone, or whose lock is nonsense, is taken again', async () => {
  const data = folder()
  const lock = join(data, 'running.json')
  // this very process holds it, and is there
  writeFileSync(lock, JSON.stringify({ pid: process.pid, port: 1 }))
  const own = readFileSync(`/proc/${process.pid}/cmdline`, 'utf8').split('\0')[1]
  expect(await take(data, own)).toBe(`other ${process.pid}`)
  // a process of that number is there, but it is another program
  expect(await take(data, 'no-such-script.mjs')).toBe('taken')
  for (const nonsense of ['', 'null', '{"pid":', '{"pid":999999999,"port":1}', '{}']) {
    writeFileSync(lock, nonsense)
    expect(await take(data)).toBe('taken')
  }
})

test('one that is closing says so in its lock, so that the next can wait for it', async () => {
  const data = folder()
  const { said } = await runLines(
    `
      import { takeFolder } from './scripts/lib/folder.mjs'
      import { readFileSync } from 'node:fs'
      const { taken } = takeFolder(process.argv[1], '-e', 4310)
      taken.tell(4311)
      taken.leave(4311)
      const { leaving, port } = JSON.parse(readFileSync(process.argv[1] + '/running.json', 'utf8'))
      console.log(leaving, port)
      taken.release()
      console.log(takeFolder(process.argv[1], '-e', 4312).taken !== undefined)
    `,
    data,
  )
  expect(said.trim()).toBe('true 4311\ntrue')
})

test('of many that take a folder at once, one gets it', async () => {
  const data = folder()
  // each holds it until all have tried
  const holders = Array.from({ length: 6 }, () =>
    spawn(process.execPath, ['--input-type=module', '-e', `${TAKE};setTimeout(() => {}, 4000)`, data, '-e'], {
      cwd: root,
    }),
  )
  const said = await Promise.all(
    holders.map(
      (h) =>
        new Promise<string>((resolve) => h.stdout.once('data', (d: Buffer) => resolve(d.toString().trim()))),
    ),
  )
  holders.forEach((h) => h.kill())
  expect(said.filter((s) => s === 'taken')).toHaveLength(1)
})

test('a new folder beside the old one never takes the place of another', async () => {
  const data = folder()
  const day = new Date().toISOString().slice(0, 10)
  const ask = async () =>
    (
      await runLines(
        `import { besides } from './scripts/lib/folder.mjs'; console.log(besides(process.argv[1]))`,
        data,
      )
    ).said.trim()
  expect(await ask()).toBe(`${data}-${day}-1`)
  mkdirSync(`${data}-${day}-1`)
  folders.push(`${data}-${day}-1`)
  expect(await ask()).toBe(`${data}-${day}-2`)
})

test('a command that fails tells what it printed; one that is not there is missed by name', async () => {
  const { said } = await runLines(`
    import { has, run } from './scripts/lib/run.mjs'
    await run('sh', ['-c', 'echo out; echo err >&2; exit 3']).catch((e) => console.log(e.code, e.message))
    console.log(has('sh'), has('no-such-command-at-all'))
  `)
  expect(said).toMatch(/^3 sh -c .* ended with 3\nout\nerr\n+true false\n$/)
})

test('a class name that a stylesheet does not have is found by the types', async () => {
  const { code, said } = await runLines(`
    import { readFileSync } from 'node:fs'
    import { typeStyles } from './scripts/lib/styles.mjs'
    await typeStyles()
    console.log(readFileSync('.cache/styles/frame/Frame.module.css.d.ts', 'utf8'))
  `)
  expect(code).toBe(0)
  expect(said).toContain('readonly "rail": string')
  expect(said).not.toContain('no-such-class')
})

test('a free port is free, and each its own', async () => {
  const { said } = await runLines(`
    import { createServer } from 'node:net'
    import { freePort } from './scripts/lib/database.mjs'
    const ports = await Promise.all(Array.from({ length: 20 }, freePort))
    await new Promise((resolve, reject) => createServer().on('error', reject).listen(ports[0], '127.0.0.1', resolve))
    console.log(ports.every((p) => p > 1023 && p < 65536))
    process.exit(0)
  `)
  expect(said.trim()).toBe('true')
})
