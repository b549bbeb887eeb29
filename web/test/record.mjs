#!/usr/bin/env node
// Records what the server answers on a fresh demo, for the tests of the screens. To make it anew:
//   npm start -- --data /tmp/verimend-record --port 4399
//   node web/test/record.mjs http://127.0.0.1:4399
import { writeFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'

const [address] = process.argv.slice(2)
if (!address) throw new Error('Where does the demo run? Give its address.')

const answers = {}
async function get(path) {
  const response = await fetch(`${address}/api/${path}`)
  if (!response.ok) throw new Error(`${path}: ${response.status}`)
  return (answers[`GET ${path}`] = await response.json())
}

await Promise.all(
  ['machines', 'filaments', 'pairs/readiness', 'cases/statistics', 'cases?status=open&limit=24'].map(get),
)
for (const { id, machineId, filamentId } of await get('pairs')) {
  await get(`pairs/${id}`)
  for (const { number } of await get(`pairs/${id}/versions`)) await get(`pairs/${id}/versions/${number}`)
  await get(`pairs/relatives?machineId=${machineId}&filamentId=${filamentId}`)
  await get(`cases/lessons?pairId=${id}`)
  for (const m of await get(`measurements?machineId=${machineId}&pairId=${id}`))
    await get(`measurements/${m.id}`)
  await get(`cases/files?pairId=${id}`)
  for (const trial of await get(`trials?pairId=${id}`)) {
    await get(`trials/${trial.id}`)
    await get(`trials/${trial.id}/photos`)
  }
}
for (const { id } of (await get('cases')).cases) await get(`cases/${id}`)
for (const { id } of await get('parts')) await get(`parts/${id}`)

const file = new URL('./fixtures/demo.json.gz', import.meta.url)
writeFileSync(file, gzipSync(JSON.stringify(answers), { level: 9 }))
console.log(`${Object.keys(answers).length} answers kept.`)
