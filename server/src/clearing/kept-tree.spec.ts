import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { PlanView } from '@tally/contract';
import { mkdir, mkdtemp, readdir, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { theIntake } from '../house/index.js';
import { writeManifests } from '../proving/index.js';
import { currentRule, saveRule } from '../rules/index.js';
import { itemsOf, takeItems } from '../seeing/index.js';
import { makeCard, put } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, pull, type TestHouse } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { readIntake, receiveCard } from '../arriving/index.js';
import { copiesOf, planOf } from '../filing/index.js';
import { clearanceNow, clearCard } from './index.js';
import { restoreIntake } from './restore.js';

/* Cards whose structure has to stay whole, from the reader to the places and back: compared by rsync, diff and find. */

let test: TestHouse;
beforeAll(async () => {
  const root = await mkdtemp(join(tmpdir(), 'tally-kept-'));
  const place = (id: string, kind: string) => ({ id, name: id, kind, root: join(root, id), device: id });
  test = await openHouse({ places: [place('shared', 'shared drive'), place('second', 'second copy')] as never });
});
afterAll(() => test.end());

const placeRoot = (id: string) => test.settings.places.find((place) => place.id === id)!.root;
/** Equal by contents and by names, as the tools say. */
const isEqual = (a: string, b: string) => {
  expect(tool('rsync', '-n', '-c', '-r', '-i', '--delete', `${a}/`, `${b}/`)).toBe('');
  expect(tool('diff', '-r', a, b)).toBe('');
};
const statesOf = async (id: number) =>
  (await copiesOf(test.house.db, id)).flatMap(({ copies }) => copies.map(({ state }) => state));
/** Folders below which everything stands as on the card: here one for all of it. */
function basesOf({ placements }: PlanView): [string] {
  const bases = [...new Set(placements.map(({ base }) => base))];
  expect(bases).toHaveLength(1);
  expect(bases[0]).toMatch(/./);
  return [bases[0]!];
}
const clip = (n: number) => ({
  [`PRIVATE/ORRROOT/CLIP/ORR000${n}.MP4`]: 40_000 + n,
  [`PRIVATE/ORRROOT/CLIP/ORR000${n}M01.XML`]: 300 + n,
  [`PRIVATE/ORRROOT/SUB/ORR000${n}S03.MP4`]: 4000 + n,
  [`PRIVATE/ORRROOT/THMBNL/ORR000${n}T01.JPG`]: 500 + n,
});
const CINEMA = { ...clip(1), ...clip(2), 'PRIVATE/ORRROOT/INDEX.XML': 800, 'PRIVATE/ORRROOT/GENERAL/LUT/NIGHT.CUBE': 900 };

async function saysRule(settings: object): Promise<void> {
  const { revision, rule } = await currentRule(test.house.db);
  await saveRule(test.house, { rule: { ...rule, settings }, note: 'for the test', from: revision }, 'wren');
}

describe('a structure that has to stay whole', () => {
  it('stands as on the card in both places, is proven, cleared and restored: nothing differs', async () => {
    const card = await makeCard(join(test.folder, 'REEL'), CINEMA, 7);
    tool('cp', '-a', card, `${card}-before`);
    const id = await bring(test, card);
    const { view } = await planOf(test.house, id);
    expect((await itemsOf(test.house.db, id)).filter(({ setAside }) => setAside !== null)).toEqual([]);
    await fileNow(test.house, id);
    const [base] = basesOf(view);
    for (const place of ['shared', 'second']) isEqual(join(placeRoot(place), base), card);
    expect(new Set(await statesOf(id))).toEqual(new Set(['tallied']));
    // What explains it stands once, beside the tree: nothing of ours lies between the card's files.
    await writeManifests(test.house);
    isEqual(join(placeRoot('shared'), base, 'PRIVATE'), join(card, 'PRIVATE'));
    expect((await readdir(join(placeRoot('shared'), base))).sort()).toEqual(
      [
        '.tally-second',
        'PRIVATE',
        'ascmhl',
        'checksums.xxh128',
        `intake-${(await theIntake(test.house, id)).number}.json`,
      ].sort(),
    );
    tool('sh', '-c', `cd "${join(placeRoot('shared'), base)}" && xxhsum --quiet -c checksums.xxh128`);

    const { safe, files } = await clearanceNow(test.house, id, true, null);
    expect([safe, files]).toEqual([true, 10]);
    await clearCard(test.house, id, { files: 10, letGo: false, keep: false, sure: true }, { who: 'wren' });
    expect(tool('find', card, '-type', 'f')).toBe('');
    const back = join(test.folder, 'REEL-back');
    expect(await restoreIntake(test.house, id, back, 'wren')).toMatchObject({ restored: 10, failed: [] });
    isEqual(back, `${card}-before`);
  });

  it('of a card that has grown goes on beside what stands already, and a copy of it is already filed', async () => {
    const card = await makeCard(join(test.folder, 'GROWS'), { ...clip(5), 'PRIVATE/ORRROOT/INDEX.XML': 700 }, 8);
    const id = await bring(test, card);
    const [base] = basesOf((await planOf(test.house, id)).view);
    await fileNow(test.house, id);
    await pull(test.house, id);
    await put(join(card, 'PRIVATE/ORRROOT/CLIP/ORR0006.MP4'), Buffer.alloc(9999, 6), new Date('2026-04-18T11:00:00Z'));
    const again = await bring(test, card);
    const grown = await planOf(test.house, again);
    expect(grown.view.placements.map(({ folder, name }) => `${folder}/${name}`)).toEqual([
      `${base}/PRIVATE/ORRROOT/CLIP/ORR0006.MP4`,
    ]);
    await fileNow(test.house, again);
    isEqual(join(placeRoot('shared'), base), card);
  });

  it('is taken and left as one: a clip goes with its description, small version and thumbnail, the index stays', async () => {
    const card = await makeCard(join(test.folder, 'LEFT'), { ...clip(7), ...clip(8), 'PRIVATE/ORRROOT/INDEX.XML': 701 }, 9);
    const id = await bring(test, card);
    const items = await itemsOf(test.house.db, id);
    const one = items.filter(({ leader }) => leader === 'PRIVATE/ORRROOT/CLIP/ORR0007.MP4');
    expect(one.map(({ objectRole }) => objectRole).sort()).toEqual(['leader', 'proxy', 'sidecar', 'thumbnail']);
    await takeItems(test.house, id, { itemIds: one.map((item) => item.id), taken: false });
    const { view } = await planOf(test.house, id);
    expect(view.placements.map(({ from }) => from.split('/').at(-1)).sort()).toEqual([
      ...['INDEX.XML', 'ORR0008.MP4', 'ORR0008M01.XML', 'ORR0008S03.MP4', 'ORR0008T01.JPG'],
    ]);
  });

  it('with a part that cannot be read: the rest is filed, and that one is named', async () => {
    const card = await makeCard(join(test.folder, 'BROKEN'), { ...clip(9), 'PRIVATE/ORRROOT/INDEX.XML': 702 }, 10);
    const id = await bring(test, card);
    await rm(join(card, 'PRIVATE/ORRROOT/SUB/ORR0009S03.MP4'));
    await fileNow(test.house, id);
    expect(await theIntake(test.house, id)).toMatchObject({ state: 'needs attention' });
    const states = await statesOf(id);
    expect(states.filter((state) => state === 'tallied')).toHaveLength(8);
    expect(states.filter((state) => state !== 'tallied')).toEqual(['unreadable', 'unreadable']);
  });
});

describe('a house that keeps every card', () => {
  it('production, day, camera, operator, card: whatever lies on it, thumbnails and index files too', async () => {
    const folderLine = '{assignment.slug}/{captured:yyyy-MM-dd}/{contributor.code}/{card.label:slug}_{intake}';
    await saysRule({ asOnCard: { card: true, folderLine } });
    const files = {
      'DCIM/100ABCDE/AL010007.MP4': 9000,
      'DCIM/100ABCDE/AL010007.THM': 90,
      'DCIM/100ABCDE/AL010007.LRV': 900,
      'MISC/STATUS.BIN': 20,
    };
    const card = await makeCard(join(test.folder, 'WHOLE'), files, 11);
    const id = await bring(test, card);
    await fileNow(test.house, id);
    const { number } = await theIntake(test.house, id);
    for (const place of ['shared', 'second'])
      isEqual(join(placeRoot(place), `reed-planting/2026-04-18/IB/unknown_${number}`), card);
  });

  it('and one that stops doing so sets them aside again on cards that are still open', async () => {
    const files = { 'DCIM/100ABCDE/AL010009.MP4': 9001, 'DCIM/100ABCDE/AL010009.THM': 91 };
    const id = await bring(test, await makeCard(join(test.folder, 'STOPS'), files, 12));
    const aside = async () =>
      (await itemsOf(test.house.db, id)).filter(({ setAside }) => setAside !== null).map(({ path }) => path);
    expect(await aside()).toEqual([]);
    await saysRule({});
    // The station reads it again; here it is asked to.
    await readIntake(test.house, await receiveCard(test.house, join(test.folder, 'STOPS'), 'test'), never);
    expect(await aside()).toEqual(['DCIM/100ABCDE/AL010009.THM']);
  });
});

describe('a night', () => {
  it('from 20:00 to 02:30 stands in one folder of the right day', async () => {
    await saysRule({ day: { begins: '04:00', assignment: 'each day' } });
    const card = join(test.folder, 'PROM');
    await mkdir(card);
    const times = [
      '2026-04-18T19:00:00Z',
      '2026-04-18T22:59:59Z',
      '2026-04-18T23:30:00Z',
      '2026-04-19T01:30:00Z',
      '2026-04-19T04:10:00Z',
    ];
    for (const [index, at] of times.entries())
      await put(join(card, `DCIM/100ABCDE/NITE000${index + 1}.JPG`), Buffer.alloc(5000 + index, index), new Date(at));
    const id = await bring(test, card);
    const { view } = await planOf(test.house, id);
    const days = view.placements.map(({ folder, name }) => [folder.split('/').at(-1)!.slice(0, 10), name.slice(0, 8)]);
    expect(days).toEqual([
      ['2026-04-18', '20260418'],
      ['2026-04-18', '20260418'],
      ['2026-04-18', '20260419'],
      ['2026-04-18', '20260419'],
      ['2026-04-19', '20260419'],
    ]);
    expect(view.otherDays).toMatchObject([{ day: '2026-04-18', because: 'the day begins later' }]);
    expect(view.otherDays[0]!.itemIds).toHaveLength(2);
    await rename(card, `${card}-done`);
  });
});
