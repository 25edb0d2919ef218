import { afterEach, describe, expect, it } from '@jest/globals';
import { mkdirSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { makeCard, noise } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse, until } from '../testing/house.js';
import { runAdoption } from './adopting.js';
import { adoptByItself, askAdopt } from './asking-to-adopt.js';
import { carryOutAll } from './carrying.js';
import { askCheck, placeHere, runCheck } from './checking.js';
import { mendNow } from './mending.js';
import { adoptionsGoing } from './store/adoptions.js';
import { filedIn } from './store/known.js';

/* Adoptions that two begin, that another station goes on with, or that could not take in everything. */

let test: TestHouse;
afterEach(() => test.end());
const rows = <T>(sql: string, given: unknown[] = []) => test.house.db.query<T[]>(sql, given);

/** Files that somebody put on the shared drive by hand, and a round that has seen them. */
async function strays(folder: string, count: number, bytes = 200): Promise<void> {
  mkdirSync(join(test.shared, folder), { recursive: true });
  const old = new Date('2026-04-01T10:00:00Z');
  for (let n = 0; n < count; n++) {
    const path = join(test.shared, folder, `${n}.jpg`);
    writeFileSync(path, noise(bytes + n, n + 1));
    utimesSync(path, old, old);
  }
  await seen();
}
async function seen(): Promise<void> {
  const ask = { how: 'size and time', names: false, strict: false } as const;
  await runCheck(test.house, await askCheck(test.house, 'shared', ask, 'test'), never);
}
const asked = (folder: string, more: object = {}) => ({
  folders: [{ folder, contributorId: null, assignmentId: null, title: null, day: null, ...more }],
});

describe('an adoption', () => {
  it('that another station goes on with, under a path of its own, goes on in the same intake', async () => {
    test = await openHouse();
    await strays('old', 600);
    symlinkSync(test.shared, join(test.folder, 'mounted-elsewhere'));
    const places = test.settings.places.map((place) =>
      place.id === 'shared' ? { ...place, root: join(test.folder, 'mounted-elsewhere') } : place,
    );
    const other = { ...test.house, settings: { ...test.house.settings, station: 'Other', places } };
    const id = await askAdopt(test.house, 'shared', asked('old'), 'test');
    const stop = new AbortController();
    const running = runAdoption(test.house, id, stop.signal);
    await until(async () => (await rows('select 1 from filed_item limit 1')).length > 0);
    stop.abort();
    await running.catch(() => undefined);
    await runAdoption(other, id, never);
    expect(
      await rows(
        'select adopted_folder as folder, state, items, (select count(*)::int from filed_item f where f.intake_id = i.id) as filed from intake i',
      ),
    ).toEqual([{ folder: 'old', state: 'closed', items: 600, filed: 600 }]);
    expect(await rows('select state, adopted, problem from adoption')).toEqual([{ state: 'done', adopted: 600, problem: null }]);
  });

  it('that two ask for at once is begun once, with one assignment', async () => {
    test = await openHouse();
    await strays('old', 3);
    const ask = asked('old', { title: 'Old cupboard' });
    const both = await Promise.allSettled([
      askAdopt(test.house, 'shared', ask, 'one'),
      askAdopt(test.house, 'shared', ask, 'two'),
    ]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(both.flatMap((one) => (one.status === 'rejected' ? [(one.reason as Error).message] : []))).toEqual([
      'old is being adopted already.',
    ]);
    expect(await adoptionsGoing(test.house.db, ['shared'])).toHaveLength(1);
    expect(await rows(`select slug from assignment where title = 'Old cupboard'`)).toHaveLength(1);
  });

  it('makes an assignment of the day that it is in the house', async () => {
    test = await openHouse({ zone: 'Europe/Berlin' });
    await strays('undated', 1);
    test.clock.now = new Date('2026-04-21T22:30:00Z');
    const id = await askAdopt(test.house, 'shared', asked('undated', { title: 'Late' }), 'test');
    await runAdoption(test.house, id, never);
    const [made] = await rows<{ from: string }>(
      `select to_char(from_day, 'YYYY-MM-DD') as "from" from assignment where title = 'Late'`,
    );
    expect(made!.from).toBe('2026-04-22');
  });

  it('tells all that it could not take in, and does by itself what came elsewhere', async () => {
    test = await openHouse();
    const id = await bring(test, await makeCard(join(test.folder, 'CARD'), { 'DCIM/1.JPG': 500 }, 3));
    await fileNow(test.house, id);
    const [{ folder }] = (await rows<{ folder: string }>('select folder from filed_item')) as [{ folder: string }];
    const [{ name }] = (await rows<{ name: string }>('select name from filed_item')) as [{ name: string }];
    // Its name is filed already, in another spelling: it stays a stray.
    writeFileSync(join(test.shared, folder, name.toUpperCase()), noise(700, 9));
    utimesSync(join(test.shared, folder, name.toUpperCase()), 1e9, 1e9);
    await seen();
    const first = await adoptByItself(test.house, await placeHere(test.house, 'shared'));
    await runAdoption(test.house, first!, never);
    expect(await rows('select problem from adoption')).toEqual([
      { problem: expect.stringMatching(/filed already in another spelling/) },
    ]);
    expect(await adoptByItself(test.house, await placeHere(test.house, 'shared'))).toBeNull();
    // Another folder, where something of one assignment is filed.
    const other = 'scans of the same day';
    mkdirSync(join(test.shared, other));
    const ids = (await rows<{ id: number }>('select item_id as id from filed_item')).map((one) => one.id);
    expect(ids).toHaveLength(1);
    await mendNow(
      test.house,
      {
        kind: 'mend',
        words: 'elsewhere',
        names: (await filedIn(test.house.db, folder, 1)).map((row) => ({
          ...row,
          to: `${other}/1.jpg`,
          toList: other,
          toN: null,
        })),
      },
      'test',
    );
    await carryOutAll(test.house, never);
    await strays(other, 1, 900);
    const second = await adoptByItself(test.house, await placeHere(test.house, 'shared'));
    expect(second).not.toBeNull();
    await runAdoption(test.house, second!, never);
    expect(await rows('select adopted from adoption where id = $1', [second])).toEqual([{ adopted: 1 }]);
  });
});
