import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { dirname, relative } from 'node:path';
import pg from 'pg';
import { openHouse, type TestHouse } from '../testing/house.js';
import { Source, SRC } from '../testing/queries.js';

/*
 * Raw queries say by a type what their rows are, and nothing else compares the two. Here every query of every store is
 * described by PostgreSQL against the migrated schema (the extended protocol's Parse and Describe: manual, section 55.2.3),
 * and its columns are compared with the type it is given, by the compiler's own reading of the source.
 */

interface Column {
  readonly name: string;
  readonly dataTypeID: number;
}

/** Lets PostgreSQL say what a query answers, without running it. */
function describeQuery(client: pg.Client, sql: string): Promise<Column[]> {
  return new Promise((resolve, reject) => {
    let columns: Column[] = [];
    const asked = {
      submit(connection: { parse(p: object): void; describe(p: object): void; sync(): void }) {
        connection.parse({ text: sql, name: '', types: [] });
        connection.describe({ type: 'S', name: '' });
        connection.sync();
      },
      handleRowDescription: (message: { fields: Column[] }) => void (columns = message.fields),
      handleError: (error: Error) => reject(error),
      handleReadyForQuery: () => resolve(columns),
    };
    client.query(asked as unknown as pg.Submittable);
  });
}

/** What a value of a column is in JavaScript, as this program reads it (db/database: int8 and numeric as numbers). */
const KINDS: Readonly<Record<number, RegExp>> = {
  [pg.types.builtins.BOOL]: /^boolean$/,
  [pg.types.builtins.INT2]: /^number$/,
  [pg.types.builtins.INT4]: /^number$/,
  [pg.types.builtins.INT8]: /^number$/,
  [pg.types.builtins.FLOAT4]: /^number$/,
  [pg.types.builtins.NUMERIC]: /^number$/,
  [pg.types.builtins.TEXT]: /^(string|"|[A-Z]\w*$)/,
  [pg.types.builtins.TIMESTAMPTZ]: /^Date$/,
  [pg.types.builtins.BYTEA]: /^Buffer/,
  [pg.types.builtins.DATE]: /^string$/,
};

let test: TestHouse;
let client: pg.Client;
const asked = new Source().asked();
beforeAll(async () => {
  test = await openHouse();
  client = new pg.Client({ connectionString: test.database.appUrl });
  await client.connect();
});
afterAll(async () => {
  await client.end();
  await test.end();
});

describe('every query of every store', () => {
  it('is found: there are many', () => expect(asked.length).toBeGreaterThan(90));

  it.each(asked.map((one) => [one.at, one] as const))('%s answers what its type says', async (_at, { sql, row }) => {
    const columns = await describeQuery(client, sql);
    if (row === null) return;
    expect(columns.map(({ name }) => name).sort()).toEqual([...row.keys()].sort());
    for (const { name, dataTypeID } of columns) {
      const kind = KINDS[dataTypeID];
      if (kind) expect({ name, type: row.get(name) }).toEqual({ name, type: expect.stringMatching(kind) as unknown });
    }
  });
});

describe('a table is written by one room only', () => {
  const OWNERS: Readonly<Record<string, string>> = {
    ...{
      intake: 'house',
      intake_part: 'house',
      card: 'house',
      event: 'house',
      counter: 'house',
      house_life: 'house',
      backup_made: 'backing',
    },
    ...{ person: 'door', session: 'door', recovery_code: 'door', hand_in_link: 'door', event_link: 'audit', erasing: 'audit' },
    ...{ contributor: 'people', camera: 'people' },
    ...{ assignment: 'people', assignment_expected: 'people' },
    ...{ item: 'seeing', clock_correction: 'seeing', place: 'driving', place_known: 'driving' },
    ...{ place_total: 'driving', filed_folder: 'filing' },
    ...{ kit: 'counter', loan: 'counter', house_rule: 'rules', filed_item: 'filing', copy: 'filing' },
    ...{ credit_written: 'crediting', credit_stands: 'crediting' },
    ...{ beside_due: 'proving', beside_written: 'proving', hand_in: 'arriving', hand_in_file: 'arriving' },
    ...{ card_work: 'clearing', picture_asked: 'seeing' },
    ...{ terms: 'people', location: 'people', pictured: 'people', habit: 'people', agreement: 'people', former_code: 'people' },
    ...{ house_credit: 'people', word: 'people', word_label: 'people', word_start: 'people', word_broader: 'people' },
    ...{ bundle: 'shelf', bundle_item: 'shelf', intake_bundle: 'shelf', standing_question: 'shelf', shelf_change: 'shelf' },
    ...{ stood_folder: 'tending', stray: 'tending', drive_finding: 'tending', drive_check: 'tending', adoption: 'tending' },
    ...{ mend: 'tending', mend_move: 'tending', former_path: 'filing' },
    ...{ assignment_word: 'people', intake_word: 'slip', item_word: 'slip', item_credit: 'slip', item_pictured: 'slip' },
  };

  it('and every table has one', async () => {
    const { rows } = await client.query<{ name: string }>(
      `select table_name as name from information_schema.tables where table_schema = 'public' and table_type = 'BASE TABLE'`,
    );
    const ours = rows.map(({ name }) => name).filter((name) => !['migrations', 'sign_in_failure'].includes(name));
    expect(ours.sort()).toEqual(Object.keys(OWNERS).sort());
  });

  it('nobody else’s queries change it', () => {
    const others = asked.flatMap(({ at, sql }) => {
      const room = at.slice(0, at.indexOf('/'));
      // `for update` locks, and `do update` belongs to its insert.
      const plain = sql.replace(/\b(for|do|no key) update\b/g, '');
      return [...plain.matchAll(/\b(?:insert into|update|delete from) (\w+)/g)]
        .map(([, table]) => table!)
        .filter((table) => OWNERS[table] !== room)
        .map((table) => `${at} changes ${table}`);
    });
    expect(others).toEqual([]);
  });

  it('SQL stands in stores and in db/ only', () => {
    const program = new Source().program;
    const elsewhere = program.getSourceFiles().flatMap((file) => {
      const path = relative(SRC, file.fileName);
      if (path.startsWith('..') || /(^|\/)store(\/|\.ts$)|^db\/|^live\/bus|^work\/queue/.test(path)) return [];
      return /\.query[<(]/.test(readFileSync(file.fileName, 'utf8')) ? [path] : [];
    });
    expect(elsewhere).toEqual([]);
    expect(dirname(SRC)).toContain('server');
  });
});
