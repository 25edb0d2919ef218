import { afterAll, beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { type Files, systemFiles } from '../drive/files.js';
import { copiesOf } from './store/filed.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { compareAll } from '../testing/tools.js';
import { carryOut } from './carry-out.js';
import { haltFiling } from './halt.js';
import { eventsOf, theIntake } from '../house/index.js';
import { itemsOf } from '../seeing/index.js';

let test: TestHouse;
let cards = 0;
/** Done when the source with this in its path is opened. */
let onOpen: { path: string; run: () => Promise<unknown> } | null = null;
/** How long a drive takes to begin a file, as of now: those that are at it when the first one gives up end later. */
let beginsMs = 0;
const files: Files = {
  ...systemFiles,
  async open(path, flags, mode) {
    const wanted = onOpen;
    if (path.toString().endsWith('.part')) await sleep(beginsMs * Math.random());
    if (wanted && path.toString().includes(wanted.path)) {
      onOpen = null;
      beginsMs = 600;
      await wanted.run();
      // Whoever carries it out looks every 400 ms.
      await sleep(700);
    }
    return systemFiles.open(path, flags, mode);
  },
};
beforeAll(async () => {
  test = await openHouse({}, [], files);
});
beforeEach(() => {
  beginsMs = 0;
});
afterAll(() => test.end());

const card = () => join(test.folder, `CARD${cards}`);
/** Three hundred files are two batches: the first is whole when the second begins. */
async function twoBatches(): Promise<number> {
  cards++;
  await makeCard(card(), Object.fromEntries(Array.from({ length: 300 }, (_, i) => [`A/P${100 + i}.JPG`, 900 + i])), cards * 1000);
  return bring(test, card());
}
const onDrive = async () => (await readdir(test.shared, { recursive: true })).filter((name) => name.endsWith('.jpg'));
const halfFiles = async () => (await readdir(test.folder, { recursive: true })).filter((name) => name.endsWith('.part'));

describe('a filing', () => {
  it('pauses, with nothing half, and goes on to the same end', async () => {
    const id = await twoBatches();
    onOpen = { path: 'P390', run: () => haltFiling(test.house, id, 'pause', 'wren') };
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'filing', paused: true });
    expect(await onDrive()).toHaveLength(256);
    expect(await halfFiles()).toEqual([]);
    // A job that comes all the same does nothing.
    await carryOut(test.house, id, never);
    expect(await onDrive()).toHaveLength(256);

    beginsMs = 0;
    await haltFiling(test.house, id, 'go on', 'wren');
    await carryOut(test.house, id, never);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', paused: false, filed: 300 });
    compareAll((await copiesOf(test.house.db, id)).map(({ from, to }) => [join(card(), from), join(test.shared, to)]));
    expect((await eventsOf(test.house.db, id)).map(({ text }) => text)).toEqual(
      expect.arrayContaining(['Filing pauses.', 'Filing goes on.']),
    );
  });

  it('stops: what is whole stays, the rest is as if never begun, its names and numbers free again', async () => {
    const before = (await onDrive()).length;
    const id = await twoBatches();
    onOpen = { path: 'P390', run: () => haltFiling(test.house, id, 'stop', 'wren') };
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'open', filed: 256, taken: 300 });
    expect(await onDrive()).toHaveLength(before + 256);
    expect(await halfFiles()).toEqual([]);
    expect(await copiesOf(test.house.db, id)).toHaveLength(256);
    expect((await itemsOf(test.house.db, id)).filter(({ filedAs }) => filedAs === null)).toHaveLength(44);

    // The next card takes up the numbers where they stopped.
    beginsMs = 0;
    await fileNow(test.house, id);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    const numbers = (await copiesOf(test.house.db, id)).map(({ to }) => Number(/(\d+)\.jpg$/.exec(to)![1])).sort((a, b) => a - b);
    expect(numbers).toEqual(Array.from({ length: 300 }, (_, i) => numbers[0]! + i));
  });

  it('that is over can neither pause nor stop', async () => {
    const id = await twoBatches();
    await fileNow(test.house, id);
    await expect(haltFiling(test.house, id, 'stop', 'wren')).rejects.toThrow('This card is not being filed.');
  });
});
