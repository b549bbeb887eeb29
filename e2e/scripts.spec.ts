import { expect, test } from '@playwright/test'
import { execFile, spawn } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, realpathSync, rmSync, statSync, writeFileSync } from 'node:fs'
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
    expect(said.trim().split('\n').length).toBeLessThan(20)
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
  expect(said).toContain('core, planner, advice, loop, application, load, screens')
})

const TAKE = `
  import { takeFolder } from './scripts/lib/folder.mjs'
  const { taken, other, left } = takeFolder(process.argv[1], 4310)
  console.log(taken ? ['taken', ...left].join(' ') : 'other ' + other.pid)
`
/** Takes a folder in a process of its own. */
const take = async (data: string) => (await runLines(TAKE, data)).said.trim()
/** What tells this very process, or one of a number, from others. */
const identityOf = async (pid: number) =>
  (
    await runLines(
      `import { identity } from './scripts/lib/processes.mjs'; console.log(identity(Number(process.argv[1])))`,
      String(pid),
    )
  ).said.trim()

test('a data folder is taken once; a lock that is not that of a living owner of this very folder is none', async () => {
  const data = realpathSync(folder())
  const lock = join(data, 'running.json')
  const who = await identityOf(process.pid)
  expect(who).toMatch(new RegExp(`^${process.pid} [0-9]+ [0-9a-f-]{36}$`))
  // this very process holds it, and is there
  const mine = { who, pid: process.pid, folder: data, port: 1 }
  writeFileSync(lock, JSON.stringify(mine))
  expect(await take(data)).toBe(`other ${process.pid}`)
  const [pid, began, boot] = who.split(' ')
  const stale = [
    // the same number, begun at another time, or before the machine was started, or of nobody
    { who: `${pid} ${Number(began) - 1} ${boot}` },
    { who: `${pid} ${began} 00000000-0000-0000-0000-000000000000` },
    { who: `999999999 ${began} ${boot}` },
    // the first process of all, somebody else’s
    { who: `1 5 ${boot}` },
    // a copy of another folder
    { who, folder: '/somewhere/else' },
    // an older version’s, whose number has gone to another program
    { who: undefined, pid: process.pid },
  ]
  for (const other of stale) {
    writeFileSync(lock, JSON.stringify({ ...mine, ...other }))
    expect(await take(data)).toBe('taken')
  }
  for (const nonsense of ['', 'null', '7', '{"pid":', '{"pid":999999999,"port":1}', '{}', '[]']) {
    writeFileSync(lock, nonsense)
    expect(await take(data)).toBe('taken')
  }
  expect(statSync(data).mode & 0o777).toBe(0o700)
})

test('what a killed start has left running is told to the next, and of another folder’s nothing', async () => {
  const data = realpathSync(folder())
  const lock = join(data, 'running.json')
  const who = `999999999 1 ${(await identityOf(process.pid)).split(' ')[2]}`
  const started = ['4711 12 x']
  writeFileSync(lock, JSON.stringify({ who, folder: data, port: 1, started }))
  expect(await take(data)).toBe('taken 4711 12 x')
  writeFileSync(lock, JSON.stringify({ who, folder: '/somewhere/else', port: 1, started }))
  expect(await take(data)).toBe('taken')
})

test('one that is closing says so in its lock, so that the next can wait for it', async () => {
  const data = folder()
  const { said } = await runLines(
    `
      import { takeFolder } from './scripts/lib/folder.mjs'
      import { readFileSync } from 'node:fs'
      const { taken } = takeFolder(process.argv[1], 4310)
      taken.tell(4311)
      taken.leave()
      const { leaving, port } = JSON.parse(readFileSync(process.argv[1] + '/running.json', 'utf8'))
      console.log(leaving, port)
      taken.release()
      console.log(takeFolder(process.argv[1], 4312).taken !== undefined)
    `,
    data,
  )
  expect(said.trim()).toBe('true 4311\ntrue')
})

test('data lies in the user’s data directory, or where it lay before, in the checkout', async () => {
  const home = folder()
  const checkout = folder()
  const ask = async (xdg = '') =>
    (
      await runLines(
        `import { usualFolder } from './scripts/lib/folder.mjs'
         const [home, checkout, xdg] = process.argv.slice(1)
         const { folder, old } = usualFolder({ home, checkout, env: xdg ? { XDG_DATA_HOME: xdg } : {} })
         console.log(folder, old)`,
        home,
        checkout,
        xdg,
      )
    ).said.trim()
  expect(await ask()).toBe(`${home}/.local/share/verimend false`)
  expect(await ask('/elsewhere')).toBe('/elsewhere/verimend false')
  expect(await ask('not/absolute')).toBe(`${home}/.local/share/verimend false`)
  mkdirSync(join(checkout, 'data'))
  writeFileSync(join(checkout, 'data', 'mariadb-ready'), '')
  expect(await ask()).toBe(`${checkout}/data true`)
  mkdirSync(join(home, '.local/share/verimend'), { recursive: true })
  expect(await ask()).toBe(`${home}/.local/share/verimend false`)
})

test('of many that take a folder at once, one gets it', async () => {
  const data = folder()
  // each holds it until all have tried
  const holders = Array.from({ length: 6 }, () =>
    spawn(process.execPath, ['--input-type=module', '-e', `${TAKE};setTimeout(() => {}, 4000)`, data], {
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
