import js from '@eslint/js';
import angular from 'angular-eslint';
import globals from './tools/parts/globals.mjs';
import ts from 'typescript-eslint';

const strict = [js.configs.recommended, ...ts.configs.strictTypeChecked, ...ts.configs.stylisticTypeChecked];

const PROJECTS = ['tsconfig.check.json', 'web/tsconfig.spec.json'];

/** Where the strict set and our style do not meet, with the reason. */
const ours = {
  // Numbers and possibly-null texts in sentences are what this program writes all day.
  '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true, allowBoolean: true, allowNullish: true }],
  // A line that only hands on a void result reads better as one line.
  '@typescript-eslint/no-confusing-void-expression': [
    'error',
    { ignoreArrowShorthand: true, ignoreVoidReturningFunctions: true },
  ],
  '@typescript-eslint/no-non-null-assertion': 'off', // checked indexed access makes them necessary where an index is known to be good
  '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true }],
  '@typescript-eslint/no-extraneous-class': 'off', // Angular components and migrations
  '@typescript-eslint/array-type': ['error', { default: 'array' }],
  '@typescript-eslint/dot-notation': 'off', // index signatures of requests and environments are read with brackets
  '@typescript-eslint/unbound-method': 'off',
  '@typescript-eslint/no-unnecessary-condition': ['error', { allowConstantLoopConditions: true }],
  eqeqeq: 'error',
  'no-duplicate-imports': ['error', { allowSeparateTypeImports: true }],
};

export default ts.config(
  { ignores: ['**/dist/**', '**/.angular/**', 'node_modules/**', '.tally/**', 'tests/fixtures/**'] },
  {
    files: ['{core,contract,server,standins,tests,bench}/**/*.ts'],
    extends: strict,
    languageOptions: { parserOptions: { project: PROJECTS, tsconfigRootDir: import.meta.dirname } },
    rules: ours,
  },
  {
    files: ['web/src/**/*.ts'],
    extends: [...strict, ...angular.configs.tsRecommended],
    processor: angular.processInlineTemplates,
    languageOptions: { parserOptions: { project: PROJECTS, tsconfigRootDir: import.meta.dirname } },
    rules: {
      ...ours,
      '@angular-eslint/component-selector': ['error', { type: 'element', prefix: 'ts', style: 'kebab-case' }],
      '@angular-eslint/component-class-suffix': 'off',
      '@angular-eslint/prefer-on-push-component-change-detection': 'error',
    },
  },
  {
    files: ['web/src/**/*.html'],
    extends: [...angular.configs.templateRecommended, ...angular.configs.templateAccessibility],
    rules: {
      // The sheet is a listbox with an active descendant: the list has the focus and the keys, not each picture.
      '@angular-eslint/template/click-events-have-key-events': 'off',
      '@angular-eslint/template/interactive-supports-focus': 'off',
      '@angular-eslint/template/no-autofocus': 'off', // only on the sign-in page, where there is nothing before it
    },
  },
  {
    files: ['tools/**/*.mjs', 'tests/**/*.mjs', '*.mjs', 'server/bin/*.mjs'],
    extends: [js.configs.recommended],
    languageOptions: { globals },
  },
);
