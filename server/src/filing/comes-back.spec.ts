import { afterEach, expect, it } from '@jest/globals';
import { mkdtempSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { systemFiles } from '../drive/files.js';
import { eventsOf, theIntake } from '../house/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse, until, workerOf } from '../testing/house.js';

/* A required place that goes away in the middle of filing and is back before anybody looked: nobody has to press a button. */

let test: TestHouse;
let root: string;
afterEach(async () => {
  await test.end();
  rmSync(dirname(root), { recursive: true, force: true });
});

/** A house with a shared drive alone, which goes away when the so-manieth file is begun there. */
async function houseWhoseDriveGoes(at: number): Promise<{ id: number; away: () => string }> {
  let begun = 0;
  root = join(mkdtempSync(join(tmpdir(), 'tally-back-')), 'shared');
  const away = () => `${root}.gone`;
  const files = {
    open: (...given: Parameters<typeof systemFiles.open>) => {
      if (given[0].toString().endsWith('.part') && ++begun === at) renameSync(root, away());
      return systemFiles.open(...given);
    },
  };
  test = await openHouse({ places: [{ id: 'shared', name: 'Shared drive', kind: 'shared drive', root }] }, [], files);
  const shots = Object.fromEntries(Array.from({ length: 12 }, (_, n) => [`DCIM/${n}.JPG`, 5_000 + n]));
  const id = await bring(test, await makeCard(join(test.folder, 'CARD'), shots, 4));
  return { id, away };
}

it('filing goes on by itself when it is back, and says meanwhile what it waits for', async () => {
  const { id, away } = await houseWhoseDriveGoes(5);
  await fileNow(test.house, id);
  expect(await theIntake(test.house, id)).toMatchObject({
    state: 'needs attention',
    note: expect.stringMatching(/^Shared drive went away at 17:42; filing goes on by itself when it is back\./),
  });
  expect((await theIntake(test.house, id)).note).not.toMatch(/DCIM/);
  // Back before any sweep saw that it was away.
  renameSync(away(), root);
  const worker = workerOf(test, false);
  await worker.start();
  try {
    await until(async () => (await theIntake(test.house, id)).state === 'tallied');
  } finally {
    await worker.stop();
  }
  const names = readdirSync(root, { recursive: true }).map(String);
  expect(names.filter((name) => name.endsWith('.jpg'))).toHaveLength(12);
  expect(names.filter((name) => name.endsWith('.part'))).toEqual([]);
});

it('what fails again and again is tried again, and told once', async () => {
  const { id, away } = await houseWhoseDriveGoes(3);
  await fileNow(test.house, id);
  const worker = workerOf(test, false);
  await worker.start();
  try {
    // Away for some sweeps.
    await new Promise((resolve) => setTimeout(resolve, 2_000));
    expect((await theIntake(test.house, id)).state).not.toBe('tallied');
    renameSync(away(), root);
    await until(async () => (await theIntake(test.house, id)).state === 'tallied');
  } finally {
    await worker.stop();
  }
  const told = (await eventsOf(test.house.db, id)).filter(({ kind }) => kind === 'attention');
  expect(told.length).toBeLessThanOrEqual(2);
});
