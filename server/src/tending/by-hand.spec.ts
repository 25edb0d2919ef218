import { afterEach, describe, expect, it } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { copiesOf } from '../filing/index.js';
import { makeCard, noise, put } from '../testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse, until, workerOf } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { listFolders } from '../drive/walk-thread.js';
import { Looking } from './looking.js';
import { askCheck, placeHere, Rounds, runCheck } from './checking.js';
import { findingsAfter } from './store/findings.js';
import { folderAt, straysAfter } from './store/stood.js';
import { adoptionView, treeOf } from './viewing.js';
import { lastAdoption } from './store/adoptions.js';

let test: TestHouse;
afterEach(() => test.end());

type Strays = 'show' | 'adopt' | 'move together';

/** A house whose shared drive has that rule for what others put there, with a filed card. */
async function houseThat(strays: Strays): Promise<{ folder: string }> {
  test = await openHouse();
  const places = test.settings.places.map((place) => ({ ...place, ...(place.id === 'shared' ? { strays } : {}) }));
  test = { ...test, house: { ...test.house, settings: { ...test.settings, places } } };
  const id = await bring(test, await makeCard(join(test.folder, 'CARD'), { 'DCIM/1.JPG': 500, 'DCIM/2.JPG': 600 }, 3));
  await fileNow(test.house, id);
  return { folder: dirname((await copiesOf(test.house.db, id))[0]!.to) };
}

/** The house does by itself what it does, until something is so. */
async function meanwhile<T>(ask: () => Promise<T | null | false | undefined>): Promise<T> {
  const worker = workerOf(test);
  await worker.start();
  try {
    // For hanging, not for slowness.
    return await until(ask, 240);
  } finally {
    await worker.stop();
  }
}

describe('what others put there by hand', () => {
  it('is shown, once nobody writes it any more', async () => {
    const { folder } = await houseThat('show');
    await put(join(test.shared, folder, 'brought.jpg'), noise(300, 9));
    writeFileSync(join(test.shared, folder, 'half.jpg.part'), noise(20, 8));
    const strays = await meanwhile(async () => {
      const found = await straysAfter(test.house.db, 'shared', 0, 10);
      return found.length > 0 && found;
    });
    expect(strays.map(({ path }) => path)).toEqual([`${folder}/brought.jpg`]);
  });

  it('is adopted into the assignment of its folder, where the house says so; elsewhere it stays a stray', async () => {
    const { folder } = await houseThat('adopt');
    await put(join(test.shared, folder, 'brought.jpg'), noise(300, 9));
    await put(join(test.shared, 'somewhere/else.jpg'), noise(301, 10));
    const adoption = await meanwhile(async () => {
      const last = await lastAdoption(test.house.db, 'shared');
      return last?.state === 'done' && last.adopted > 0 ? last : null;
    });
    expect(adoptionView(adoption)).toMatchObject({ adopted: 1, files: 1, who: 'the house' });
    const [row] = await test.house.db.query<{ slug: string; code: string }[]>(
      `select a.slug, c.code from filed_item f join intake n on n.id = f.intake_id join assignment a on a.id = n.assignment_id
       join contributor c on c.id = n.contributor_id where f.name = 'brought.jpg'`,
    );
    expect(row).toEqual({ slug: 'reed-planting', code: 'IB' });
    expect((await straysAfter(test.house.db, 'shared', 0, 10)).map(({ path }) => path)).toEqual(['somewhere/else.jpg']);
  });

  it('is moved together, however much it is, and what comes afterwards, too', async () => {
    const { folder } = await houseThat('move together');
    const old = new Date('2026-04-01T10:00:00Z');
    const brought = async (name: string, n: number) => {
      await put(join(test.shared, 'heap', name), noise(50 + n, n));
      utimesSync(join(test.shared, 'heap', name), old, old);
    };
    for (let n = 0; n < 520; n++) await brought(`${n}.jpg`, n);
    const left = () => (existsSync(join(test.shared, 'heap')) ? readdirSync(join(test.shared, 'heap')).length : 0);
    await meanwhile(() => Promise.resolve(left() === 0));
    await brought('later.jpg', 600);
    await meanwhile(() => Promise.resolve(left() === 0));
    const moved = tool('find', join(test.shared, '_arrived-by-hand'), '-type', 'f', '-name', '*.jpg').trim().split('\n');
    expect(moved).toHaveLength(521);
    expect(readdirSync(join(test.shared, folder)).filter((name) => name.endsWith('.jpg'))).toHaveLength(2);
    // Each was moved once: no round plans again what one that is under way moves.
    expect(await test.house.db.query<unknown[]>('select count(*)::int as moves from mend_move')).toEqual([{ moves: 521 }]);
  });

  it('is moved together, where the house says so, and can be taken back', async () => {
    const { folder } = await houseThat('move together');
    await put(join(test.shared, folder, 'brought.jpg'), noise(300, 9));
    await meanwhile(() =>
      Promise.resolve(existsSync(join(test.shared, '_arrived-by-hand/2026-04-21_174200', folder, 'brought.jpg'))),
    );
    expect(readdirSync(join(test.shared, folder)).filter((name) => name.endsWith('.jpg'))).toHaveLength(2);
  });
});

describe('a place that is looked at', () => {
  const check = async () => {
    const id = await askCheck(test.house, 'shared', { how: 'size and time', names: false, strict: false }, 'test');
    await runCheck(test.house, id, never);
    return (await findingsAfter(test.house.db, 'shared', null, null, 0, 500)).filter(({ kind }) => kind !== 'only here');
  };

  it('and is a link to where it really stands, is looked at there', async () => {
    await houseThat('show');
    renameSync(test.shared, `${test.shared}.really`);
    symlinkSync(`${test.shared}.really`, test.shared);
    expect(await check()).toEqual([]);
    expect(await folderAt(test.house.db, 'shared', '')).toMatchObject({ allKnown: 2 });
  });

  it('holds loops of links, names that are no UTF-8, pipes: a clear word for each, and none is opened', async () => {
    await houseThat('show');
    mkdirSync(join(test.shared, 'odd'));
    symlinkSync('..', join(test.shared, 'odd/loop'));
    symlinkSync('/etc', join(test.shared, 'odd/etc'));
    execFileSync('mkfifo', [join(test.shared, 'odd/pipe.jpg')]);
    writeFileSync(Buffer.concat([Buffer.from(join(test.shared, 'odd/caf')), Buffer.from([0xe9]), Buffer.from('.jpg')]), 'x');
    expect((await check()).map(({ kind, what }) => [kind, what]).sort()).toEqual(
      [
        ['odd', 'a symbolic link: it is not followed'],
        ['odd', 'a symbolic link: it is not followed'],
        ['odd', 'no regular file: it is not opened'],
        ['odd', 'the bytes of its name are no UTF-8'],
      ].sort(),
    );
  });

  it('has five thousand files in one folder, and a thousand folders in another', async () => {
    await houseThat('show');
    mkdirSync(join(test.shared, 'many'));
    for (let n = 0; n < 5_000; n++) writeFileSync(join(test.shared, `many/${n}.jpg`), '');
    for (let n = 0; n < 1_000; n++) mkdirSync(join(test.shared, `wide/${n}`), { recursive: true });
    execFileSync('sh', ['-c', 'find "$0" -exec touch -d 2020-01-01 {} +', join(test.shared, 'many')]);
    await check();
    expect((await findingsAfter(test.house.db, 'shared', 'stray', null, 0, 9)).map(({ files }) => files)).toEqual([5_000]);
    expect(await findingsAfter(test.house.db, 'shared', 'empty folder', 'wide', 0, 2_000)).toHaveLength(1_000);
    const { folders, more } = await treeOf(test.house, 'shared', { folder: 'wide', after: '', limit: 400 });
    expect([folders.length, more]).toEqual([400, true]);
  }, 60_000);

  it('keeps an empty folder found when only the one around it changed, until something stands in it', async () => {
    const { folder } = await houseThat('show');
    const at = (...parts: string[]) => join(test.shared, folder, ...parts);
    mkdirSync(at('to sort later'));
    const rounds = new Rounds();
    const found = async () => {
      await rounds.round(test.house, await placeHere(test.house, 'shared'), never);
      return (await findingsAfter(test.house.db, 'shared', 'empty folder', null, 0, 9)).map(({ path }) => path);
    };
    try {
      expect((await check()).map(({ kind }) => kind)).toEqual(['empty folder']);
      await put(at('beside.jpg'), noise(300, 4));
      expect(await found()).toEqual([`${folder}/to sort later`]);
      await put(at('to sort later', 'in it.jpg'), noise(300, 5));
      expect(await found()).toEqual([]);
      rmSync(at('to sort later', 'in it.jpg'));
      expect(await found()).toEqual([`${folder}/to sort later`]);
      rmSync(at('to sort later'), { recursive: true });
      expect(await found()).toEqual([]);
    } finally {
      await rounds.close();
    }
  });

  it('and goes away in the middle is not looked at to the end: nothing of it is missing', async () => {
    await houseThat('show');
    const place = await placeHere(test.house, 'shared');
    const list = (root: string, paths: readonly string[]) => {
      if (existsSync(test.shared)) renameSync(test.shared, `${test.shared}.pulled`);
      mkdirSync(root, { recursive: true });
      return Promise.resolve(listFolders(root, paths));
    };
    const looking = new Looking(test.house, place, { list }, { how: 'size and time', signal: never, follows: true });
    await expect(looking.whole()).rejects.toThrow(/went away while it was looked at/);
    rmSync(test.shared, { recursive: true });
    renameSync(`${test.shared}.pulled`, test.shared);
    expect(await check()).toEqual([]);
    expect((await copiesOf(test.house.db, 1)).every(({ copies }) => copies.every(({ state }) => state === 'tallied'))).toBe(true);
  });

  it('that goes away while it is looked at has lost nothing', async () => {
    await houseThat('show');
    const rounds = new Rounds();
    try {
      const place = await placeHere(test.house, 'shared');
      await rounds.round(test.house, place, never);
      renameSync(test.shared, `${test.shared}.gone`);
      expect(await rounds.round(test.house, place, never)).toBe(false);
      mkdirSync(test.shared);
      // An empty folder under its name is not the drive.
      await expect(askCheck(test.house, 'shared', { how: 'size and time', names: false, strict: false }, 'test')).rejects.toThrow(
        /does not carry this place's mark/,
      );
      rmSync(test.shared, { recursive: true });
      renameSync(`${test.shared}.gone`, test.shared);
      expect(await check()).toEqual([]);
    } finally {
      await rounds.close();
    }
  });
});
