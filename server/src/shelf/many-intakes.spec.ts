import { afterAll, beforeAll, expect, it } from '@jest/globals';
import { join } from 'node:path';
import pg from 'pg';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { shelfNow } from './kept-shelf.js';

let test: TestHouse;
beforeAll(async () => {
  test = await openHouse();
  await fileNow(test.house, await bring(test, await makeCard(join(test.folder, 'ONE'), { '1.JPG': 400 })));
});
afterAll(() => test.end());

/** A house that has received many cards: rows as the first one's, written by the owner of the schema. */
async function manyIntakes(count: number): Promise<void> {
  const owner = new pg.Client({ connectionString: test.database.adminUrl });
  await owner.connect();
  try {
    const { rows } = await owner.query<{ name: string }>(
      `select column_name as name from information_schema.columns
       where table_name = 'intake' and is_identity = 'NO' and is_generated = 'NEVER'`,
    );
    const value = (name: string) =>
      ({ number: `'X' || n`, uid: 'uuid_v7()', present: 'false', state: `'closed'` })[name] ?? `i."${name}"`;
    const names = rows.map(({ name }) => name);
    await owner.query(
      `insert into intake (${names.map((name) => `"${name}"`).join(', ')})
       select ${names.map(value).join(', ')} from intake i, generate_series(1, $1::int) n where i.id = 1`,
      [count],
    );
  } finally {
    await owner.end();
  }
}

it('more intakes change at once than are read at once: the shelf keeps them all', async () => {
  await manyIntakes(6_000);
  expect((await shelfNow(test.house)).records.intake.size).toBe(6_001);
  await test.house.db.query(`update intake set credit_line = 'Somebody' where id > 0`);
  const { intake } = (await shelfNow(test.house)).records;
  expect(intake.size).toBe(6_001);
  expect([...intake.values()].every((one) => one.creditLine === 'Somebody')).toBe(true);
});
