const only = (name, from, to, comment) => ({ name, comment, severity: 'error', from: { path: from }, to })
module.exports = {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    only(
      'core-alone',
      '^core/src',
      { path: '^(contract|server|web|standin|e2e)/' },
      'core imports nothing of ours',
    ),
    only(
      'core-pure',
      '^core/src',
      { dependencyTypes: ['core', 'npm', 'npm-dev'], pathNot: 'node_modules/jstat' },
      'core has no node: and no packages but the distributions of statistics',
    ),
    only(
      'contract-on-core',
      '^contract/src',
      { path: '^(server|web|standin|e2e)/' },
      'contract imports core only',
    ),
    only('web-not-server', '^web/src', { path: '^(server|standin)/' }, 'web and server never meet'),
    only('server-not-web', '^server/src', { path: '^(web|standin)/' }, 'web and server never meet'),
    only(
      'standin-knows-nothing',
      '^standin/src',
      { path: '^(core/src/(diagnosis|knowledge|trials)|server|web|contract)/' },
      'the stand-in must not know the answers',
    ),
    only(
      'physics-below-knowledge',
      '^core/src/(units|extrusion|statistics|motion|gcode|paths|materials)/',
      { path: '^core/src/(knowledge|diagnosis|trials|demo)/' },
      'arrows go one way',
    ),
    only(
      'no-orphans-unresolved',
      '^(core|contract|server|web)/src',
      { couldNotResolve: true },
      'imports resolve',
    ),
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.cruise.json' },
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(dist|test)/' },
  },
}
