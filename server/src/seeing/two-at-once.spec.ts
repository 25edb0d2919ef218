import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { lend, makeThing, takeBack } from '../counter/index.js';
import { inTransaction } from '../db/database.js';
import { lockIntake } from '../house/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, openHouse, type TestHouse } from '../testing/house.js';
import { itemsAnswer } from './items.js';
import { judgeItems } from './judge.js';
import { LookKeeper } from './picture-ahead.js';
import { itemsOf } from './store/items.js';
import { takeItems } from './take.js';

let test: TestHouse;
let id: number;
let ids: number[];
beforeAll(async () => {
  test = await openHouse();
  const files = Object.fromEntries(Array.from({ length: 60 }, (_, n) => [`A/${n}.JPG`, 3000 + n]));
  id = await bring(test, await makeCard(join(test.folder, 'CARD'), files));
  ids = (await itemsOf(test.house.db, id)).map((item) => item.id);
});
afterAll(() => test.end());

describe('whoever asks for what is newer misses nothing', () => {
  it('a change with a lower version is never committed after one with a higher', async () => {
    const order: string[] = [];
    const touch = (itemId: number) => 'update item set turned = turned where id = ' + String(itemId);
    // Neither takes the intake’s lock by itself: the schema does it for them.
    const first = test.house.db.transaction(async (tx) => {
      await tx.query(touch(ids[0]!));
      await sleep(300);
      order.push('first');
    });
    await sleep(80);
    const second = test.house.db.transaction(async (tx) => {
      await tx.query(touch(ids[1]!));
      order.push('second');
    });
    await Promise.all([first, second]);
    expect(order).toEqual(['first', 'second']);
  });

  it('forty changes at once are all fetched by one who asks again and again', async () => {
    let since = (await itemsAnswer(test.house, id, 0)).version;
    const seen = new Set<number>();
    const look = async () => {
      const { version, items } = await itemsAnswer(test.house, id, since);
      since = version;
      for (const item of items) seen.add(item.id);
    };
    const changed = ids.slice(0, 40);
    const changing = Promise.all(changed.map((itemId) => judgeItems(test.house, id, { itemIds: [itemId], verdict: 'select' })));
    const looking = (async () => {
      for (let n = 0; n < 25; n++) {
        await look();
        await sleep(4);
      }
    })();
    await Promise.all([changing, looking]);
    await look();
    expect([...seen].sort((a, b) => a - b)).toEqual(expect.arrayContaining([...changed].sort((a, b) => a - b)));
  });
});

describe('two who get into each other', () => {
  it('a deadlock is undone and tried again: both are done', async () => {
    const other = await bring(test, await makeCard(join(test.folder, 'OTHER'), { '1.JPG': 4000 }, 7));
    const lock = (a: number, b: number) =>
      inTransaction(test.house.db, async (tx) => {
        await lockIntake(tx, a);
        await sleep(60);
        await lockIntake(tx, b);
        return 'done';
      });
    expect(await Promise.all([lock(id, other), lock(other, id)])).toEqual(['done', 'done']);
  });

  it('taking and leaving everything while looks of pictures are written: nobody is refused', async () => {
    const looks = new LookKeeper(test.house.db, (error) => {
      throw error;
    });
    const look = { sharpness: 0.5, look: '0123456789abcdef' };
    const acts = Array.from({ length: 12 }, (_, n) => takeItems(test.house, id, { itemIds: ids, taken: n % 2 === 0 }));
    for (const itemId of [...ids].reverse()) looks.add({ itemId, intakeId: id }, look);
    await Promise.all([...acts, looks.flush(), looks.flush()]);
    expect((await itemsOf(test.house.db, id)).every((item) => item.look === look.look)).toBe(true);
  });

  it('the same things lent and taken back in opposite order by two people at once', async () => {
    const keys = [];
    for (const label of ['R-1', 'R-2', 'R-3'])
      keys.push(await makeThing(test.house, { kind: 'reader', label, name: '' }, 'wren'));
    const request = { contributorId: test.slip.contributorId, due: null, note: '' };
    for (let round = 0; round < 8; round++) {
      const outcomes = await Promise.allSettled([
        lend(test.house, { ...request, things: keys }, 'wren'),
        lend(test.house, { ...request, things: [...keys].reverse() }, 'ada'),
      ]);
      const failed = outcomes.flatMap((outcome) => (outcome.status === 'rejected' ? [String(outcome.reason)] : []));
      expect(failed).toEqual([expect.stringContaining('is lent already')]);
      await takeBack(test.house, round % 2 ? keys : [...keys].reverse(), false, 'wren');
    }
  });
});
