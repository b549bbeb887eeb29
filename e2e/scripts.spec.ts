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
  expect(said).toContain('core, planner, advice, fits, loop, application, load, screens')
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

test('while a backup is written into a folder, or put back, whoever comes is told what is going on', async () => {
  const data = realpathSync(folder())
  writeFileSync(join(data, 'mariadb-ready'), '')
  const lock = join(data, 'running.json')
  const held = { who: await identityOf(process.pid), pid: process.pid, folder: data, port: 0 }
  writeFileSync(lock, JSON.stringify({ ...held, doing: 'writing a backup' }))
  const backup = await run('scripts/backup.mjs', '--data', data)
  expect(backup).toMatchObject({
    code: 1,
    said: expect.stringContaining('Another is writing a backup here just now. Try again when that is done.'),
  })
  // a start waits until it is done: then there is nothing of a database here, and it says so
  const start = run('scripts/start.mjs', '--data', data, '--no-build', '--port', '0')
  await new Promise((r) => setTimeout(r, 2000))
  expect(await Promise.race([start, null])).toBeNull()
  rmSync(lock)
  const { code, said } = await start
  expect(said).toContain('Another is writing a backup here just now; waiting until that is done.')
  expect(code).toBe(1)
  // one that starts has no database to read from yet
  writeFileSync(lock, JSON.stringify(held))
  expect((await run('scripts/backup.mjs', '--data', data)).said).toContain(
    'just starting on this data folder',
  )
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

test('what a changed file can break is every test that reaches it, and all of them when packages change', async () => {
  const { said } = await runLines(`
    import { testsOfChange } from './scripts/lib/changed.mjs'
    const reached = new Map([
      ['core/test/a.test.ts', ['core/test/a.test.ts', 'core/src/gcode/lexer.ts']],
      ['core/test/b.test.ts', ['core/test/b.test.ts', 'core/src/motion/planner.ts']],
      ['web/test/setup.ts', ['web/test/setup.ts']],
      ['web/test/c.test.tsx', ['web/test/c.test.tsx', 'core/src/gcode/lexer.ts']],
    ])
    for (const changed of [
      ['core/src/gcode/lexer.ts'],
      ['core/test/b.test.ts', 'README.md'],
      ['docs/tests.md'],
      ['web/test/fixtures/demo.json.gz'],
      ['package-lock.json'],
    ])
      console.log(testsOfChange(reached, changed).map((path) => path.split('/').at(-1)[0]).join('') || '-')
  `)
  expect(said.trim().split('\n')).toEqual(['ac', 'b', '-', 'c', 'abc'])
})

test('bundled tests reach what they import and nothing else; a changed file leads to them', async () => {
  const { said } = await runLines(`
    import { reachedBy } from './scripts/lib/testBundle.mjs'
    const reached = await reachedBy(['core/test/geometry.test.ts', 'contract/test/edge.test.ts'])
    const of = (path) => reached.get(path)
    console.log(
      of('core/test/geometry.test.ts').includes('core/src/geometry/polygons.ts') ||
        of('core/test/geometry.test.ts').some((path) => path.startsWith('core/src/geometry/')),
      of('core/test/geometry.test.ts').some((path) => path.startsWith('contract/')),
      of('contract/test/edge.test.ts').some((path) => path.startsWith('contract/src/')),
    )
  `)
  expect(said.trim()).toBe('true false true')
})

test('times become tables: stages, the twenty files that take most of a processor, every journey', async () => {
  const { said } = await runLines(`
    import { timesTables } from './scripts/lib/times.mjs'
    const unit = Array.from({ length: 23 }, (_, i) => ({ kind: 'unit', what: 'f' + i, cpu: i, s: 2 * i }))
    const [stages, files, journeys] = timesTables(
      [{ kind: 'stage', what: 'Lint', s: 12.34 }, ...unit, { kind: 'journey', what: 'a.spec.ts: b | c', s: 123.4 }],
      600,
    )
    console.log([stages, files.split('\\n').length, files.split('\\n').at(-1), journeys].join('\\n'))
  `)
  expect(said).toMatch(/\| Lint +\| 12\.3 \|/)
  expect(said).toMatch(/from begin to end +\| +600 \|/)
  expect(said).toContain('\n23\n')
  // the three least: 0 + 1 + 2
  expect(said).toMatch(/3 other files +\| +3\.0 \| +6\.0/)
  expect(said).toMatch(/a\.spec\.ts: b \/ c \| +123/)
})

test('what the browser gets is packed: each text as .br and .gz that unpack to the same bytes, small and packed files as they are', async () => {
  const { said } = await runLines(
    `
    import { readFileSync, readdirSync, writeFileSync } from 'node:fs'
    import { brotliDecompressSync, gunzipSync } from 'node:zlib'
    import { packed } from './scripts/lib/packed.mjs'
    const at = (name) => process.argv[1] + '/' + name
    const text = 'const answer = 42 // again and again\\n'.repeat(100)
    for (const name of ['a.js', 'b.css', 'c.wasm']) writeFileSync(at(name), text)
    writeFileSync(at('small.js'), 'x')
    writeFileSync(at('picture.webp'), text)
    await packed(process.argv[1])
    console.log(readdirSync(process.argv[1]).sort().join(' '))
    console.log(
      ['a.js', 'b.css', 'c.wasm'].every(
        (name) =>
          brotliDecompressSync(readFileSync(at(name + '.br'))).toString() === text &&
          gunzipSync(readFileSync(at(name + '.gz'))).toString() === text,
      ),
      readFileSync(at('a.js.br')).length < text.length / 5,
    )
  `,
    folder(),
  )
  expect(said.trim().split('\n')).toEqual([
    'a.js a.js.br a.js.gz b.css b.css.br b.css.gz c.wasm c.wasm.br c.wasm.gz picture.webp small.js',
    'true true',
  ])
})

test('what tortures the application kills what is there, says when nobody was, and waits no longer than it is told', async () => {
  const { said } = await runLines(`
    import { childrenOf, exitOf, kill, lineOf, until } from './scripts/torture/processes.mjs'
    import { spawn } from 'node:child_process'
    const child = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)', 'some-word'])
    console.log(childrenOf(process.pid).includes(child.pid), lineOf(child.pid).includes('some-word'))
    console.log(kill(child.pid))
    await exitOf(child)
    // one that has ended is waited for no more
    await exitOf(child)
    console.log(kill(child.pid), kill(0), childrenOf(999999999).length, lineOf(999999999) === '')
    let asked = 0
    console.log(await until(() => ++asked > 3 && 'there', 60000), asked, await until(() => false, 50))
  `)
  expect(said.trim().split('\n')).toEqual(['true true', 'true', 'false false 0 true', 'there 4 null'])
})

test('the writer of the torture misses what was confirmed and is gone or changed, and nothing that was refused', async () => {
  const { said } = await runLines(`
    import { Writer } from './scripts/torture/application.mjs'
    const kept = new Map()
    let refuse = false
    // a server that forgets and changes what it is told to
    const application = {
      ask: async (method, path, body) => {
        if (path === 'pairs') return { status: 200, body: [{ id: 'pair' }] }
        if (refuse) return { status: 503, body: null }
        if (method === 'POST') return kept.set(body.id, ''), { status: 201, body }
        const id = path.split('/')[1]
        if (method === 'PUT') return kept.set(id, body.note), { status: 200, body }
        return kept.has(id) ? { status: 200, body: { note: kept.get(id) } } : { status: 404, body: null }
      },
    }
    const writer = await Writer.of(application)
    console.log(await writer.write('a'), await writer.write('b'), await writer.missing())
    refuse = true
    console.log(await writer.write('c'))
    refuse = false
    console.log(await writer.missing(), writer.answers)
    const [first, second] = [...kept.keys()]
    kept.delete(first)
    console.log(await writer.missing())
    kept.set(second, 'other')
    console.log(await writer.missing())
  `)
  expect(said.trim().split('\n')).toEqual(['200 200 0', '503', '0 200: 2, 201: 2, 503: 1', '1', '2'])
})

test('whatever is missing of a data folder, nothing in it is ever deleted: whole it is taken, half-made it is set aside, broken it is refused', async () => {
  const { said } = await runLines(
    `
    import { cpSync, existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
    import { dirname, join } from 'node:path'
    import { databaseIn, setAside } from './scripts/lib/pieces.mjs'
    const place = process.argv[1]
    const PIECES = ['mariadb/ibdata1', 'mariadb/aria_log_control', 'mariadb/mysql/global_priv.frm', 'mariadb/mysql/global_priv.MAD']
    const OTHERS = ['mariadb-ready', 'mariadb/verimend/machines.ibd', 'files/ab/' + 'ab'.repeat(32)]
    const all = [...PIECES, ...OTHERS]
    const count = { new: 0, whole: 0, half: 0, broken: 0 }
    const wrong = []
    // every combination of what is there and what is not
    for (let mask = 0; mask < 2 ** all.length; mask++) {
      const folder = join(place, String(mask))
      mkdirSync(folder)
      const there = all.filter((_, i) => mask & (1 << i))
      for (const name of there) {
        mkdirSync(dirname(join(folder, name)), { recursive: true })
        writeFileSync(join(folder, name), '')
      }
      const { state } = databaseIn(folder)
      count[state]++
      const whole = PIECES.every((piece) => there.includes(piece))
      const used = OTHERS.some((other) => there.includes(other))
      const expected = whole ? 'whole' : used ? 'broken' : there.length ? 'half' : 'new'
      if (state !== expected) wrong.push([there, state])
      const before = readdirSync(folder, { recursive: true }).length
      if (state === 'half') setAside(folder, ['mariadb', 'nothing'], '2026-01-01')
      if (readdirSync(folder, { recursive: true }).length !== before) wrong.push([there, 'lost something'])
    }
    console.log(JSON.stringify(count), JSON.stringify(wrong))
    // a second one on a day does not take the place of the first
    const folder = join(place, 'aside')
    for (const _ of [1, 2]) {
      mkdirSync(join(folder, 'mariadb'), { recursive: true })
      console.log(setAside(folder, ['mariadb'], '2026-01-01').join())
    }
  `,
    folder(),
  )
  expect(said.trim().split('\n')).toEqual([
    '{"new":1,"whole":8,"half":14,"broken":105} []',
    'mariadb-aside-2026-01-01-1',
    'mariadb-aside-2026-01-01-2',
  ])
})
