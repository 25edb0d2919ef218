// npm run check: types and lint of all sources, in one process: the compiler reads them once, and the rules that ask for types
// get its answers. Prints what is wrong; ends with 1 when something is. Exports nothing.
import { ESLint } from 'eslint';
import { dirname, join } from 'node:path';
import ts from 'typescript';
import { ROOT } from './parts/ready.mjs';
import { say, step } from './parts/say.mjs';

/** Each with what it alone is asked about: web's reads core and contract too, which the first has checked. */
const PROJECTS = [
  { config: 'tsconfig.check.json', only: '' },
  { config: 'web/tsconfig.spec.json', only: 'web/' },
];

function programOf(config) {
  const path = join(ROOT, config);
  const { options, fileNames, errors } = ts.parseJsonConfigFileContent(
    ts.readConfigFile(path, ts.sys.readFile).config,
    ts.sys,
    dirname(path),
    undefined,
    path,
  );
  if (errors.length) throw new Error(ts.formatDiagnostics(errors, HOST));
  return ts.createProgram(fileNames, options);
}

const HOST = { getCanonicalFileName: (name) => name, getCurrentDirectory: () => ROOT, getNewLine: () => '\n' };

const began = Date.now();
const seconds = () => `${((Date.now() - began) / 1000).toFixed(0)} s`;
const programs = [];
let wrong = 0;
for (const { config, only } of PROJECTS) {
  const program = programOf(config);
  programs.push(program);
  const found = [
    ...program.getOptionsDiagnostics(),
    ...program.getGlobalDiagnostics(),
    ...program
      .getSourceFiles()
      .filter(({ fileName, isDeclarationFile }) => !isDeclarationFile && fileName.startsWith(join(ROOT, only)))
      .flatMap((file) => [...program.getSyntacticDiagnostics(file), ...program.getSemanticDiagnostics(file)]),
  ];
  if (found.length) say(ts.formatDiagnostics(found, HOST));
  wrong += found.length;
  step(`types of ${config}: ${found.length} wrong (${seconds()})`);
}

const eslint = new ESLint({
  cwd: ROOT,
  overrideConfig: [{ files: ['**/*.ts'], languageOptions: { parserOptions: { project: null, programs } } }],
});
const results = await eslint.lintFiles(['.']);
const messages = results.reduce((sum, { errorCount, warningCount }) => sum + errorCount + warningCount, 0);
if (messages) say(await (await eslint.loadFormatter('stylish')).format(results));
step(`lint of ${results.length} files: ${messages} wrong (${seconds()})`);
process.exit(wrong || messages ? 1 : 0);
