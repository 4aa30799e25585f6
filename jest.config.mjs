/** Unit tests of every package, as ES modules; the interface's flows are Playwright's (e2e/). */
export default {
  testEnvironment: 'node',
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '<rootDir>/tools/forJest.mjs',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true },
          transform: { react: { runtime: 'automatic' } },
        },
        module: { type: 'es6' },
      },
    ],
  },
  testMatch: ['<rootDir>/*/**/*.test.ts', '<rootDir>/*/**/*.test.tsx'],
  testPathIgnorePatterns: ['/node_modules/', '/dist/', '/e2e/'],
  moduleNameMapper: {
    '\\.css$': '<rootDir>/web/testing/noStyle.ts',
    // What a bundler takes of it: the package says so in a way that Jest does not read.
    '^tus-js-client$': '<rootDir>/node_modules/tus-js-client/lib.es5/browser/index.js',
  },
  modulePathIgnorePatterns: ['<rootDir>/.shale/'],
  testTimeout: 60_000,
  maxWorkers: 2,
};
