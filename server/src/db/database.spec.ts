import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { setTimeout as sleep } from 'node:timers/promises';
import { join } from 'node:path';
import { makeCard } from '../testing/cards.js';
import { dataSource } from './database.js';
import { bring, NOW, openHouse, type TestHouse, until } from '../testing/house.js';
import { Bus } from '../live/bus.js';
import { relayTo } from '../testing/relay.js';
import { Locks } from './locks.js';
import { LogQuery } from '@tally/contract';
import { advanceNumbers, nextNumbers, record } from '../house/index.js';
import { logPage } from '../shelf/index.js';

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

/** Other tests hold locks of other databases at the same time. */
const HERE = `database = (select oid from pg_database where datname = current_database())`;

describe('the schema', () => {
  it('is what the entities say: no drift', async () => {
    const source = await dataSource(test.database.adminUrl, 2).initialize();
    const { upQueries } = await source.driver.createSchemaBuilder().log();
    await source.destroy();
    // The queue and the counter of wrong passwords belong to libraries.
    expect(upQueries.map(({ query }) => query).filter((query) => !/pgboss|sign_in_failure/.test(query))).toEqual([]);
  });
});

it('the last two steps of the schema go back and forth under a house that has rows', async () => {
  const own = await openHouse();
  try {
    for (const name of ['ONE', 'TWO'])
      await bring(own, await makeCard(join(own.folder, name), { [`${name}.JPG`]: 10 + name.length }));
    const source = await dataSource(own.database.adminUrl, 1).initialize();
    await source.undoLastMigration();
    await source.undoLastMigration();
    await source.runMigrations();
    const rows = await source.query<{ uid: string; at: number }[]>(
      `select uid::text as uid, floor(extract(epoch from received_at) * 1000)::bigint as at from intake`,
    );
    await source.destroy();
    expect(new Set(rows.map(({ uid }) => uid)).size).toBe(2);
    // RFC 9562, section 5.7: the moment, the version, the variant.
    for (const { uid, at } of rows) {
      expect(uid).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
      expect(parseInt(uid.replace('-', '').slice(0, 12), 16)).toBe(at);
    }
  } finally {
    await own.end();
  }
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
  const ways: Locks[] = [];
  const process = () => {
    const locks = new Locks(test.database.appUrl, test.house.log);
    ways.push(locks);
    return locks;
  };
  afterAll(() => Promise.all(ways.map((locks) => locks.close())));

  it('one at a time, in one process and in two: the second is told no', async () => {
    const [here, there] = [process(), process()];
    const both = () => Promise.reject(new Error('both are in'));
    const seconds: boolean[] = [];
    const first = await here.hold('filing', 1, never, async () => {
      seconds.push(await here.hold('filing', 1, never, both), await there.hold('filing', 1, never, both));
    });
    expect([first, ...seconds]).toEqual([true, false, false]);
    expect(await there.hold('filing', 1, never, () => Promise.resolve())).toBe(true);
  });

  it('kinds and things of one number, and names, do not get into each other', async () => {
    const locks = process();
    const got: boolean[] = [];
    await locks.hold('filing', 7, never, async () => {
      got.push(await locks.hold('reading', 7, never, () => Promise.resolve()));
      got.push(await locks.hold('filing', 8, never, () => Promise.resolve()));
      got.push(await locks.hold('filling', 'offsite', never, () => Promise.resolve()));
    });
    expect(got).toEqual([true, true, true]);
  });

  it('forty held at once take none of the ten connections of the pool', async () => {
    const locks = process();
    await Promise.all(
      Array.from({ length: 40 }, (_, n) =>
        locks.hold('reading', 1000 + n, never, async () => {
          await test.house.db.query('select pg_sleep(0.02)');
        }),
      ),
    );
    const held = await as(
      test.database.adminUrl,
      `select count(*)::int as n from pg_locks where locktype = 'advisory' and classid = 7303 and ${HERE}`,
    );
    expect(held.rows).toEqual([{ n: 0 }]);
  });

  it('whoever loses the connection is told to stop, and the next one gets it', async () => {
    const locks = process();
    let stopped = false;
    await locks.hold('filing', 2, never, async (signal) => {
      await as(
        test.database.adminUrl,
        `select pg_terminate_backend(pid) from pg_locks where locktype = 'advisory' and objid = 2 and ${HERE}`,
      );
      await sleep(5000, undefined, { signal }).catch(() => undefined);
      stopped = signal.aborted;
    });
    expect(stopped).toBe(true);
    expect(await locks.hold('filing', 2, never, () => Promise.resolve())).toBe(true);
  });
});

describe('a line that falls silent', () => {
  it('is noticed within seconds: who holds locks is told to stop, and what was missed is looked at again', async () => {
    const relay = await relayTo(Number(new URL(test.database.appUrl).port));
    const url = Object.assign(new URL(test.database.appUrl), { port: String(relay.port) }).href;
    const locks = new Locks(url, test.house.log);
    const bus = new Bus(url);
    const heard: string[] = [];
    bus.listen(({ type }) => heard.push(type));
    bus.start();
    try {
      let stopped = 0;
      const held = locks.hold('filing', 77, new AbortController().signal, async (signal) => {
        relay.silence();
        const began = Date.now();
        await new Promise((resolve) => signal.addEventListener('abort', resolve));
        stopped = Date.now() - began;
      });
      await until(() => Promise.resolve(stopped > 0));
      // A beat every two seconds, an answer within four; the rest is for a busy machine.
      expect(stopped).toBeLessThan(15_000);
      await held;
      // The other line has a beat of its own: mended before that one noticed, it would never have been silent.
      await sleep(7_000);
      heard.length = 0;
      relay.mend();
      await until(() => Promise.resolve(heard.includes('again')));
    } finally {
      await bus.stop();
      await locks.close();
      relay.close();
    }
  });

  it('no wait is without a limit: a statement, a lock, a transaction that idles', async () => {
    const [limits] = await test.house.db.query<[Record<string, string>]>(
      `select current_setting('statement_timeout') as statement, current_setting('lock_timeout') as lock,
         current_setting('idle_in_transaction_session_timeout') as idle`,
    );
    expect(Object.values(limits)).not.toContain('0');
    await test.house.db.transaction(async (tx) => {
      await tx.query('lock table counter');
      await expect(test.house.db.query(`set lock_timeout = 100; select * from counter`)).rejects.toThrow(/lock timeout/);
    });
  });
});

it('words with wildcards of SQL find only themselves', async () => {
  await bring(test, await makeCard(join(test.folder, 'CARD_100%'), { '1.JPG': 10 }));
  await bring(test, await makeCard(join(test.folder, 'CARD_1000'), { '2.JPG': 20 }, 2));
  const find = async (words: string) => (await logPage(test.house, LogQuery.parse({ words }))).total;
  expect(await find('barrow')).toBe(2);
  expect(await find('%')).toBe(1);
  expect(await find('100%')).toBe(1);
  expect(await find('card_100')).toBe(2);
  expect(await find('c_r')).toBe(0);
  expect(await find("'; drop table intake; --")).toBe(0);
});
