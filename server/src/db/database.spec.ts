import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import { dataSource } from './database.js';
import { openHouse, NOW, type TestHouse } from '../testing/house.js';
import { record } from '../house/store/events.js';
import { advanceNumbers, nextNumbers } from '../filing/store/filed.js';
import { findIntakes } from '../house/store/intakes.js';
import { whileLocked } from './lock.js';
import { LogQuery } from '@tally/contract';

let test: TestHouse;
beforeAll(async () => (test = await openHouse()));
afterAll(() => test.end());

const as = async (url: string, sql: string) => {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return await client.query(sql);
  } finally {
    await client.end();
  }
};

describe('the schema', () => {
  it('is what the entities say: no drift', async () => {
    const source = await dataSource(test.database.adminUrl, 2).initialize();
    const { upQueries } = await source.driver.createSchemaBuilder().log();
    await source.destroy();
    // The queue and the counter of wrong passwords belong to libraries.
    expect(upQueries.map(({ query }) => query).filter((query) => !/pgboss|sign_in_failure/.test(query))).toEqual([]);
  });
});

describe('the log is append-only', () => {
  beforeAll(() => record(test.house.db, { at: NOW, kind: 'test', intakeId: null, who: 'wren', text: 'something happened' }));

  it.each([
    "update event set text = 'nothing happened'",
    'delete from event',
    'truncate event',
    "update house_rule set file_line = 'x'",
  ])('for the server’s user and for the owner too: %s', async (sql) => {
    await expect(as(test.database.appUrl, sql)).rejects.toThrow('permission denied');
    await expect(as(test.database.adminUrl, sql)).rejects.toThrow('append-only');
  });

  it('the server’s user cannot change the schema', async () => {
    await expect(as(test.database.appUrl, 'drop trigger event_append_only on event')).rejects.toThrow('must be owner');
    await expect(as(test.database.appUrl, 'create table public.mine (x int)')).rejects.toThrow('permission denied');
  });
});

describe('numbers', () => {
  it('drawn by forty transactions at once are each their own, without gaps', async () => {
    const drawn = await Promise.all(
      Array.from({ length: 40 }, (_, i) =>
        test.house.db.transaction(async (tx) => {
          const first = (await nextNumbers(tx, ['folder:x', 'folder:y'], true)).get('folder:x')!;
          const count = 1 + (i % 3);
          await advanceNumbers(tx, [{ scope: 'folder:x', next: first + count }]);
          return Array.from({ length: count }, (_unused, n) => first + n);
        }),
      ),
    );
    const all = drawn.flat().sort((a, b) => a - b);
    expect(all).toEqual(all.map((_, i) => i + 1));
  });

  it('of a transaction that is undone are given to the next', async () => {
    const draw = (fail: boolean) =>
      test.house.db.transaction(async (tx) => {
        const first = (await nextNumbers(tx, ['folder:z'], true)).get('folder:z')!;
        await advanceNumbers(tx, [{ scope: 'folder:z', next: first + 10 }]);
        if (fail) throw new Error('undone');
        return first;
      });
    await expect(draw(true)).rejects.toThrow('undone');
    expect(await draw(false)).toBe(1);
  });
});

describe('locks', () => {
  const never = new AbortController().signal;

  it('one at a time: the second is told no', async () => {
    let second: boolean | null = null;
    const first = await whileLocked(test.source, 'filing', 1, never, async () => {
      second = await whileLocked(test.source, 'filing', 1, never, () => Promise.reject(new Error('both are in')));
    });
    expect([first, second]).toEqual([true, false]);
    expect(await whileLocked(test.source, 'filing', 1, never, () => Promise.resolve())).toBe(true);
  });

  it('whoever loses the connection is told to stop', async () => {
    let stopped = false;
    await whileLocked(test.source, 'filing', 2, never, async (signal) => {
      await as(
        test.database.adminUrl,
        `select pg_terminate_backend(pid) from pg_locks where locktype = 'advisory' and objid = 2`,
      );
      await sleep(5000, undefined, { signal }).catch(() => undefined);
      stopped = signal.aborted;
    });
    expect(stopped).toBe(true);
  });
});

it('words with wildcards of SQL find only themselves', async () => {
  const find = async (words: string) => (await findIntakes(test.house.db, LogQuery.parse({ words }), 'Europe/London')).total;
  expect(await find('%')).toBe(0);
  expect(await find("'; drop table intake; --")).toBe(0);
});
