import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { makeCard, put } from '../testing/cards.js';
import { bring, fileNow, openHouse, pull, type TestHouse } from '../testing/house.js';
import { drawnView } from '../testing/views.js';
import sharp from 'sharp';
import { filedPicturesAhead, FROM_THE_NEWEST } from './picture-ahead.js';
import { itemsOf } from './store/items.js';

let test: TestHouse;
let ids: number[];
beforeAll(async () => {
  test = await openHouse();
  ids = [];
  for (const [name, width] of [
    ['FIRST', 900],
    ['SECOND', 450],
  ] as const) {
    const card = await makeCard(join(test.folder, name), {});
    const view = sharp(await drawnView()).resize(width);
    await put(join(card, 'VIEW.JPG'), await view.jpeg().toBuffer());
    const id = await bring(test, card);
    await fileNow(test.house, id);
    await pull(test.house, id);
    ids.push(id);
  }
});
afterAll(() => test.end());

const looks = async () => (await Promise.all(ids.map((id) => itemsOf(test.house.db, id)))).flat().map(({ look }) => look);

/** Until there is no more to be done. @returns how often it was asked. */
async function walk(): Promise<number> {
  let times = 1;
  for (let below: number | null = FROM_THE_NEWEST; (below = await filedPicturesAhead(test.house, below)) !== null;) times++;
  return times;
}

describe('what is filed and was never seen', () => {
  it('is passed while no place that has it is here, and found again later', async () => {
    for (const place of [test.shared, test.second]) await rename(place, `${place}.away`);
    expect(await walk()).toBeLessThan(5);
    for (const place of [test.shared, test.second]) await rename(`${place}.away`, place);
    expect(await looks()).toEqual([null, null]);
  });

  it('gets its picture from a copy, and the same view is known in another size', async () => {
    await walk();
    const [first, second] = await looks();
    expect(first).toMatch(/^[0-9a-f]{16}$/);
    expect(second).toBe(first);
    // Nothing is left to be done.
    expect(await walk()).toBe(1);
  });
});
