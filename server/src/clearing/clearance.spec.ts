import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, statSync } from 'node:fs';
import { appendFile, cp, mkdir, readdir, rename, rm, symlink, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse, pull } from '../testing/house.js';
import { clearanceNow } from './clearance.js';
import { clearCard } from './clear-card.js';
import { restoreIntake } from './restore.js';
import { eventsOf, theIntake } from '../house/index.js';
import { copiesOf } from '../filing/index.js';
import { itemsOf, takeItems } from '../seeing/index.js';

let test: TestHouse;
let cards = 0;
// Both places lie on one disk here: that they stand for two devices has to be said.
const place = (id: string, kind: 'shared drive' | 'second copy', root: string, device?: string) => ({
  ...{ id, name: id === 'shared' ? 'Shared drive' : 'Second copy', kind, root, required: true },
  ...(device ? { device } : {}),
});
beforeAll(async () => {
  const root = execFileSync('mktemp', ['-d'], { encoding: 'utf8' }).trim();
  test = await openHouse({
    places: [
      place('shared', 'shared drive', join(root, 'shared'), 'disk one'),
      place('second', 'second copy', join(root, 'second'), 'disk two'),
    ],
  });
});
afterAll(() => test.end());

/** A card that is filed and tallied. */
async function filedCard(files: Record<string, number> = { 'DCIM/1.JPG': 5000, 'DCIM/2.JPG': 200_000, 'MISC/INDEX.DAT': 9 }) {
  const path = join(test.folder, `CARD${++cards}`);
  await makeCard(path, files, cards * 1000);
  // Cards are known by the names, sizes and times of their files: these are all different cards.
  const time = new Date(Date.parse('2026-04-18T09:00:00Z') + cards * 60_000);
  for (const name of Object.keys(files)) await utimes(join(path, name), time, time);
  const id = await bring(test, path);
  await fileNow(test.house, id);
  expect((await theIntake(test.house, id)).state).toBe('tallied');
  return { id, path };
}
const kindsOf = async (id: number, full = false) => (await clearanceNow(test.house, id, full)).reasons.map(({ kind }) => kind);
const clear = (id: number, ask: Partial<Parameters<typeof clearCard>[2]> = {}) =>
  clearCard(test.house, id, { files: 2, letGo: false, keep: false, sure: false, ...ask }, { who: 'wren' });
const filesOn = async (path: string) =>
  (await readdir(path, { recursive: true })).filter((name) => statSync(join(path, name)).isFile()).sort();

describe('a card that is filed', () => {
  it('is safe, is emptied of what stands in both places, keeps its folders and index files, and can be restored', async () => {
    const { id, path } = await filedCard();
    const before = join(test.folder, 'before');
    await cp(path, before, { recursive: true, preserveTimestamps: true });
    const view = await clearanceNow(test.house, id, true);
    expect(view).toMatchObject({ safe: true, reasons: [], files: 2, bytes: 205_000, left: 0, kept: 1, full: true });
    expect(await clear(id)).toEqual({ removed: 2, bytes: 205_000, stayed: [] });
    expect(await filesOn(path)).toEqual(['MISC/INDEX.DAT']);
    expect(existsSync(join(path, 'DCIM'))).toBe(true);
    expect((await theIntake(test.house, id)).clearedAt).not.toBeNull();
    expect((await eventsOf(test.house.db, id)).map(({ kind }) => kind)).toEqual(expect.arrayContaining(['clearing', 'cleared']));

    const target = join(test.folder, 'restored');
    expect(await restoreIntake(test.house, id, target, 'wren')).toMatchObject({ restored: 2, failed: [] });
    await rm(join(before, 'MISC'), { recursive: true });
    // GNU diff compares the bytes, the system's times are compared beside it.
    expect(execFileSync('diff', ['-r', before, target], { encoding: 'utf8' })).toBe('');
    for (const name of await filesOn(before)) {
      expect(Math.abs(statSync(join(before, name)).mtimeMs - statSync(join(target, name)).mtimeMs)).toBeLessThan(1);
    }
    // A second time nothing is written again; a stranger's file is not replaced.
    await writeFile(join(target, 'DCIM/1.JPG'), 'mine');
    const again = await restoreIntake(test.house, id, target, 'wren');
    expect(again).toMatchObject({ restored: 1, failed: [{ path: 'DCIM/1.JPG', why: 'another file stands there' }] });
    expect(readFileSync(join(target, 'DCIM/1.JPG'), 'utf8')).toBe('mine');
  });
});

describe('not safe, and nothing goes', () => {
  const attacks: [string, string, (card: { id: number; path: string }) => Promise<unknown>, string?][] = [
    ['a file was added', 'new', ({ path }) => writeFile(join(path, 'DCIM/3.JPG'), 'new')],
    ['a file grew', 'changed', ({ path }) => appendFile(join(path, 'DCIM/1.JPG'), 'x')],
    [
      'a file has other bytes of the same length',
      'changed',
      ({ path }) => writeFile(join(path, 'DCIM/1.JPG'), Buffer.alloc(5000, 7)),
    ],
    ['a file has another name', 'new', ({ path }) => rename(join(path, 'DCIM/1.JPG'), join(path, 'DCIM/9.JPG'))],
    ['a link stands among the files', 'odd', ({ path }) => symlink('/etc/passwd', join(path, 'DCIM/LINK.JPG'))],
    [
      'a copy is gone from its place',
      'copies',
      async ({ id }) => {
        const [copy] = await copiesOf(test.house.db, id);
        await rm(join(test.settings.places[1]!.root, copy!.to));
      },
    ],
    [
      'a copy was cut short',
      'copies',
      async ({ id }) => {
        const [copy] = await copiesOf(test.house.db, id);
        await writeFile(join(test.settings.places[0]!.root, copy!.to), 'short');
      },
    ],
  ];
  it.each(attacks)('%s', async (_what, reason, attack) => {
    const card = await filedCard();
    await attack(card);
    const before = await filesOn(card.path);
    expect(await kindsOf(card.id)).toContain(reason);
    await expect(clear(card.id)).rejects.toThrow('Not safe to clear');
    await expect(clear(card.id, { letGo: true, keep: false, sure: true })).rejects.toThrow('Not safe to clear');
    expect(await filesOn(card.path)).toEqual(before);
    expect((await theIntake(test.house, card.id)).clearedAt).toBeNull();
  });

  it('bytes in the middle changed under the same size and time: found when every byte is read', async () => {
    const { id, path } = await filedCard();
    const file = join(path, 'DCIM/2.JPG');
    const { mtime } = statSync(file);
    const bytes = readFileSync(file);
    bytes[100_000] = bytes[100_000]! ^ 1;
    await writeFile(file, bytes);
    await utimes(file, mtime, mtime);
    expect(await kindsOf(id, true)).toEqual(['changed']);
  });

  it('a place is away: it is named', async () => {
    const { id } = await filedCard();
    const { root } = test.settings.places[1]!;
    await rename(root, `${root}.away`);
    const view = await clearanceNow(test.house, id, false);
    await rename(`${root}.away`, root);
    expect(view.safe).toBe(false);
    expect(view.reasons[0]).toMatchObject({ kind: 'place away', words: 'Second copy is not here' });
    expect(await kindsOf(id)).toEqual([]);
  });

  it('the second copy shares a device with the first', async () => {
    const { id } = await filedCard();
    await test.house.db.query(`update place set device = 'disk one'`);
    expect(await kindsOf(id)).toEqual(['devices']);
    await expect(clear(id)).rejects.toThrow('do not stand on two devices');
    // As the system tells it, without anybody's word: both folders are on one disk here.
    await test.house.db.query('update place set device = null');
    expect(await kindsOf(id)).toEqual(['devices']);
    await test.house.db.query(`update place set device = case id when 'shared' then 'disk one' else 'disk two' end`);
  });

  it('the card is not in the reader', async () => {
    const { id } = await filedCard();
    await pull(test.house, id);
    await expect(clear(id)).rejects.toThrow('not in the reader');
  });
});

describe('what was left', () => {
  it('keeps the card from being cleared, until somebody lets go of it knowingly', async () => {
    const path = join(test.folder, `CARD${++cards}`);
    await makeCard(path, { 'A/1.JPG': 100, 'A/2.JPG': 200 }, cards * 1000);
    const id = await bring(test, path);
    const [first] = await itemsOf(test.house.db, id);
    await takeItems(test.house, id, { itemIds: [first!.id], taken: false });
    await fileNow(test.house, id);
    expect(await clearanceNow(test.house, id, false)).toMatchObject({
      safe: false,
      files: 1,
      left: 1,
      reasons: [{ kind: 'left', items: 1 }],
    });
    await expect(clear(id, { files: 1 })).rejects.toThrow('was left and stands nowhere else');
    expect(await clear(id, { files: 2, letGo: true })).toMatchObject({ removed: 2 });
  });
});

describe('the act of clearing', () => {
  it('sound is asked about once more', async () => {
    const { id } = await filedCard({ 'A/1.WAV': 100, 'A/2.JPG': 200 });
    await expect(clear(id)).rejects.toThrow('say that you are sure');
    expect(await clear(id, { sure: true })).toMatchObject({ removed: 2 });
  });

  it('is for the card that the person saw', async () => {
    const { id } = await filedCard();
    await expect(clear(id, { files: 3 })).rejects.toThrow('There are 2 files to clear now, not 3');
  });

  it('two people press Clear at once: one does it', async () => {
    const { id, path } = await filedCard();
    const outcomes = await Promise.allSettled([clear(id), clear(id)]);
    expect(outcomes.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await filesOn(path)).toEqual(['MISC/INDEX.DAT']);
  });

  it('twice is once: a cleared card holds nothing to clear', async () => {
    const { id } = await filedCard();
    await clear(id);
    await expect(clear(id)).rejects.toThrow('there is nothing on the card: it was cleared, or it is not there');
  });

  it('a card that was filed before under another intake is safe by those copies', async () => {
    const { path } = await filedCard();
    const again = join(test.folder, `CARD${++cards}`);
    await mkdir(again);
    await cp(path, again, { recursive: true });
    await rm(path, { recursive: true });
    const id = await bring(test, again);
    expect(await clearanceNow(test.house, id, true)).toMatchObject({ safe: true, files: 2 });
  });
});

describe('a single item', () => {
  const ids = async (id: number, ...paths: string[]) =>
    (await itemsOf(test.house.db, id)).filter(({ path }) => paths.includes(path)).map((item) => item.id);

  it('is removed under the same rule, whatever else is on the card; the card does not count as cleared', async () => {
    const { id, path } = await filedCard();
    await writeFile(join(path, 'DCIM/NEW.JPG'), 'taken since');
    const items = await ids(id, 'DCIM/2.JPG');
    expect(await clearanceNow(test.house, id, true, items)).toMatchObject({ safe: true, files: 1, bytes: 200_000, kept: 0 });
    expect(await clear(id, { files: 1, items })).toEqual({ removed: 1, bytes: 200_000, stayed: [] });
    expect(await filesOn(path)).toEqual(['DCIM/1.JPG', 'DCIM/NEW.JPG', 'MISC/INDEX.DAT']);
    expect((await theIntake(test.house, id)).clearedAt).toBeNull();
    expect((await eventsOf(test.house.db, id)).at(-1)).toMatchObject({
      kind: 'removed',
      text: '1 files removed from the card (200 kB).',
    });
    // Once more: it is not there.
    expect(await clearanceNow(test.house, id, false, items)).toMatchObject({
      ...{ safe: false, files: 0 },
      reasons: [{ kind: 'gone', words: '1 file is not on the card', paths: ['DCIM/2.JPG'] }],
    });
    await expect(clear(id, { files: 1, items })).rejects.toThrow('1 file is not on the card');
  });

  it('stays when it changed, when a copy is gone, or when it is no item of this card', async () => {
    const { id, path } = await filedCard();
    const [first, second] = [await ids(id, 'DCIM/1.JPG'), await ids(id, 'DCIM/2.JPG')];
    await appendFile(join(path, 'DCIM/1.JPG'), 'x');
    await expect(clear(id, { files: 1, items: first })).rejects.toThrow('1 file is not what was read');
    const [copy] = (await copiesOf(test.house.db, id)).filter(({ from }) => from === 'DCIM/2.JPG');
    await rm(join(test.settings.places[1]!.root, copy!.to));
    await expect(clear(id, { files: 1, items: second })).rejects.toThrow('1 file does not tally at Second copy');
    const other = await filedCard();
    await expect(clear(id, { files: 1, items: await ids(other.id, 'DCIM/1.JPG') })).rejects.toThrow('no such item');
    expect(await filesOn(path)).toHaveLength(3);
    expect(await filesOn(other.path)).toHaveLength(3);
  });
});
