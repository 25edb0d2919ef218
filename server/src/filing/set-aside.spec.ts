import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { rm, unlink, utimes } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { standingInWords } from '@tally/core/life';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { clearanceNow, clearCard } from '../clearing/index.js';
import { giveBack, notGivenBack } from '../counter/index.js';
import { eventsOf, theIntake } from '../house/index.js';
import { receiptOf, writeManifests } from '../proving/index.js';
import { itemsOf, itemViews, takeItems } from '../seeing/index.js';
import { tool } from '../testing/tools.js';
import { carryOut } from './carry-out.js';
import { beginFiling } from './file.js';
import { planOf } from './plan.js';
import { setAside } from './set-aside.js';
import { copiesOf } from './store/filed.js';

let test: TestHouse;
let cards = 0;
/** Where the places lie: two disks, so it is said. */
const folder = mkdtempSync(join(tmpdir(), 'tally-aside-'));
const place = (id: string, kind: 'shared drive' | 'second copy') => ({
  ...{ id, name: id, kind, root: join(folder, id), device: `disk of ${id}` },
});
beforeAll(async () => {
  test = await openHouse({
    places: [place('shared', 'shared drive'), place('second', 'second copy')],
  });
});
afterAll(async () => {
  await test.end();
  await rm(folder, { recursive: true, force: true });
});

/** A card of its own; each file a minute after the one before. */
async function card(names: readonly string[]): Promise<{ id: number; path: string }> {
  cards++;
  const path = await makeCard(
    join(test.folder, `CARD${cards}`),
    Object.fromEntries(names.map((name, i) => [name, 4000 + i])),
    700 + cards,
  );
  const at = (i: number) => new Date(Date.parse('2026-04-18T09:00:00Z') + cards * 3_600_000 + i * 60_000);
  for (const [i, name] of names.entries()) await utimes(join(path, name), at(i), at(i));
  return { id: await bring(test, path), path };
}
const idsOf = async (id: number, ...names: string[]) =>
  (await itemsOf(test.house.db, id)).filter(({ path }) => names.includes(path)).map((item) => item.id);
const words = async (id: number) => {
  const { tray } = await theIntake(test.house, id);
  return Object.fromEntries((await itemViews(test.house, id)).map((item) => [item.path, standingInWords(item, { tray })]));
};

describe('one file of a card that is not there any more', () => {
  it('is set aside with a reason: the intake tallies without it, and receipt, record and log say so', async () => {
    const { id, path } = await card(['1.JPG', '2.JPG', '3.JPG']);
    await unlink(join(path, '2.JPG'));
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'needs attention', filed: 2 });
    // Nothing is announced as filed that is not.
    expect(await words(id)).toMatchObject({ '2.JPG': 'not filed: cannot be read (ENOENT)' });
    await expect(giveBack(test.house, id, 'wren')).rejects.toThrow('Not all of its copies tally.');

    const itemIds = await idsOf(id, '2.JPG');
    expect(await setAside(test.house, id, { itemIds, reason: 'gone' }, 'wren')).toBe(1);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', tray: 'to give back', note: null });
    expect(await words(id)).toMatchObject({ '2.JPG': 'set aside: gone' });
    expect((await copiesOf(test.house.db, id)).map(({ from }) => from)).toEqual(['1.JPG', '3.JPG']);
    expect((await eventsOf(test.house.db, id)).map(({ text }) => text)).toContain('1 item set aside: gone.');

    await writeManifests(test.house);
    const where = join(folder, 'shared', '2026/2026-04/2026-04-18_reed-planting');
    const { number } = await theIntake(test.house, id);
    expect(readdirSync(where)).toContain(`intake-${number}.json`);
    expect(JSON.parse(readFileSync(join(where, `intake-${number}.json`), 'utf8'))).toMatchObject({
      aside: [{ from: '2.JPG', reason: 'gone', by: 'wren' }],
    });
    const pdf = await receiptOf(test.house, id, 'A4', 'http://127.0.0.1', 'wren');
    writeFileSync(join(folder, 'receipt.pdf'), pdf);
    expect(tool('pdftotext', '-layout', join(folder, 'receipt.pdf'), '-')).toMatch(/set aside: gone/);
    // It is gone: what is on the card is safe, and the clearance still names it.
    expect(await clearanceNow(test.house, id, false)).toMatchObject({
      safe: true,
      files: 2,
      aside: [{ path: '2.JPG', reason: 'gone' }],
    });
    await giveBack(test.house, id, 'wren');
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'closed', tray: 'out' });
  });

  it('can be taken again, and filed when it is there again', async () => {
    const { id, path } = await card(['1.JPG', '2.JPG']);
    const [only] = await idsOf(id, '2.JPG');
    await setAside(test.house, id, { itemIds: [only!], reason: 'not ours' }, 'wren');
    expect((await planOf(test.house, id)).view).toMatchObject({
      placements: [{ from: '1.JPG' }],
      left: [{ from: '2.JPG', reason: 'set aside: not ours' }],
    });
    await fileNow(test.house, id);
    expect((await theIntake(test.house, id)).state).toBe('tallied');
    await setAside(test.house, id, { itemIds: [only!], reason: null }, 'wren');
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', filed: 2 });
    expect(path).toContain('CARD');
  });

  it('when all of them are gone there was no filing: the card is open, and its numbers are free', async () => {
    const { id, path } = await card(['1.JPG', '2.JPG']);
    const before = (await planOf(test.house, id)).view.numbers;
    for (const name of ['1.JPG', '2.JPG']) await unlink(join(path, name));
    // Something must be there, or it is the card that is gone.
    await makeCard(path, { 'KEPT.DAT': 3 }, 1);
    await fileNow(test.house, id);
    expect((await theIntake(test.house, id)).state).toBe('needs attention');
    await setAside(test.house, id, { itemIds: await idsOf(id, '1.JPG', '2.JPG'), reason: 'gone' }, 'wren');
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'open', note: null });
    expect(await copiesOf(test.house.db, id)).toEqual([]);
    const next = await card(['9.JPG']);
    expect((await planOf(test.house, next.id)).view.numbers.map(({ first }) => first)).toEqual(before.map(({ first }) => first));
  });

  it('what stands somewhere, whole, is not set aside; nor anything while it is being filed', async () => {
    const { id } = await card(['1.JPG', '2.JPG']);
    const itemIds = await idsOf(id, '1.JPG');
    const { view } = await planOf(test.house, id);
    await beginFiling(test.house, id, view.seal, 'test');
    await expect(setAside(test.house, id, { itemIds, reason: 'gone' }, 'wren')).rejects.toThrow('is being filed');
    await carryOut(test.house, id, never);
    await expect(setAside(test.house, id, { itemIds, reason: 'gone' }, 'wren')).rejects.toThrow('1.JPG is filed');
    await expect(setAside(test.house, id, { itemIds, reason: null }, 'wren')).rejects.toThrow('None of these is set aside.');
    expect((await theIntake(test.house, id)).state).toBe('tallied');
  });
});

describe('when the world has moved on', () => {
  it('what went with a clearing is said to be gone, and cannot be taken', async () => {
    const { id } = await card(['1.JPG', '2.JPG', '3.JPG']);
    const left = await idsOf(id, '3.JPG');
    await takeItems(test.house, id, { itemIds: left, taken: false });
    await fileNow(test.house, id);
    expect(await words(id)).toMatchObject({ '3.JPG': 'left, still on the card' });
    await clearCard(test.house, id, { files: 3, letGo: true, keep: false, sure: false }, { who: 'wren' });
    expect(await words(id)).toMatchObject({ '3.JPG': 'left, and gone with the clearing' });
    await expect(takeItems(test.house, id, { itemIds: left, taken: true })).rejects.toThrow('3.JPG is gone from the card');
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied' });
  });

  it('forty are cleared and four are kept: those are still on the card, and it is not called cleared', async () => {
    const { id, path } = await card(['1.JPG', '2.JPG', '3.JPG']);
    await takeItems(test.house, id, { itemIds: await idsOf(id, '3.JPG'), taken: false });
    await fileNow(test.house, id);
    const ask = { files: 2, letGo: false, keep: true, sure: false };
    expect(await clearCard(test.house, id, ask, { who: 'wren' })).toMatchObject({ removed: 2 });
    expect(readdirSync(path)).toEqual(['3.JPG']);
    expect(await theIntake(test.house, id)).toMatchObject({ clearedAt: null });
    expect(await words(id)).toMatchObject({ '3.JPG': 'left, still on the card' });
    // What was kept can still be filed.
    await takeItems(test.house, id, { itemIds: await idsOf(id, '3.JPG'), taken: true });
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', filed: 3 });
  });

  it('a card that was given back says so of what was left on it, and a word takes that back', async () => {
    const { id } = await card(['1.JPG', '2.JPG']);
    const left = await idsOf(id, '2.JPG');
    await takeItems(test.house, id, { itemIds: left, taken: false });
    await fileNow(test.house, id);
    await giveBack(test.house, id, 'wren');
    expect(await words(id)).toMatchObject({ '2.JPG': 'left; it was on the card when it was given back' });
    await expect(takeItems(test.house, id, { itemIds: left, taken: true })).rejects.toThrow('The card was given back');
    await notGivenBack(test.house, id, 'wren');
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', tray: 'to give back' });
    await expect(notGivenBack(test.house, id, 'wren')).rejects.toThrow('This card was not given back.');
  });

  it('one files while another leaves an item: whoever comes second is told, and nothing of it is done', async () => {
    const { id } = await card(['1.JPG', '2.JPG']);
    const itemIds = await idsOf(id, '1.JPG');
    const { view } = await planOf(test.house, id);
    expect((await beginFiling(test.house, id, view.seal, 'ada')).outcome).toBe('begun');
    await expect(takeItems(test.house, id, { itemIds, taken: false })).rejects.toThrow(
      '1.JPG is filed, or being filed by now: nothing was left.',
    );
    expect((await itemsOf(test.house.db, id)).every(({ taken }) => taken)).toBe(true);
  });
});
