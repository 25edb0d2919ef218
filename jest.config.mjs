import { availableParallelism } from 'node:os';
import presets from 'jest-preset-angular/presets/index.js';
import { suitesOf } from './tools/parts/suites.mjs';

/**
 * Unit tests stand beside their code; tests of the server that need a PostgreSQL get TALLY_TEST_DATABASE from tools/test.mjs.
 * With TALLY_SUITES a whole run takes them in a few files (tools/parts/suites), each spec as a block of its own.
 */
const inSuites = process.env.TALLY_SUITES === '1';
const asBlocks = (inner) => ['<rootDir>/../tests/support/jest/in-one-file.mjs', { inner, blocks: inSuites }];
const where = (name, specs) =>
  inSuites ? { roots: ['<rootDir>', suitesOf(name)], testMatch: [`${suitesOf(name)}/*.suite.mjs`] } : { testMatch: specs };

const swc = asBlocks([
  '@swc/jest',
  {
    jsc: {
      target: 'es2023',
      parser: { syntax: 'typescript', decorators: true },
      transform: { legacyDecorator: true, decoratorMetadata: true },
    },
    module: { type: 'es6' },
    sourceMaps: 'inline',
  },
]);

const node = (name, specs = ['<rootDir>/src/**/*.spec.ts']) => ({
  displayName: name,
  rootDir: `<rootDir>/${name}`,
  testEnvironment: '<rootDir>/../tests/support/jest/node-environment.mjs',
  ...where(name, specs),
  extensionsToTreatAsEsm: ['.ts'],
  setupFilesAfterEnv: ['<rootDir>/../tests/support/seed.ts', '<rootDir>/../tests/support/at-the-end.ts'],
  transform: { '^.+\\.ts$': swc },
  moduleNameMapper: {
    '^(\\.{1,2}/.*)\\.js$': '$1',
    '^@tally/core/(.*)$': '<rootDir>/../core/src/$1/index.ts',
    '^@tally/contract$': '<rootDir>/../contract/src/index.ts',
  },
});

const angular = presets.createEsmPreset({ tsconfig: '<rootDir>/tsconfig.spec.json' });

export default {
  // Not in the folder for temporary files, which is gone with a run.
  cacheDirectory: '<rootDir>/.tally/cache/jest',
  testTimeout: 120_000,
  // Many tests wait for processes, disks and the database: one more at once than there are cores.
  maxWorkers: availableParallelism() + 1,
  ...(inSuites && { testSequencer: '<rootDir>/tests/support/jest/heaviest-first.mjs' }),
  projects: [
    node('core'),
    node('contract'),
    node('server'),
    node('standins'),
    node('tests', ['<rootDir>/{boundaries,faults,command-line,file-systems,reference,size,stations,tools}/**/*.spec.ts']),
    {
      displayName: 'web',
      rootDir: 'web',
      ...angular,
      transform: Object.fromEntries(Object.entries(angular.transform).map(([which, inner]) => [which, asBlocks(inner)])),
      testEnvironment: 'jest-preset-angular/environments/jest-jsdom-env',
      ...where('web', ['<rootDir>/src/**/*.spec.ts']),
      setupFilesAfterEnv: ['<rootDir>/src/test-setup.ts', '<rootDir>/../tests/support/seed.ts'],
      moduleNameMapper: {
        ...angular.moduleNameMapper,
        // As the bundler takes it: the package says so by a field that Jest does not read.
        '^tus-js-client$': '<rootDir>/../node_modules/tus-js-client/lib.es5/browser/index.js',
        '^@tally/core/(.*)$': '<rootDir>/../core/src/$1/index.ts',
        '^@tally/contract$': '<rootDir>/../contract/src/index.ts',
        '^(\\.{1,2}/.*)\\.js$': '$1',
      },
    },
  ],
};
