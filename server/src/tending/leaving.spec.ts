import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { existsSync, mkdirSync, readdirSync, readFileSync, symlinkSync, unlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { MendAsk } from '@tally/contract';
import { fillPlace } from '../keeping/index.js';
import { writeManifests } from '../proving/index.js';
import { noise, put } from '../testing/cards.js';
import { never, openHouse, type TestHouse } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { runAdoption } from './adopting.js';
import { askAdopt } from './asking-to-adopt.js';
import { carryOutAll } from './carrying.js';
import { askCheck, runCheck } from './checking.js';
import { beginMend, planMend } from './mending.js';
import { findingsAfter } from './store/findings.js';
import { mendById } from './store/mends.js';
import { emptyTray } from './tray.js';

/*
 * What leaves a place for good: only what is ours, only the very file that is meant, and never what somebody else put
 * beside it.
 */
let test: TestHouse;
let cupboard = 0;
beforeAll(async () => {
  test = await openHouse({}, [{ id: 'pictures', kind: 'off-site copy', device: 'a box elsewhere', holds: { kinds: ['photo'] } }]);
});
afterAll(() => test.end());

async function check(place = 'shared') {
  await runCheck(
    test.house,
    await askCheck(test.house, place, { how: 'size and time', names: false, strict: false }, 'test'),
    never,
  );
  return findingsAfter(test.house.db, place, null, null, 0, 500);
}

async function settle(): Promise<void> {
  await writeManifests(test.house);
  for (const place of ['shared', 'second', 'pictures']) await fillPlace(test.house, place, never, false);
  await writeManifests(test.house);
}

/** Files with times finer than a millisecond, as people's programs leave them, adopted in a folder of their own. */
async function adopted(names: readonly string[]): Promise<string> {
  const folder = `cupboard ${++cupboard}`;
  for (const [n, name] of names.entries()) {
    await put(join(test.shared, folder, name), noise(800 + n, cupboard * 50 + n));
    tool('touch', '-d', `2022-03-04T10:00:0${n}.123456789Z`, join(test.shared, folder, name));
  }
  await check();
  const one = { folder, ...test.slip, title: null, day: '2022-03-04' };
  await runAdoption(test.house, await askAdopt(test.house, 'shared', { folders: [one] }, 'test'), never);
  await settle();
  return folder;
}

async function mend(ask: MendAsk): Promise<number> {
  // Somebody reads the plan for a minute.
  const { now } = test.clock;
  test.clock.now = new Date(now.getTime() - 61_000);
  const { seal } = await planMend(test.house, ask);
  test.clock.now = now;
  const answer = await beginMend(test.house, ask, seal, 'test');
  if (answer.outcome !== 'begun') throw new Error('the plan changed');
  await carryOutAll(test.house, never);
  await settle();
  await carryOutAll(test.house, never);
  return answer.id;
}

const stateOf = async (id: number) => (await mendById(test.house.db, id))!.state;
const itemsIn = (folder: string) =>
  test.house.db.query<{ id: number; name: string }[]>(
    'select item_id as id, name from filed_item where folder = $1 order by name',
    [folder],
  );

describe('a folder that moves to another place', () => {
  it('leaves the first with all that we wrote beside it, whatever the times of its files are', async () => {
    const folder = await adopted(['a.jpg', 'b.jpg']);
    expect(readdirSync(join(test.second, folder))).toEqual(expect.arrayContaining(['ascmhl', 'a.jpg.xmp', 'checksums.xxh128']));
    const id = await mend({ kind: 'to another place', folder, from: 'second', to: 'shared' });
    expect(await stateOf(id)).toBe('done');
    expect(existsSync(join(test.second, folder))).toBe(false);
    expect(readFileSync(join(test.shared, folder, 'a.jpg'))).toEqual(noise(800, cupboard * 50));
  });

  it('stays where somebody changed what stands beside a file, until that is settled', async () => {
    const folder = await adopted(['a.jpg', 'b.jpg']);
    const sidecar = join(test.second, folder, 'a.jpg.xmp');
    const [ours, theirs] = [readFileSync(sidecar), '<an edit of somebody/>'];
    writeFileSync(sidecar, theirs);
    const ask = { kind: 'to another place', folder, from: 'second', to: 'shared' } as const;
    const answer = await beginMend(test.house, ask, (await planMend(test.house, ask)).seal, 'test');
    if (answer.outcome !== 'begun') throw new Error('the plan changed');
    await carryOutAll(test.house, never);
    expect(await stateOf(answer.id)).toBe('needs attention');
    expect([existsSync(join(test.second, folder, 'a.jpg')), readFileSync(sidecar, 'utf8')]).toEqual([true, theirs]);
    expect(existsSync(join(test.second, folder, 'b.jpg'))).toBe(false);
    writeFileSync(sidecar, ours);
  });

  it("leaves a history of hashes that is another tool's", async () => {
    const folder = await adopted(['a.jpg']);
    const history = join(test.second, folder, 'ascmhl');
    const [name] = readdirSync(history).filter((one) => one.endsWith('.mhl'));
    writeFileSync(join(history, 'notes of the lab.txt'), 'received on tape');
    await mend({ kind: 'to another place', folder, from: 'second', to: 'shared' });
    expect(existsSync(join(test.second, folder, 'a.jpg'))).toBe(false);
    expect(existsSync(join(history, name!))).toBe(true);
    expect(readFileSync(join(history, 'notes of the lab.txt'), 'utf8')).toBe('received on tape');
  });
});

describe('the tray', () => {
  it('is emptied once its days are over: filed files are forgotten, folders go whole, and links are not followed', async () => {
    const folder = await adopted(['a.jpg', 'b.jpg']);
    const box = join(test.shared, folder, '@eaDir');
    mkdirSync(join(box, 'deep/deeper'), { recursive: true });
    await put(join(box, 'deep/small.jpg'), noise(30, 1));
    tool('touch', '-d', '2022-03-04T10:00:00.987654321Z', join(box, 'deep/small.jpg'));
    const leftover = (await check()).filter(({ kind }) => kind === 'leftover');
    await mend({ kind: 'findings', ids: leftover.map(({ id }) => id) });
    const aside = join(test.shared, '_put-aside/2026-04-21_174200', folder);
    symlinkSync(join(test.shared, folder), join(aside, '@eaDir/to what is filed'));
    const [a] = await itemsIn(folder);
    await mend({ kind: 'put aside', itemIds: [a!.id], why: 'nobody may see it' });
    expect(existsSync(join(test.second, '_put-aside/2026-04-21_174200', folder, 'a.jpg'))).toBe(true);

    test.clock.now = new Date('2026-05-20T12:00:00Z');
    expect(await emptyTray(test.house, 'test')).toEqual({ mends: 0, files: 0, stays: [] });
    test.clock.now = new Date('2026-05-23T12:00:00Z');
    // One small picture; a.jpg at three places.
    expect(await emptyTray(test.house, 'test', true)).toMatchObject({ mends: 2, files: 4 });
    expect(existsSync(join(aside, 'a.jpg'))).toBe(true);
    const first = await emptyTray(test.house, 'test');
    expect(first).toMatchObject({ mends: 2, files: 4, stays: [expect.stringMatching(/@eaDir: something stays in it/)] });
    expect(existsSync(join(aside, '@eaDir/deep'))).toBe(false);
    for (const root of [test.shared, test.second, join(test.folder, 'pictures')])
      expect(existsSync(join(root, '_put-aside/2026-04-21_174200', folder, 'a.jpg'))).toBe(false);
    expect((await itemsIn(folder)).map(({ name }) => name)).toEqual(['b.jpg']);
    expect(readFileSync(join(test.shared, folder, 'b.jpg'))).toEqual(noise(801, cupboard * 50 + 1));

    unlinkSync(join(aside, '@eaDir/to what is filed'));
    expect(await emptyTray(test.house, 'test')).toEqual({ mends: 1, files: 0, stays: [] });
    await writeManifests(test.house);
    expect(existsSync(join(test.shared, '_put-aside'))).toBe(false);
    expect(await emptyTray(test.house, 'test')).toEqual({ mends: 0, files: 0, stays: [] });
    expect((await check()).filter(({ kind }) => kind !== 'stray' && kind !== 'left alone')).toEqual([]);
  });
});

describe('findings that are mended together', () => {
  it('what has too deep folders stays, is told, and is still found afterwards', async () => {
    const deep = Array.from({ length: 12 }, (_, n) => `a folder of twenty ${n}`).join('/');
    await put(join(test.shared, deep, 'one.jpg'), noise(90, 77));
    utimesSync(join(test.shared, deep, 'one.jpg'), 1e9, 1e9);
    const found = (await check()).filter(({ kind }) => kind === 'too long');
    const ask = { kind: 'findings', ids: found.map(({ id }) => id) } as const;
    const plan = await planMend(test.house, ask);
    expect(plan.also).toContainEqual(expect.stringMatching(/one\.jpg stays: its folders are too deep/));
    await expect(beginMend(test.house, ask, plan.seal, 'test')).rejects.toThrow(/stays: its folders are too deep/);
    expect((await check()).filter(({ kind }) => kind === 'too long')).toHaveLength(found.length);
  });

  it('what stands on one device only is copied where the house wants it', async () => {
    const folder = await adopted(['a.jpg', 'clip.mov']);
    await test.house.db.query(
      `delete from copy where place_id <> 'shared' and filed_item_id in (select id from filed_item where folder = $1)`,
      [folder],
    );
    const alone = (await check()).filter(({ kind, folder: where }) => kind === 'only here' && where === folder);
    await mend({ kind: 'findings', ids: alone.map(({ id }) => id) });
    const held = await test.house.db.query<{ name: string; places: string }[]>(
      `select f.name, string_agg(c.place_id, ' ' order by c.place_id) as places from filed_item f join copy c on c.filed_item_id = f.id
       where f.folder = $1 group by f.name order by f.name`,
      [folder],
    );
    expect(held).toEqual([
      { name: 'a.jpg', places: 'pictures second shared' },
      { name: 'clip.mov', places: 'second shared' },
    ]);
  });
});
