import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { put } from '../testing/cards.js';
import { never, openHouse, type TestHouse } from '../testing/house.js';
import { readIntake } from './read-items.js';
import { cardVanished, receiveCard } from './receive.js';
import { itemsOf, itemViews } from '../seeing/index.js';
import { makeContributor, rememberCamera } from '../people/index.js';
import { theIntake } from '../house/index.js';

let test: TestHouse;
let other: number;
beforeAll(async () => {
  test = await openHouse();
  other = await makeContributor(test.house, { name: 'Mateo Sorrel', code: 'MS' }, 'test');
  await rememberCamera(test.house.db, { make: 'Halden', model: 'M4', serial: '40117732' }, test.slip.contributorId);
  await rememberCamera(test.house.db, { make: 'Brisling', model: 'Field 7', serial: 'BF7-00931' }, other);
});
afterAll(() => test.end());

/** A picture with a camera's words in it. */
async function picture(
  card: string,
  name: string,
  exif: { make: string; model: string; serial?: string; at?: string },
): Promise<void> {
  const image = sharp({
    create: { width: 90, height: 60, channels: 3, background: { r: card.length, g: name.length * 9, b: 80 } },
  });
  const jpeg = await image
    .withExif({
      IFD0: { Make: exif.make, Model: exif.model },
      IFD2: { DateTimeOriginal: exif.at ?? '2026:04:18 09:12:31', ...(exif.serial ? { BodySerialNumber: exif.serial } : {}) },
    })
    .jpeg()
    .toBuffer();
  await put(join(card, name), jpeg);
}

const halden = { make: 'Halden', model: 'M4', serial: '40117732' };
const brisling = { make: 'Brisling', model: 'Field 7', serial: 'BF7-00931' };
const card = (name: string) => join(test.folder, 'cards', name);

async function receive(path: string): Promise<number> {
  const id = await receiveCard(test.house, path, 'test');
  await readIntake(test.house, id, never);
  return id;
}

describe('whose card is this?', () => {
  it('a known camera says so', async () => {
    await picture(card('KNOWN'), '1.JPG', halden);
    const intake = await theIntake(test.house, await receive(card('KNOWN')));
    expect(intake).toMatchObject({ contributor: { code: 'IB' }, camera: 'Halden M4' });
  });

  it('cameras of two people say nothing: a person decides', async () => {
    await picture(card('TWO'), '1.JPG', halden);
    await picture(card('TWO'), '2.JPG', brisling);
    expect((await theIntake(test.house, await receive(card('TWO')))).contributor).toBeNull();
  });

  // Common practice, no source: zeros stand for "no number", and one value can be shared by a whole model.
  it('a serial number of zeros is none', async () => {
    await rememberCamera(test.house.db, { make: 'Halden', model: 'M1', serial: '0000000' }, other);
    await picture(card('ZEROS'), '1.JPG', { make: 'Halden', model: 'M1', serial: '0000000' });
    expect((await theIntake(test.house, await receive(card('ZEROS')))).contributor).toBeNull();
  });

  it('the first owner of a camera stays its owner when somebody else hands in with it', async () => {
    await rememberCamera(test.house.db, halden, other);
    await picture(card('LENT'), '2.JPG', { ...halden, at: '2026:04:19 09:00:00' });
    expect((await theIntake(test.house, await receive(card('LENT')))).contributor?.code).toBe('IB');
  });
});

describe('what the pictures say of themselves', () => {
  it('dates to doubt are pointed out: an epoch, the future, none at all', async () => {
    const path = card('DOUBT');
    await picture(path, '1.JPG', { ...halden, at: '1980:01:01 00:00:10' });
    await picture(path, '2.JPG', { ...halden, at: '2031:01:01 00:00:10' });
    await picture(path, '3.JPG', halden);
    await put(join(path, '4.JPG'), 'no picture at all');
    const views = await itemViews(test.house, await receive(path));
    const doubts = Object.fromEntries(views.map((item) => [item.path, item.captured.doubt]));
    expect(doubts).toEqual({ '1.JPG': 'camera epoch', '2.JPG': 'in the future', '3.JPG': null, '4.JPG': 'no date in the file' });
    expect(views.every((item) => item.read)).toBe(true);
  });

  it('a card pulled while it is read is read to the end when it is back', async () => {
    const path = card('PULLED');
    for (let i = 0; i < 5; i++) await picture(path, `${i}.JPG`, { ...halden, at: `2026:04:18 10:0${i}:00` });
    const id = await receiveCard(test.house, path, 'test');
    await rename(path, `${path}-pulled`);
    // Nobody has noticed yet that it is gone; then somebody has.
    await readIntake(test.house, id, never);
    await cardVanished(test.house, path);
    await readIntake(test.house, id, never);
    expect((await itemsOf(test.house.db, id)).map((item) => item.read)).toEqual([false, false, false, false, false]);
    await rename(`${path}-pulled`, path);
    expect(await receiveCard(test.house, path, 'test')).toBe(id);
    await readIntake(test.house, id, never);
    const items = await itemsOf(test.house.db, id);
    expect(items.every((item) => item.read && item.remark === null)).toBe(true);
    expect(items.map((item) => item.captured.local)).toEqual([0, 1, 2, 3, 4].map((i) => `2026-04-18T10:0${i}:00`));
  });

  it('a file that could not be read is tried again when the card is back', async () => {
    const path = card('SCRATCHED');
    await picture(path, '1.JPG', { ...halden, at: '2026:04:18 12:00:00' });
    await picture(path, '2.JPG', { ...halden, at: '2026:04:18 12:01:00' });
    const id = await receiveCard(test.house, path, 'test');
    await rename(join(path, '2.JPG'), join(test.folder, 'away.jpg'));
    await readIntake(test.house, id, never);
    expect((await itemsOf(test.house.db, id)).map((item) => item.remark).sort()).toEqual(['cannot be read (ENOENT)', null]);
    await rename(join(test.folder, 'away.jpg'), join(path, '2.JPG'));
    await receiveCard(test.house, path, 'test');
    await readIntake(test.house, id, never);
    expect((await itemsOf(test.house.db, id)).map((item) => [item.remark, item.captured.local])).toEqual([
      [null, '2026-04-18T12:00:00'],
      [null, '2026-04-18T12:01:00'],
    ]);
  });

  it('the same bytes twice on one card are both there: neither is filed yet', async () => {
    const path = card('TWINS');
    await picture(path, 'A/1.JPG', { ...halden, at: '2026:04:18 11:00:00' });
    const [first] = [join(path, 'A/1.JPG')];
    await put(join(path, 'B/1.JPG'), await (await import('node:fs/promises')).readFile(first));
    const id = await receive(path);
    expect((await itemsOf(test.house.db, id)).map((item) => item.alreadyFiled)).toEqual([null, null]);
  });
});
