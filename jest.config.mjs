/** Packages that come as modules only, which the tests' CommonJS cannot load as they are. */
const MODULES = 'd3-[^/]+|internmap|cookie|pinia|@vue/devtools[^/]*|birpc|hookable|perfect-debounce|nostics';

const transform = {
  '^.+\\.ts$': [
    '@swc/jest',
    { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } },
  ],
  [`^.+/node_modules/(${MODULES})/.+\\.m?js$`]: ['@swc/jest', { module: { type: 'commonjs' } }],
};

const LIVE = ['/recorder\\.test\\.ts$', '/browser/demo\\.test\\.ts$'];

const shared = {
  transform,
  transformIgnorePatterns: [`/node_modules/(?!(${MODULES})/)`],
  testEnvironment: 'node',
  testEnvironmentOptions: { customExportConditions: ['source', 'node', 'node-addons'] },
  moduleNameMapper: { '\\.vue$': '<rootDir>/test/vue-stub.cjs' },
  extensionsToTreatAsEsm: [],
  modulePathIgnorePatterns: ['<rootDir>/.heron/', '<rootDir>/test/truth/'],
};

const real = { ...shared, setupFilesAfterEnv: ['<rootDir>/test/setup-real.ts'] };

/**
 * Kinds of test: of the code alone, of real processes and servers, of the page in a real browser, and of live programs,
 * whose growth is judged while they run and which therefore run alone.
 */
export default {
  projects: [
    {
      ...shared,
      displayName: 'unit',
      testMatch: ['<rootDir>/packages/{core,web}/test/**/*.test.ts', '<rootDir>/test/*.test.ts'],
      setupFiles: ['<rootDir>/test/setup-unit.ts'],
    },
    {
      ...real,
      displayName: 'process',
      testMatch: ['<rootDir>/packages/{server,recorder-node,recorder-jvm,cli}/test/**/*.test.ts'],
      testPathIgnorePatterns: LIVE,
    },
    {
      ...real,
      displayName: 'browser',
      testMatch: ['<rootDir>/test/browser/**/*.test.ts'],
      testPathIgnorePatterns: LIVE,
    },
    { ...real, displayName: 'live', testMatch: ['**/recorder.test.ts', '**/browser/demo.test.ts'] },
  ],
  testTimeout: 240_000,
  maxWorkers: 2,
};
