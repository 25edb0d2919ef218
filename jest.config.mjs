import { availableParallelism } from 'node:os';
import presets from 'jest-preset-angular/presets/index.js';

/** Unit tests stand beside their code; tests of the server that need a PostgreSQL get TALLY_TEST_DATABASE from tools/test.mjs. */
const swc = [
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
];

const node = (name) => ({
  displayName: name,
  rootDir: `<rootDir>/${name}`,
  testEnvironment: 'node',
  testMatch: ['<rootDir>/src/**/*.spec.ts'],
  extensionsToTreatAsEsm: ['.ts'],
  setupFilesAfterEnv: ['<rootDir>/../tests/support/seed.ts'],
  transform: { '^.+\\.ts$': swc },
  moduleNameMapper: {
    '^(\\.{1,2}/.*)\\.js$': '$1',
    '^@tally/core/(.*)$': '<rootDir>/../core/src/$1/index.ts',
    '^@tally/contract$': '<rootDir>/../contract/src/index.ts',
  },
});

const angular = presets.createEsmPreset({ tsconfig: '<rootDir>/tsconfig.spec.json' });

export default {
  testTimeout: 120_000,
  // Many tests wait for processes, disks and the database: one more at once than there are cores.
  maxWorkers: availableParallelism() + 1,
  projects: [
    node('core'),
    node('contract'),
    node('server'),
    node('standins'),
    {
      ...node('tests'),
      testMatch: ['<rootDir>/{boundaries,faults,command-line,file-systems,reference,size,stations}/**/*.spec.ts'],
    },
    {
      displayName: 'web',
      rootDir: 'web',
      ...angular,
      testEnvironment: 'jest-preset-angular/environments/jest-jsdom-env',
      testMatch: ['<rootDir>/src/**/*.spec.ts'],
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
