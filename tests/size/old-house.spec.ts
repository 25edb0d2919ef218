import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { join } from 'node:path';
import pg from 'pg';
import { recount, type Difference } from '../../server/src/filing/index.js';
import { intakeById, intakesAfter } from '../../server/src/house/index.js';
import { countIntake } from '../../server/src/seeing/index.js';
import { bring, fileNow, openHouse, type TestHouse } from '../../server/src/testing/house.js';
import { makeCard } from '../../server/src/testing/cards.js';
import { openOldHouse } from '../../server/src/testing/old-house.js';

/*
 * The old house is made by SQL. Here it is compared with what the product itself makes of cards, and with what it counts.
 */

let old: TestHouse;
let ours: TestHouse;
beforeAll(async () => {
  old = await openOldHouse({ items: 1_500, intakes: 40, contributors: 12, assignments: 30, years: 22 });
  ours = await openHouse({}, [{ id: 'offsite', kind: 'off-site copy' }]);
}, 180_000);
afterAll(async () => {
  await old.end();
  await ours.end();
});

async function differences(test: TestHouse): Promise<Difference[]> {
  const found: Difference[] = [];
  for await (const one of recount(test.house)) found.push(one);
  return found;
}

async function asOwner<T extends pg.QueryResultRow>(test: TestHouse, sql: string): Promise<T[]> {
  const owner = new pg.Client({ connectionString: test.database.adminUrl });
  await owner.connect();
  try {
    return (await owner.query<T>(sql)).rows;
  } finally {
    await owner.end();
  }
}

describe('the old house', () => {
  it('keeps every total as the product counts it', async () => {
    expect(await differences(old)).toEqual([]);
    const [first] = await intakesAfter(old.house.db, 0, 1);
    const [intake, counted] = [await intakeById(old.house.db, first!), await countIntake(old.house.db, first!)];
    expect(intake).toMatchObject(counted!.totals);
    expect(counted!.totals.items).toBeGreaterThan(5);
  });

  it('fills the columns that the product fills, with what the product puts there', async () => {
    const card = await makeCard(join(ours.folder, 'reader/CARD'), { 'DCIM/1.JPG': 3000, 'DCIM/2.JPG': 4000 });
    await fileNow(ours.house, await bring(ours, card));
    // Of each column: does it ever say anything, does it always?
    const columnsOf = async (test: TestHouse, table: string, of: string) => {
      const names = await asOwner<{ name: string }>(
        test,
        `select column_name as name from information_schema.columns where table_name = '${table}' and table_schema = 'public' order by 1`,
      );
      const [row] = await asOwner<Record<string, number>>(
        test,
        `select ${names.map(({ name }) => `count("${name}")::int as "${name}"`).join(', ')} from ${table} t ${of}`,
      );
      return new Set(Object.entries(row!).flatMap(([name, count]) => (count > 0 ? [name] : [])));
    };
    for (const [table, of] of [
      ['filed_item', ''],
      ['copy', `where state = 'tallied'`],
      ['intake_part', ''],
      ['filed_folder', ''],
      ['place_total', ''],
      ['event', `where kind = 'tallied'`],
    ] as const) {
      const product = await columnsOf(ours, table, of);
      expect({ table, filled: [...(await columnsOf(old, table, of))].sort() }).toEqual({ table, filled: [...product].sort() });
    }
  });

  it('totals that were changed by hand are found, named and mended', async () => {
    await asOwner(old, `update place_total set copies = copies + 5 where place_id = 'second'`);
    await asOwner(old, `update filed_folder set items = items - 1 where folded = (select min(folded) from filed_folder)`);
    await asOwner(old, `update intake set totals = jsonb_set(totals, '{items}', '7') where id = 3`);
    await asOwner(old, `update intake set bytes = 1 where id = 4`);
    await asOwner(old, `delete from intake_part where intake_id = 5`);
    const found = await differences(old);
    expect(found.map(({ of, what }) => `${of.split(' ')[0]} ${what}`).sort()).toEqual([
      ...['folder items', 'intake bytes', 'intake items', 'intake items', 'intake parts', 'place copies'],
    ]);
    expect(await differences(old)).toEqual([]);
  });
});
