import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import pg from 'pg';
import { Source } from '../../server/src/testing/queries.js';
import type { TestHouse } from '../../server/src/testing/house.js';
import { openOldHouse } from '../../server/src/testing/old-house.js';

/*
 * No query reads all of what grows with the house: every query of every store is planned by PostgreSQL on a small old house,
 * as it would be for any parameters (force_generic_plan), and its plan is read. On a small house a scan may be the quicker
 * way; scans are made dear here (enable_seqscan, PostgreSQL 15 manual, section 20.7.1), so that one that is left has no other.
 */

/** What grows with the house. */
const GROWS = ['item', 'filed_item', 'copy', 'event', 'intake'];

/** Queries that must read everything, and why. */
const MAY_READ_ALL: readonly (readonly [start: RegExp, because: string])[] = [
  [/^insert into copy .* from filed_item f\s+join item i/s, 'a place that is new waits for everything, once'],
  [/full join \(select folded_folder/, 'a recount counts everything'],
  [/^select count\(\*\)::int as events/, 'whoever verifies the log reads the log'],
  [
    /^select count\(\*\)::int as total, coalesce\(sum\(i\.items\)/,
    'what all of the logbook comes to is summed from an index alone',
  ],
];

interface Plan {
  readonly 'Node Type': string;
  readonly 'Relation Name'?: string;
  readonly 'Index Name'?: string;
  readonly 'Index Cond'?: string;
  readonly Plans?: readonly Plan[];
}

let test: TestHouse;
let client: pg.Client;
const source = new Source();
const asked = [...source.asked(), ...source.askedOfIntakes()];
/** Indexes that hold a part of a table only: reading one whole reads what is to be done. */
let partial: Set<string>;

beforeAll(async () => {
  test = await openOldHouse({ items: 9_000, intakes: 1_500, contributors: 200, assignments: 400, years: 22 });
  client = new pg.Client({ connectionString: test.database.adminUrl });
  await client.connect();
  await client.query(`set plan_cache_mode = force_generic_plan; set enable_seqscan = off; set jit = off`);
  const { rows } = await client.query<{ name: string }>(
    `select c.relname as name from pg_index x join pg_class c on c.oid = x.indexrelid where x.indpred is not null`,
  );
  partial = new Set(rows.map(({ name }) => name));
}, 180_000);
afterAll(async () => {
  await client.end();
  await test.end();
});

/** What of a plan reads all of something that grows. A limit above it stops it early. */
function* readsAll(plan: Plan, relation: string | null = null, limited = false): Generator<string> {
  const of = plan['Relation Name'] ?? relation;
  const kind = plan['Node Type'];
  if (of && GROWS.includes(of)) {
    if (kind === 'Seq Scan') yield `${of}: read from end to end`;
    const isIndex = kind.endsWith('Index Scan') || kind === 'Index Only Scan';
    if (isIndex && !plan['Index Cond'] && !limited && !partial.has(plan['Index Name'] ?? ''))
      yield `${of}: all of ${plan['Index Name']}`;
  }
  const stops = limited || kind === 'Limit';
  // What sorts or counts first has read everything before a limit stops it.
  const passes = stops && !['Sort', 'Incremental Sort', 'Aggregate', 'Hash', 'WindowAgg', 'Materialize'].includes(kind);
  for (const inner of plan.Plans ?? []) yield* readsAll(inner, of, passes);
}

async function planOf(sql: string): Promise<Plan> {
  const last = Math.max(0, ...[...sql.matchAll(/\$(\d+)/g)].map(([, n]) => Number(n)));
  await client.query('deallocate all');
  await client.query(`prepare one as ${sql}`);
  const given = last ? `(${Array.from({ length: last }, () => 'null').join(', ')})` : '';
  const { rows } = await client.query<{ 'QUERY PLAN': [{ Plan: Plan }] }>(`explain (format json) execute one${given}`);
  return rows[0]!['QUERY PLAN'][0].Plan;
}

/** One after the other: they share a name on the connection. */
async function readEach(queries: readonly { readonly sql: string }[]): Promise<string[][]> {
  const found: string[][] = [];
  for (const { sql } of queries) found.push([...readsAll(await planOf(sql))]);
  return found;
}

describe('no query reads all of what grows with the house', () => {
  it('and there are many', () => expect(asked.length).toBeGreaterThan(120));

  it.each(asked.filter(({ sql }) => !/^\s*(lock|listen)/i.test(sql)).map(({ at, sql }) => [at, sql] as const))(
    '%s',
    async (_at, sql) => {
      const found = [...readsAll(await planOf(sql))];
      const may = MAY_READ_ALL.some(([start]) => start.test(sql.trim()));
      expect(may ? [] : found).toEqual([]);
    },
  );

  it.each(MAY_READ_ALL)('an exception that is needed: %s, because %s', async (start) => {
    const plans = await readEach(asked.filter(({ sql }) => start.test(sql.trim())));
    expect(plans.flat()).not.toEqual([]);
  });

  it('would notice: a query without an index is refused', async () => {
    expect([...readsAll(await planOf('select id from item where description = $1'))]).toEqual(['item: read from end to end']);
    expect([...readsAll(await planOf('select count(*) from filed_item'))]).not.toEqual([]);
  });
});
