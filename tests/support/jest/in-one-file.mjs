// A transformer of Jest's that makes a spec a block of its own, so that several can be run as one file: modules are loaded once
// for all of them, and each keeps its hooks to itself. Everything else is handed on to the transformer that it stands before.
import { createHash } from 'node:crypto';
import { createRequire } from 'node:module';
import { relative } from 'node:path';
import ts from 'typescript';

const require = createRequire(import.meta.url);

/** What a spec begins with and a block cannot have. */
const isImport = (statement) => ts.isImportDeclaration(statement) || ts.isImportEqualsDeclaration(statement);

/**
 * Puts what follows the imports of a spec into a `describe` that is named by its path. Lines stay where they are.
 * @throws when an import or an export stands behind the first statement: it could not be in a block
 */
export function asBlock(source, path, root) {
  const { statements } = ts.createSourceFile(path, source, ts.ScriptTarget.Latest);
  const first = statements.findIndex((statement) => !isImport(statement));
  const body = first < 0 ? [] : statements.slice(first);
  const stray = body.find(
    (statement) => isImport(statement) || ts.isExportDeclaration(statement) || ts.isExportAssignment(statement),
  );
  if (stray) throw new Error(`${path}: what is imported or exported by a spec stands above everything else.`);
  const at = body.length ? body[0].getFullStart() : source.length;
  const name = JSON.stringify(relative(root, path).replaceAll('\\', '/'));
  return `${source.slice(0, at)};describe(${name}, () => {${source.slice(at)}\n});\n`;
}

/** @param blocks false: specs stay as they are. @param inner [module, its options] */
async function createTransformer({ inner: [module, innerOptions], blocks }) {
  const loaded = require(module);
  const inner = await (loaded.default ?? loaded).createTransformer(innerOptions);
  const change = (source, path, { config }) =>
    blocks && path.endsWith('.spec.ts') ? asBlock(source, path, config.rootDir) : source;
  return {
    canInstrument: inner.canInstrument,
    getCacheKey: (source, path, options) =>
      createHash('sha256')
        .update(inner.getCacheKey(source, path, options))
        .update(blocks && path.endsWith('.spec.ts') ? 'block 1' : '')
        .digest('hex'),
    process: (source, path, options) => inner.process(change(source, path, options), path, options),
    processAsync: (source, path, options) =>
      inner.processAsync
        ? inner.processAsync(change(source, path, options), path, options)
        : Promise.resolve(inner.process(change(source, path, options), path, options)),
  };
}

export default { createTransformer };
