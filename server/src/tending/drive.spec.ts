import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import type { MendAsk } from '@tally/contract';
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { copiesOf } from '../filing/index.js';
import { eventsOf, theIntake } from '../house/index.js';
import { fillPlace } from '../keeping/index.js';
import { makeAssignment } from '../people/index.js';
import { writeManifests } from '../proving/index.js';
import { CAPTURED, makeCard, noise, put } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../testing/house.js';
import { clearanceNow } from '../clearing/index.js';
import { receiveCard } from '../arriving/index.js';
import { runAdoption } from './adopting.js';
import { askAdopt } from './asking-to-adopt.js';
import { carryOutAll } from './carrying.js';
import { askCheck, placeHere, Rounds, runCheck } from './checking.js';
import { beginMend, planMend, takeBack } from './mending.js';
import { foldersSay } from './reading.js';
import { findingsAfter } from './store/findings.js';
import { mendById } from './store/mends.js';
import { folderAt, straysAfter } from './store/stood.js';

let test: TestHouse;
// A house for each case: what one leaves on the drive is not what another finds.
beforeEach(async () => (test = await openHouse({}, [{ id: 'away', kind: 'off-site copy', device: 'a box elsewhere' }])));
afterEach(() => test.end());

let seed = 100;
/** Files a card of so many pictures. @returns the intake and where its files stand. */
async function filed(count = 3, slip: Partial<TestHouse['slip']> = test.slip) {
  const card = await makeCard(
    join(test.folder, `card-${++seed}`),
    Object.fromEntries(Array.from({ length: count }, (_, n) => [`DCIM/100TEST/P_${n + 1}.JPG`, 900 + n])),
    seed,
  );
  const id = await bring(test, card, slip);
  await fileNow(test.house, id);
  await fillPlace(test.house, 'away', never, false);
  await writeManifests(test.house);
  const { rows } = { rows: await copiesOf(test.house.db, id) };
  return { id, paths: rows.map(({ to }) => to) };
}

async function check(place = 'shared', ask: Partial<Parameters<typeof askCheck>[2]> = {}) {
  const id = await askCheck(test.house, place, { how: 'size and time', names: false, strict: false, ...ask }, 'test');
  await runCheck(test.house, id, never);
  return (await findingsAfter(test.house.db, place, null, null, 0, 500)).map(
    ({ kind, path, other, what, id: finding, files }) => ({ kind, path, other, what, id: finding, files }),
  );
}

async function mend(ask: MendAsk) {
  // Somebody reads the plan for a minute.
  const { now } = test.clock;
  test.clock.now = new Date(now.getTime() - 61_000);
  const plan = await planMend(test.house, ask);
  expect(plan.faults).toEqual([]);
  test.clock.now = now;
  const answer = await beginMend(test.house, ask, plan.seal, 'test');
  if (answer.outcome !== 'begun') throw new Error('changed');
  await carryOutAll(test.house, never);
  await writeManifests(test.house);
  return answer.id;
}

const roots = () => [test.shared, test.second, join(test.folder, 'away')];
const stands = (path: string) =>
  stat(path).then(
    () => true,
    () => false,
  );

describe('a drive that is as it should be', () => {
  it('nothing is found, and the tree counts what stands there', async () => {
    const { paths } = await filed();
    expect(await check()).toEqual([]);
    expect(await folderAt(test.house.db, 'shared', dirname(paths[0]!))).toMatchObject({
      files: 3,
      known: 3,
      strays: 0,
      allFiles: 3,
    });
    expect(await folderAt(test.house.db, 'shared', '')).toMatchObject({ allFiles: 3, allKnown: 3 });
  });
});

describe('what other hands did', () => {
  it('what is gone is missing, and is made again from another place', async () => {
    const { paths } = await filed();
    await rm(join(test.shared, paths[0]!));
    const found = await check();
    expect(found).toMatchObject([{ kind: 'missing', path: paths[0], what: 'Second copy and away have it as it was' }]);
    await mend({ kind: 'findings', ids: [found[0]!.id] });
    await fillPlace(test.house, 'shared', never, false);
    expect(await stands(join(test.shared, paths[0]!))).toBe(true);
    expect(await check()).toEqual([]);
  });

  it('what was changed is told with who has it still; theirs is put aside, and what was filed comes back', async () => {
    const { paths } = await filed();
    const before = await readFile(join(test.shared, paths[1]!));
    await writeFile(join(test.shared, paths[1]!), 'somebody edited this');
    const found = await check();
    expect(found).toMatchObject([{ kind: 'changed', path: paths[1] }]);
    await mend({ kind: 'findings', ids: [found[0]!.id] });
    await fillPlace(test.house, 'shared', never, false);
    expect(await readFile(join(test.shared, paths[1]!))).toEqual(before);
    expect(await readFile(join(test.shared, '_put-aside/2026-04-21_174200', paths[1]!), 'utf8')).toBe('somebody edited this');
    expect(await check()).toEqual([]);
  });

  it('a folder renamed by hand is recognised by its bytes: the log follows, and so do the other places', async () => {
    const { id, paths } = await filed();
    const [from, to] = [dirname(paths[0]!), '2026/2026-04/called otherwise'];
    // Beside these others are filed in the same folder: they go along.
    await rename(join(test.shared, from), join(test.shared, to));
    const rounds = new Rounds();
    await rounds.round(test.house, await placeHere(test.house, 'shared'), never);
    await rounds.close();
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    for (const root of roots())
      expect((await readdir(join(root, to))).filter((name) => name.endsWith('.jpg')).length).toBeGreaterThanOrEqual(3);
    for (const root of roots()) expect(await stands(join(root, from))).toBe(false);
    expect((await copiesOf(test.house.db, id)).map((copy) => dirname(copy.to))).toEqual([to, to, to]);
    expect((await eventsOf(test.house.db, id)).at(-1)!.text).toMatch(/moved by hand on Shared drive, out of .*: the log follows/);
    expect(await check()).toEqual([]);
    expect(await check('second')).toEqual([]);
  });
});

describe('strays', () => {
  it('are told apart from what somebody is still writing, from leftovers and from twins', async () => {
    const { paths } = await filed();
    const folder = join(test.shared, 'by hand');
    await put(join(folder, 'one.jpg'), noise(500, 1));
    await put(join(folder, 'copying.jpg.part'), noise(10, 2));
    await put(join(folder, 'Thumbs.db'), noise(10, 3));
    await put(join(folder, 'alone.xmp'), '<x/>');
    await mkdir(join(folder, 'empty'), { recursive: true });
    await writeFile(join(folder, 'now.jpg'), noise(40, 4));
    await put(join(folder, 'again.jpg'), await readFile(join(test.shared, paths[0]!)));
    const found = await check();
    expect(found.map(({ kind, path }) => `${kind} ${path}`).sort()).toEqual(
      [
        'empty folder by hand/empty',
        'leftover by hand/Thumbs.db',
        'left alone by hand/alone.xmp',
        'stray by hand',
        'twin by hand/again.jpg',
      ].sort(),
    );
    expect((await straysAfter(test.house.db, 'shared', 0, 100)).map(({ path }) => path).sort()).toEqual([
      'by hand/again.jpg',
      'by hand/one.jpg',
    ]);
    const ids = found.filter(({ kind }) => kind !== 'stray').map(({ id }) => id);
    await mend({ kind: 'findings', ids });
    await utimes(join(folder, 'now.jpg'), CAPTURED, CAPTURED);
    expect((await check()).map(({ kind, files }) => [kind, files])).toEqual([['stray', 2]]);
    await rm(folder, { recursive: true });
    expect(await check()).toEqual([]);
  });
});

describe('adopting', () => {
  it('an old cupboard is read back, adopted where it stands, and copied; nothing of it is touched', async () => {
    const old = join(test.shared, 'cupboard');
    await put(join(old, '2021/05 May/2021-05-17 Harbour walk/IB_0007.jpg'), noise(700, 11), new Date('2021-05-17T10:00:00Z'));
    await put(join(old, '2021/05 May/2021-05-17 Harbour walk/IB_0008.jpg'), noise(701, 12), new Date('2024-01-01T10:00:00Z'));
    await put(join(old, 'new folder (2)/x.jpg'), noise(702, 13), new Date('2022-02-02T10:00:00Z'));
    await check();
    const { folders } = await foldersSay(test.house, 'shared', 'cupboard');
    expect(folders).toMatchObject([
      {
        folder: 'cupboard/2021/05 May/2021-05-17 Harbour walk',
        from: '2021-05-17',
        title: 'Harbour walk',
        contributorId: test.slip.contributorId,
        files: 2,
      },
      { folder: 'cupboard/new folder (2)', from: null, asks: ['contributor', 'assignment', 'day'] },
    ]);
    const before = await stat(join(old, 'new folder (2)/x.jpg'));
    const ask = folders.map(({ folder, title }) => ({
      folder,
      contributorId: null,
      assignmentId: null,
      title: title ?? 'Found in a cupboard',
      day: title ? null : '2022-02-02',
    }));
    const id = await askAdopt(test.house, 'shared', { folders: ask }, 'test');
    await runAdoption(test.house, id, never);
    await writeManifests(test.house);
    for (const place of ['second', 'away']) await fillPlace(test.house, place, never, false);
    const found = await check();
    expect(found).toEqual([]);
    expect(await readFile(join(test.second, 'cupboard/new folder (2)/x.jpg'))).toEqual(noise(702, 13));
    const after = await stat(join(old, 'new folder (2)/x.jpg'));
    expect([after.mtimeMs, after.ino]).toEqual([before.mtimeMs, before.ino]);
    expect(await folderAt(test.house.db, 'shared', 'cupboard')).toMatchObject({ allFiles: expect.any(Number), allStrays: 0 });
  });

  it('what was adopted is never cleared, and a folder of a place is never read as a card', async () => {
    await put(join(test.shared, 'cupboard/IB_0009.jpg'), noise(700, 11), CAPTURED);
    await check();
    const folders = [{ folder: 'cupboard', contributorId: null, assignmentId: null, title: 'In a cupboard', day: '2026-04-18' }];
    await runAdoption(test.house, await askAdopt(test.house, 'shared', { folders }, 'test'), never);
    await expect(receiveCard(test.house, join(test.shared, 'cupboard'), 'test')).rejects.toThrow(/lies on Shared drive/);
    const [row] = await test.house.db.query<{ id: number }[]>('select id from intake where adopted_at is not null limit 1');
    await expect(clearanceNow(test.house, row!.id, false)).rejects.toThrow(/was adopted where it stands/);
    expect((await theIntake(test.house, row!.id)).state).toBe('closed');
  });
});

describe('a mend', () => {
  it('re-files what was filed under the wrong assignment, in every place, and can be taken back', async () => {
    const { id, paths } = await filed();
    const assignmentId = await makeAssignment(
      test.house,
      {
        ...{ title: 'Harbour walk', slug: 'harbour-walk', code: '', from: '2026-04-18', to: '2026-04-18', place: '' },
        ...{ expectedCards: 0, expectedContributorIds: [] },
      },
      'test',
    );
    const items = await test.house.db.query<{ id: number }[]>('select id from item where intake_id = $1', [id]);
    const mended = await mend({ kind: 're-file', itemIds: items.map((item) => item.id), assignmentId });
    const now = (await copiesOf(test.house.db, id)).map(({ to }) => to);
    expect(now.every((path) => path.includes('_harbour-walk/'))).toBe(true);
    for (const root of roots()) for (const path of now) expect(await stands(join(root, path))).toBe(true);
    for (const root of roots()) for (const path of paths) expect(await stands(join(root, path))).toBe(false);
    expect((await mendById(test.house.db, mended))!.state).toBe('done');
    expect(await check('shared', { strict: true })).toEqual([]);
    await takeBack(test.house, mended, 'test');
    await carryOutAll(test.house, never);
    await writeManifests(test.house);
    expect((await copiesOf(test.house.db, id)).map(({ to }) => to)).toEqual(paths);
    for (const root of roots()) for (const path of paths) expect(await stands(join(root, path))).toBe(true);
    expect(await check()).toEqual([]);
    await expect(takeBack(test.house, mended, 'test')).rejects.toThrow();
  });

  it('a folder is renamed as a whole, with all that stands in it', async () => {
    const { paths } = await filed();
    const folder = dirname(paths[0]!);
    await put(join(test.shared, folder, 'plan of the site.pdf'), 'not filed');
    await mend({ kind: 'rename folder', folder, to: '2026/2026-04/reed planting, sorted' });
    expect(await readFile(join(test.shared, '2026/2026-04/reed planting, sorted/plan of the site.pdf'), 'utf8')).toBe(
      'not filed',
    );
    for (const root of roots()) expect(await stands(join(root, folder))).toBe(false);
    expect((await check()).map(({ kind }) => kind)).toEqual(['stray']);
    await rm(join(test.shared, '2026/2026-04/reed planting, sorted/plan of the site.pdf'));
  });
});

describe('a camera’s tree on an old drive', () => {
  it('is adopted as one, with its clip and what belongs to it; it stays together, and moves with the folder that holds it', async () => {
    const holder = 'cupboard/2021/05 May/2021-05-20 Harbour film';
    const tree = `${holder}/PRIVATE/AVCHD/BDMV`;
    const files = ['STREAM/00001.MTS', 'CLIPINF/00001.CPI', 'PLAYLIST/00000.MPL', 'INDEX.BDM'];
    for (const [n, name] of files.entries()) await put(join(test.shared, tree, name), noise(500 + n, 900 + n));
    await put(join(test.shared, holder, 'notes.jpg'), noise(444, 77));
    await check();
    const said = await foldersSay(test.house, 'shared', holder);
    expect(said.folders).toMatchObject([{ folder: holder, files: 5, from: '2021-05-20', title: 'Harbour film' }]);
    const answer = { contributorId: null, assignmentId: null, title: 'Harbour film', day: null };
    await expect(askAdopt(test.house, 'shared', { folders: [{ folder: `${tree}/STREAM`, ...answer }] }, 'test')).rejects.toThrow(
      `${tree}/STREAM is part of a camera’s tree: adopt ${holder} as a whole.`,
    );
    const id = await askAdopt(test.house, 'shared', { folders: [{ folder: holder, ...answer }] }, 'test');
    await runAdoption(test.house, id, never);
    await writeManifests(test.house);
    for (const place of ['second', 'away']) await fillPlace(test.house, place, never, false);
    await writeManifests(test.house);
    expect(await check()).toEqual([]);
    const rows = await test.house.db.query<{ intake: number; id: number; path: string; leader: string | null; list: string }[]>(
      `select f.intake_id as intake, i.id, i.path, i.leader, f.list_folder as list from filed_item f join item i on i.id = f.item_id
       where f.folder = $1 or f.folder like $1 || '/%' order by i.path`,
      [holder],
    );
    expect(new Set(rows.map(({ intake }) => intake)).size).toBe(1);
    expect(new Set(rows.map(({ list }) => list))).toEqual(new Set([holder]));
    const clip = rows.find(({ path }) => path.endsWith('.MTS'))!;
    expect(rows.find(({ path }) => path.endsWith('.CPI'))!.leader).toBe(clip.path);
    const refiling = await planMend(test.house, { kind: 're-file', itemIds: [clip.id] });
    expect(refiling.faults[0]!.why).toMatch(/it stands as on the card/);
    await mend({ kind: 'rename folder', folder: holder, to: 'cupboard/2021/harbour film' });
    for (const root of roots())
      for (const name of files)
        expect(await stands(join(root, 'cupboard/2021/harbour film/PRIVATE/AVCHD/BDMV', name))).toBe(true);
    expect(await check()).toEqual([]);
  });
});
