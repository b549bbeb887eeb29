/**
 * The floors of core, lowest first: a room uses rooms on floors below it, and of its own floor only those named here.
 * The picture is in docs/architecture.md; what is not in it does not pass.
 */
const FLOORS = [
  ['quantity', 'statistics', 'material', 'machine', 'extrusion'],
  ['gcode', 'motion', 'geometry'],
  ['toolpath', 'planner'],
  ['rewrite'],
  ['recipe', 'measurement'],
  ['knowledge'],
  ['trials', 'diagnosis'],
  ['casework'],
  ['words', 'demo'],
]
/** Rooms on one floor, one way only. */
const BESIDE = {
  material: ['quantity', 'statistics'],
  machine: ['quantity', 'material'],
  extrusion: ['material'],
  motion: ['gcode'],
  diagnosis: ['trials'],
}
/** What the stand-in may know: physics and its own language, none of the answers. */
const STANDIN_DOORS = [
  'gcode',
  'motion',
  'geometry',
  'extrusion',
  'machine',
  'material',
  'quantity',
  'statistics',
]

const anyOf = (names) => `(${names.join('|')})`
const only = (name, comment, from, to) => ({ name, comment, severity: 'error', from: { path: from }, to })

const rooms = FLOORS.flatMap((own, floor) =>
  own.map((room) => {
    const allowed = [room, ...FLOORS.slice(0, floor).flat(), ...(BESIDE[room] ?? [])]
    return only(`floor-${floor}-${room}`, `${room} uses only what lies below it`, `^core/src/${room}/`, {
      path: '^core/src/',
      pathNot: `^core/src/${anyOf(allowed)}/`,
    })
  }),
)

module.exports = {
  forbidden: [
    ...rooms,
    only('rooms-only', 'nothing lies in core but rooms', '^core/src/', {
      path: '^core/src/',
      pathNot: `^core/src/${anyOf(FLOORS.flat())}/`,
    }),
    only(
      'doors',
      'outsiders come into core through its doors',
      '^(contract|server|web|standin|e2e|scripts)/',
      {
        path: '^core/src/',
        pathNot: '^core/src/\\w+/index\\.ts$',
      },
    ),
    {
      name: 'no-circles',
      comment: 'no file leads back to itself',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    only('core-alone', 'core imports nothing of ours', '^core/src', {
      path: '^(contract|server|web|standin|e2e)/',
    }),
    only('core-pure', 'core has no node: and few packages', '^core/src/(?!geometry/)', {
      dependencyTypes: ['core', 'npm', 'npm-dev'],
      pathNot: 'node_modules/(jstat|minisearch|stemmer)',
    }),
    only('core-geometry', 'solids, packages and XML are opened in one room', '^core/src/geometry', {
      dependencyTypes: ['core', 'npm', 'npm-dev'],
      pathNot: 'node_modules/(manifold-3d|fflate|saxes)',
    }),
    only('contract-on-core', 'contract imports core only', '^contract/src', {
      path: '^(server|web|standin|e2e)/',
    }),
    only('web-not-server', 'web and server never meet', '^web/src', { path: '^(server|standin)/' }),
    only('server-not-web', 'web and server never meet', '^server/src', { path: '^(web|standin)/' }),
    only('standin-knows-nothing', 'the stand-in must not know the answers', '^standin/src', {
      path: '^(core|server|web|contract)/',
      pathNot: `^core/src/${anyOf(STANDIN_DOORS)}/index\\.ts$`,
    }),
    only('imports-resolve', 'imports lead somewhere', '^(core|contract|server|standin|web|e2e)/', {
      couldNotResolve: true,
    }),
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.cruise.json' },
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(dist|/test)/' },
  },
}
