import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { appendFile, cp, readFile, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { fillPlace } from './fill-place.js';
import { copiesOf } from '../filing/index.js';
import { clearanceNow } from '../clearing/index.js';
import { placeViews } from '../driving/index.js';
import { theIntake } from '../house/index.js';

let test: TestHouse;
let cards = 0;
beforeAll(async () => {
  test = await openHouse({}, [
    { id: 'offsite', kind: 'off-site copy', device: 'elsewhere' },
    { id: 'clips', kind: 'archive', required: false, holds: { kinds: ['video'] } },
    { id: 'wished', kind: 'second copy', required: false },
  ]);
});
afterAll(() => test.end());

const card = (n: number) => join(test.folder, `CARD${n}`);
async function filed(files: Record<string, number>): Promise<number> {
  await makeCard(card(++cards), files, cards * 1000);
  const id = await bring(test, card(cards));
  await fileNow(test.house, id);
  return id;
}
const placeNow = async (id: string) => (await placeViews(test.house)).find((place) => place.id === id)!;
const stateAt = async (id: number, place: string) =>
  (await copiesOf(test.house.db, id)).map(({ copies }) => copies.find((copy) => copy.place === place)?.state);

describe('a place that is filled later', () => {
  it('is not waited for: the card tallies, and what is at risk is counted', async () => {
    const id = await filed({ 'A/1.JPG': 1000, 'A/2.JPG': 80_000 });
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', filed: 2 });
    expect(await stateAt(id, 'offsite')).toEqual(['waiting', 'waiting']);
    test.clock.now = new Date(test.clock.now.getTime() + 2.5 * 3_600_000);
    expect(await placeNow('offsite')).toMatchObject({ copies: 0, waiting: { copies: 2, bytes: 81_000, hoursAtRisk: 3 } });
  });

  it('does not keep the same pictures from being known: they stand on the drive', async () => {
    await cp(card(1), join(test.folder, 'ONCE_MORE'), { recursive: true });
    const again = await bring(test, join(test.folder, 'ONCE_MORE'));
    expect(await theIntake(test.house, again)).toMatchObject({ items: 2, alreadyFiled: 2, taken: 0 });
  });

  it('is filled from another copy when the card is long gone, byte for byte', async () => {
    await rm(card(1), { recursive: true });
    expect(await fillPlace(test.house, 'offsite', never)).toMatchObject({ copies: 2, bytes: 81_000, problems: [] });
    for (const { to } of await copiesOf(test.house.db, 1))
      // Outside check: the system's own comparison.
      execFileSync('cmp', [join(test.shared, to), join(test.folder, 'offsite', to)]);
    expect(await placeNow('offsite')).toMatchObject({ copies: 2, waiting: { copies: 0, bytes: 0, hoursAtRisk: 0 } });
  });

  it('holds a card back from clearing while it lags, when it is required', async () => {
    const id = await filed({ 'A/3.JPG': 1200 });
    const words = async () => (await clearanceNow(test.house, id, false)).reasons.map((reason) => reason.words);
    expect(await words()).toContain('1 file does not tally at offsite');
    await fillPlace(test.house, 'offsite', never);
    expect((await words()).filter((word) => word.includes('offsite'))).toEqual([]);
  });

  it('is left alone when it is away, and filled when it is back', async () => {
    const id = await filed({ 'A/4.JPG': 1300 });
    await rename(join(test.folder, 'offsite'), join(test.folder, 'cut'));
    expect(await fillPlace(test.house, 'offsite', never)).toMatchObject({ copies: 0 });
    await rename(join(test.folder, 'cut'), join(test.folder, 'offsite'));
    expect(await fillPlace(test.house, 'offsite', never)).toMatchObject({ copies: 1 });
    expect(await stateAt(id, 'offsite')).toEqual(['tallied']);
  });

  it('takes nothing from a copy that decayed: another copy serves', async () => {
    const id = await filed({ 'A/5.JPG': 1400 });
    const [copy] = await copiesOf(test.house.db, id);
    const shared = join(test.shared, copy!.to);
    const bytes = await readFile(shared);
    bytes[700]! ^= 1;
    await writeFile(shared, bytes);
    const filled = await fillPlace(test.house, 'offsite', never);
    expect(filled.problems.join()).toContain('holds other bytes now than were filed');
    expect(await stateAt(id, 'offsite')).toEqual(['waiting']);
    // With the decayed copy out of the way the second one is the source.
    await rename(test.shared, `${test.shared}-away`);
    expect(await fillPlace(test.house, 'offsite', never)).toMatchObject({ copies: 1 });
    await rename(`${test.shared}-away`, test.shared);
  });

  it("leaves a stranger's file under the name alone, and says differs", async () => {
    const id = await filed({ 'A/6.JPG': 1500 });
    const [copy] = await copiesOf(test.house.db, id);
    await writeFile(join(test.folder, 'offsite', copy!.to), 'a stranger');
    await fillPlace(test.house, 'offsite', never);
    expect(await stateAt(id, 'offsite')).toEqual(['differs']);
    expect(await readFile(join(test.folder, 'offsite', copy!.to), 'utf8')).toBe('a stranger');
  });
});

describe('a place that holds a part', () => {
  it('gets its kinds only, and is not asked for the others', async () => {
    const id = await filed({ 'A/7.JPG': 1600, 'A/8.MP4': 1700 });
    const copies = await copiesOf(test.house.db, id);
    expect(copies.map(({ from, copies: at }) => [from, at.some(({ place }) => place === 'clips')])).toEqual([
      ['A/7.JPG', false],
      ['A/8.MP4', true],
    ]);
    expect(await fillPlace(test.house, 'clips', never)).toMatchObject({ copies: 1, bytes: 1700 });
    expect((await theIntake(test.house, id)).stick.map((run) => run.copies[3])).toEqual(['none', 'cut']);
  });
});

describe('the second copy was away while a card was filed', () => {
  it('it is made from the shared drive; the intake tallies without its card', async () => {
    await rename(test.second, `${test.second}-away`);
    const id = await filed({ 'A/9.JPG': 1800 });
    expect((await theIntake(test.house, id)).state).toBe('needs attention');
    await rm(card(cards), { recursive: true });
    await rename(`${test.second}-away`, test.second);
    await fillPlace(test.house, 'second', never);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', tray: 'to give back' });
  });

  it('and so does one that a wished place keeps waiting for', async () => {
    const places = [test.second, join(test.folder, 'wished')];
    for (const place of places) await rename(place, `${place}-away`);
    const id = await filed({ 'A/11.JPG': 2000 });
    expect((await theIntake(test.house, id)).state).toBe('needs attention');
    await rename(`${test.second}-away`, test.second);
    await fillPlace(test.house, 'second', never);
    expect(await stateAt(id, 'wished')).toEqual(['waiting']);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'tallied', tray: 'to give back' });
    await rename(`${join(test.folder, 'wished')}-away`, join(test.folder, 'wished'));
  });

  it('a card that changed since is no source: what was read once is what is compared', async () => {
    await rename(test.second, `${test.second}-away`);
    const id = await filed({ 'A/10.JPG': 1900 });
    await rename(`${test.second}-away`, test.second);
    const file = join(card(cards), 'A/10.JPG');
    const bytes = await readFile(file);
    bytes[100]! ^= 1;
    await writeFile(file, bytes);
    await utimes(file, test.clock.now, test.clock.now);
    await appendFile(file, '');
    const { tryAgain } = await import('../filing/index.js');
    const { carryOut } = await import('../filing/index.js');
    await tryAgain(test.house, id, 'test');
    await carryOut(test.house, id, never);
    expect(await stateAt(id, 'second')).toEqual(['unreadable']);
    expect(await stateAt(id, 'shared')).toEqual(['tallied']);
  });
});
