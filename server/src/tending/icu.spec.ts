import { afterAll, beforeAll, expect, it } from '@jest/globals';
import { dirname, join } from 'node:path';
import pg from 'pg';
import { compose } from '../composition.js';
import { copiesOf } from '../filing/index.js';
import { makeCard } from '../testing/cards.js';
import { icuDatabase } from '../testing/database.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { sharedReader } from '../testing/thorough.js';
import { tool } from '../testing/tools.js';
import { carryOutAll } from './carrying.js';
import { beginMend, planMend } from './mending.js';
import { filedBelow } from './store/known.js';

/*
 * A database whose own order is that of a language (ICU), as one that is run by somebody else may be: `a&b` stands between
 * `a/` and `a0` there. What is in a folder must not depend on it.
 */

let test: TestHouse;
let database: Awaited<ReturnType<typeof icuDatabase>>;
beforeAll(async () => {
  database = await icuDatabase();
  test = await openHouse({ databaseUrl: database.appUrl, databaseAdminUrl: database.adminUrl });
});
afterAll(async () => {
  await test.end();
  await database.drop();
});

it('a folder holds what is in it, and not what is in one that is called alike', async () => {
  const [{ icu }] = await test.house.db.query<[{ icu: boolean }]>(`select 'a&b' > 'a/' and 'a&b' < 'a0' as icu`);
  expect(icu).toBe(true);
  const file = async (n: number) => {
    const id = await bring(test, await makeCard(join(test.folder, `card-${n}`), { 'DCIM/1.JPG': 500 + n }, n));
    await fileNow(test.house, id);
    return dirname((await copiesOf(test.house.db, id))[0]!.to);
  };
  const moved = async (folder: string, to: string) => {
    const ask = { kind: 'rename folder', folder, to } as const;
    const answer = await beginMend(test.house, ask, (await planMend(test.house, ask)).seal, 'test');
    if (answer.outcome !== 'begun') throw new Error('the plan changed');
    await carryOutAll(test.house, never);
  };
  await moved(await file(1), 'a/in it');
  await moved(await file(2), 'a&b/beside it');
  await moved(await file(3), 'a+b');
  expect(await filedBelow(test.house.db, 'a')).toBe(1);
  await moved('a', 'z');
  const stands = tool('find', test.shared, '-name', '*.jpg').trim().split('\n');
  expect(stands.map((path) => dirname(path).slice(test.shared.length + 1)).sort()).toEqual(['a&b/beside it', 'a+b', 'z/in it']);
});

it('a database that compares paths so is not begun with', async () => {
  const owner = new pg.Client({ connectionString: database.adminUrl });
  await owner.connect();
  try {
    await owner.query('alter table stray alter column folder type text collate "default"');
    await expect(compose(test.settings, { thorough: sharedReader() })).rejects.toThrow(
      /compares paths by the order of a language \(stray\.folder\)/,
    );
  } finally {
    await owner.query('alter table stray alter column folder type text collate "C"');
    await owner.end();
  }
});
