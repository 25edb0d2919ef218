import { join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';

/* What the compiler itself reads of the queries in the sources: every `query` of every store, with the type of its rows. */

export const SRC = fileURLToPath(new URL('..', import.meta.url));

/** Other packages by their sources: a build for tests has no declarations. */
const PACKAGES = {
  '@tally/core/*': [join(SRC, '../../core/src/*/index.ts')],
  '@tally/contract': [join(SRC, '../../contract/src/index.ts')],
};

/** A query as it stands in the source. */
export interface Asked {
  readonly at: string;
  readonly sql: string;
  /** Name of each property of a row, and what it may be; null: nobody looks at the rows. */
  readonly row: ReadonlyMap<string, string> | null;
}

/** What stands in a query where the source has something that only a run knows. */
const AT_RUN: Readonly<Record<string, string>> = {
  condition: 'i.id = $1',
  'column(key)': 'card_id',
  "conditions.join(' and ')": 'true',
  'order.column': 'i.received_at',
  'ORDERS[query.order]': 'a.from_day',
  "by.map((one) => `${one} ${direction}`).join(', ')": 'i.received_at asc, i.id asc',
  direction: 'asc',
  'narrowed.where': 'true',
  where: 'true',
  'query.limit': '1',
  'query.offset': '0',
  "lock ? 'for update' : ''": '',
  LIVE_CHANNEL: 'tally_live',
  items: 'select 1 as item_id',
};

/** The sources of the server, read by the compiler. */
export class Source {
  readonly program: ts.Program;
  readonly checker: ts.TypeChecker;

  constructor() {
    const config = ts.getParsedCommandLineOfConfigFile(
      join(SRC, '../tsconfig.json'),
      { noEmit: true, composite: false },
      {
        ...ts.sys,
        onUnRecoverableConfigFileDiagnostic: () => undefined,
      },
    )!;
    this.program = ts.createProgram(config.fileNames, { ...config.options, paths: PACKAGES });
    this.checker = this.program.getTypeChecker();
  }

  /** Every call of `query` in a store file or in db/. */
  asked(): Asked[] {
    const found: Asked[] = [];
    for (const file of this.program.getSourceFiles()) {
      const path = relative(SRC, file.fileName);
      if (path.startsWith('..') || !/(^|\/)store(\/|\.ts$)/.test(path)) continue;
      const visit = (node: ts.Node): void => {
        if (
          ts.isCallExpression(node) &&
          ts.isPropertyAccessExpression(node.expression) &&
          node.expression.name.text === 'query'
        ) {
          const line = file.getLineAndCharacterOfPosition(node.getStart()).line + 1;
          found.push({ at: `${path}:${line}`, sql: this.text(node.arguments[0]!), row: this.rowOf(node) });
        }
        ts.forEachChild(node, visit);
      };
      visit(file);
    }
    return found;
  }

  /** Every condition that rooms ask for intakes by, as the query that it makes of `intakesWhere`. */
  askedOfIntakes(): Pick<Asked, 'at' | 'sql'>[] {
    const [base] = this.asked().filter(({ at, sql }) => at.startsWith('house/store/intakes') && sql.endsWith('where i.id = $1'));
    const found: Pick<Asked, 'at' | 'sql'>[] = [];
    for (const file of this.program.getSourceFiles()) {
      const path = relative(SRC, file.fileName);
      if (path.startsWith('..') || /\.spec\.ts$|^testing\//.test(path)) continue;
      const visit = (node: ts.Node): void => {
        if (ts.isCallExpression(node) && node.expression.getText() === 'intakesWhere') {
          const line = file.getLineAndCharacterOfPosition(node.getStart()).line + 1;
          const condition = this.text(node.arguments[1]!);
          found.push({ at: `${path}:${line}`, sql: base!.sql.replace(/i\.id = \$1$/, () => condition) });
        }
        ts.forEachChild(node, visit);
      };
      visit(file);
    }
    return found;
  }

  /** The text of a query, constants put in. */
  private text(node: ts.Expression): string {
    if (ts.isStringLiteralLike(node) || ts.isNumericLiteral(node)) return node.text;
    if (ts.isTemplateExpression(node))
      return node.head.text + node.templateSpans.map((span) => this.text(span.expression) + span.literal.text).join('');
    const known = AT_RUN[node.getText().replace(/\s+/g, ' ')];
    if (known !== undefined) return known;
    if (ts.isIdentifier(node)) {
      const declared = this.checker.getSymbolAtLocation(node)?.valueDeclaration;
      if (declared && ts.isVariableDeclaration(declared) && declared.initializer) return this.text(declared.initializer);
    }
    // A constant that makes a piece of a query from columns.
    if (ts.isCallExpression(node) && ts.isIdentifier(node.expression) && node.arguments.length > 0) {
      const named = this.checker.getSymbolAtLocation(node.expression);
      const made = (named && named.flags & ts.SymbolFlags.Alias ? this.checker.getAliasedSymbol(named) : named)?.valueDeclaration;
      if (made && ts.isVariableDeclaration(made) && made.initializer && ts.isArrowFunction(made.initializer)) {
        const given = new Map(made.initializer.parameters.map(({ name }, index) => [name.getText(), node.arguments[index]!]));
        const { body } = made.initializer;
        if (ts.isTemplateExpression(body)) {
          const piece = (one: ts.Expression) => this.text(given.get(one.getText()) ?? one);
          return body.head.text + body.templateSpans.map((span) => piece(span.expression) + span.literal.text).join('');
        }
      }
    }
    throw new Error(`${node.getSourceFile().fileName}: what is ${node.getText()} in a query?`);
  }

  private rowOf(call: ts.CallExpression): Asked['row'] {
    // `await db.query(…);` alone: nobody looks.
    const above = ts.isAwaitExpression(call.parent) ? call.parent.parent : call.parent;
    if (ts.isExpressionStatement(above)) return null;
    const promised = this.checker.getTypeAtLocation(call);
    const answer = this.checker.getAwaitedType(promised)!;
    let rows = answer;
    // What changes something answers [rows, count].
    if (this.checker.isTupleType(answer)) {
      const [first] = this.checker.getTypeArguments(answer as ts.TypeReference);
      if (first!.flags & ts.TypeFlags.Unknown) return null;
      rows = this.checker.isArrayType(first!) ? first! : answer;
    }
    const row = this.checker.getTypeArguments(rows as ts.TypeReference)[0];
    if (!row || row.flags & ts.TypeFlags.Any)
      throw new Error(`${call.getSourceFile().fileName}: a query without a type of its rows`);
    return new Map(
      this.checker.getPropertiesOfType(row).map((property) => {
        const type = this.checker.getTypeOfSymbol(property);
        return [property.name, this.checker.typeToString(this.checker.getNonNullableType(type))];
      }),
    );
  }
}
