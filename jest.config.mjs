const transform = {
  '^.+\\.tsx?$': [
    '@swc/jest',
    {
      jsc: {
        target: 'es2022',
        parser: { syntax: 'typescript', tsx: true, decorators: true },
        transform: { legacyDecorator: true, decoratorMetadata: true, react: { runtime: 'automatic' } },
      },
    },
  ],
}
const moduleNameMapper = {
  '^@verimend/core/(\\w+)$': '<rootDir>/../core/src/$1/index.ts',
  '^@verimend/contract$': '<rootDir>/../contract/src/index.ts',
}
const project = (name, extra = {}) => ({
  displayName: name,
  rootDir: name,
  testEnvironment: 'node',
  // looked up once instead of in every call: computations are full of it
  sandboxInjectedGlobals: ['Math'],
  testMatch: ['<rootDir>/test/**/*.test.ts', '<rootDir>/test/**/*.test.tsx'],
  transform,
  moduleNameMapper,
  ...extra,
})
/** Packages that come as modules only. */
const asModules = {
  moduleNameMapper: {
    ...moduleNameMapper,
    '^manifold-3d$': '<rootDir>/../node_modules/manifold-3d/manifold.js',
    '^three$': '<rootDir>/../node_modules/three/build/three.module.js',
  },
  transform: { ...transform, '^.+\\.js$': transform['^.+\\.tsx?$'] },
  transformIgnorePatterns: ['/node_modules/(?!(manifold-3d|clipper2-ts|three)/)'],
}
export default {
  // a test that hangs is ended; a slow machine is not. It counts here only, not within a project.
  testTimeout: 120_000,
  projects: [
    project('core', asModules),
    project('contract'),
    project('standin'),
    project('web', {
      testEnvironment: 'jsdom',
      setupFiles: ['<rootDir>/test/setup.ts'],
      moduleNameMapper: {
        ...moduleNameMapper,
        // a page without workers does the same work itself
        '^(\\.\\./workers|\\.)/compute$': '<rootDir>/test/compute.ts',
        '\\.css$': 'identity-obj-proxy',
        // these come as modules unless asked otherwise
        '^(d3-[\\w-]+|internmap)$': '<rootDir>/../node_modules/$1/dist/$1.min.js',
      },
    }),
    project('server', {
      ...asModules,
      globalSetup: '<rootDir>/test/database.mjs',
      globalTeardown: '<rootDir>/test/database-stop.mjs',
    }),
  ],
}
