// Jest runs what scripts/lib/testBundle.mjs has bundled; `npm test` does both.
import { existsSync } from 'node:fs'
import { join } from 'node:path'

const project = (name, extra = {}) => ({
  displayName: name,
  rootDir: `.cache/tests/${name}`,
  testEnvironment: 'node',
  testMatch: ['<rootDir>/test/**/*.test.cjs'],
  transform: {},
  // looked up once instead of in every call: computations are full of it
  sandboxInjectedGlobals: ['Math'],
  setupFilesAfterEnv: ['<rootDir>/../../../scripts/lib/cpuOfFile.cjs'],
  ...extra,
})
export default {
  // a test that hangs is ended; a slow machine is not. It counts here only, not within a project.
  testTimeout: 120_000,
  projects: [
    project('core'),
    project('contract'),
    project('standin'),
    project('web', { testEnvironment: 'jsdom', setupFiles: ['<rootDir>/test/setup.cjs'] }),
    project('server', {
      globalSetup: '<rootDir>/../../../server/test/database.mjs',
      globalTeardown: '<rootDir>/../../../server/test/database-stop.mjs',
    }),
    // those that were asked for
  ].filter(({ rootDir }) => existsSync(join(import.meta.dirname, rootDir))),
}
