import { afterAll, beforeAll, expect, it } from '@jest/globals';
import { mkdir, readdir } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { mkdtempSync, rmSync } from 'node:fs';
import { makeCard } from '../testing/cards.js';
import { bring, never, openHouse, type TestHouse } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { copiesOf } from './store/filed.js';
import { carryOut } from './carry-out.js';
import { beginFiling, tryAgain } from './file.js';
import { planOf } from './plan.js';
import { theIntake } from '../house/index.js';

// A small file system in memory is a place that fills up for real; only root may mount one.
const asRoot = process.getuid?.() === 0;
const folder = mkdtempSync(join(tmpdir(), 'tally-full-'));
const full = join(folder, 'second');
let test: TestHouse;

beforeAll(async () => {
  await mkdir(full);
  if (asRoot) tool('mount', '-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', full);
  test = await openHouse({
    places: [
      { id: 'shared', name: 'Shared drive', kind: 'shared drive', root: join(folder, 'shared'), required: true },
      { id: 'second', name: 'Second copy', kind: 'second copy', root: full, required: true },
    ],
  });
});
afterAll(async () => {
  await test.end();
  if (asRoot) tool('umount', full);
  rmSync(folder, { recursive: true, force: true });
});

(asRoot ? it : it.skip)(
  'a second place that is too full is refused with figures; one that fills up while filing is caught up when there is room',
  async () => {
    const card = await makeCard(join(folder, 'card'), { '1.JPG': 400_000, '2.JPG': 400_000, '3.JPG': 400_000 }, 91);
    const id = await bring(test, card);
    const { view } = await planOf(test.house, id);
    expect(view.obstacles).toEqual([
      expect.stringMatching(/^Second copy has .* free, this card needs 1\.20 MB$/) as unknown as string,
    ]);
    // Refused with figures, and nothing was promised.
    await expect(beginFiling(test.house, id, view.seal, 'test')).rejects.toThrow(/this card needs 1\.20 MB.*Nothing was begun/);
    expect(await copiesOf(test.house.db, id)).toEqual([]);

    // Somebody else fills it after filing began.
    tool('mount', '-o', 'remount,size=20m', full);
    await beginFiling(test.house, id, view.seal, 'test');
    tool('mount', '-o', 'remount,size=1m', full);
    await carryOut(test.house, id, never);
    const intake = await theIntake(test.house, id);
    expect(intake.state).toBe('needs attention');
    expect(intake.note).toContain('Second copy: is full');
    const states = (await copiesOf(test.house.db, id)).map(({ copies }) => copies.map(({ state }) => state));
    expect(states.map(([shared]) => shared)).toEqual(['tallied', 'tallied', 'tallied']);
    expect(states.filter(([, second]) => second !== 'tallied').length).toBeGreaterThan(0);
    expect((await readdir(full, { recursive: true })).filter((name) => name.endsWith('.part'))).toEqual([]);

    tool('mount', '-o', 'remount,size=20m', full);
    await tryAgain(test.house, id, 'test');
    await carryOut(test.house, id, never);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    for (const { from, to } of await copiesOf(test.house.db, id))
      for (const place of [full, join(folder, 'shared')]) tool('cmp', join(card, from), join(place, to));
  },
);

(asRoot ? it : it.skip)('cards that are filed at once are counted together', async () => {
  tool('mount', '-o', 'remount,size=2m', full);
  const first = await bring(test, await makeCard(join(folder, 'first'), { '1.JPG': 500_001 }, 92));
  const second = await bring(test, await makeCard(join(folder, 'second-card'), { '1.JPG': 500_002 }, 93));
  const plan = async (id: number) => (await planOf(test.house, id)).view;
  expect((await plan(first)).tooFull).toEqual([]);
  expect((await plan(second)).tooFull).toEqual([]);
  const before = (await plan(second)).room;
  await beginFiling(test.house, first, (await plan(first)).seal, 'test');
  // Outside check: what the system says is free (`df`), less what is promised to the first card.
  const free = Number(tool('df', '--output=avail', '-B1', full).split('\n')[1]);
  const [, room] = (await plan(second)).room;
  expect(room).toEqual({ name: 'Second copy', freeBytes: free - 500_001, afterBytes: free - 500_001 - 500_002 });
  expect(before[1]!.freeBytes - room!.freeBytes).toBe(500_001);
  expect((await plan(second)).tooFull).toEqual([expect.stringMatching(/500 kB of it promised to other cards/)]);
  await carryOut(test.house, first, never);
  expect((await theIntake(test.house, first)).state).toBe('tallied');
});
