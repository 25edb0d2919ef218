import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { mkdir, rename, rm, symlink, utimes, writeFile } from 'node:fs/promises';
import { readFileSync, readdirSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { chance, whole } from '../../standins/src/chance.js';
import { fillPlace } from '../../server/src/keeping/index.js';
import { writeManifests } from '../../server/src/proving/index.js';
import {
  askAdopt,
  askCheck,
  beginMend,
  carryOutAll,
  findingsOf,
  planMend,
  runAdoption,
  runCheck,
  treeOf,
} from '../../server/src/tending/index.js';
import { makeCard, noise, put } from '../../server/src/testing/cards.js';
import { bring, fileNow, never, openHouse, type TestHouse } from '../../server/src/testing/house.js';
import { compareAll, tool } from '../../server/src/testing/tools.js';

/*
 * A drive that is made by a script, with known faults: each kind of finding planted so many times. All of them must be
 * found, and none invented. What stands there is counted by `find` and `du`, copies are compared by `cmp`, `xxhsum -c`
 * and `rsync -n -c`. TALLY_PLANTED makes the drive larger than the one that every test run can afford.
 */
const FILES = Number(process.env['TALLY_PLANTED'] ?? 240);
const EACH = 3;
const PER_FOLDER = 40;

let test: TestHouse;
beforeAll(async () => {
  test = await openHouse({}, [{ id: 'box', kind: 'archive', device: 'a box elsewhere' }]);
});
afterAll(() => test.end());

const shared = (path: string) => join(test.shared, path);
const second = (path: string) => join(test.second, path);
const roll = chance(18);

/** Days of folders as somebody files them by hand. */
const dayOf = (n: number) => new Date(Date.UTC(2015, 0, 1 + n * 3)).toISOString().slice(0, 10);

async function check(place: string) {
  const id = await askCheck(test.house, place, { how: 'size and time', names: true, strict: false }, 'test');
  await runCheck(test.house, id, never);
  const all: { kind: string; path: string; files: number; id: number }[] = [];
  for (let after = 0; ;) {
    const { findings, next } = await findingsOf(test.house, place, { after, limit: 500 });
    all.push(...findings);
    if (next === null) return all;
    after = next;
  }
}

/** Files by kind of finding. */
const counted = (found: readonly { kind: string; files: number }[]) => {
  const counts: Record<string, number> = {};
  for (const { kind, files } of found) counts[kind] = (counts[kind] ?? 0) + files;
  return counts;
};

const adopted: string[] = [];

async function fillAll() {
  for (const place of ['second', 'box', 'shared']) await fillPlace(test.house, place, never, false);
  await carryOutAll(test.house, never);
  await writeManifests(test.house);
}

describe('a drive with planted faults', () => {
  it('is adopted, and stands as it should', async () => {
    for (let n = 0; n < FILES; n++) {
      const day = dayOf(Math.floor(n / PER_FOLDER));
      const path = `old/${day.slice(0, 4)}/${day} walk/IB_${String((n % PER_FOLDER) + 1).padStart(3, '0')}.jpg`;
      await put(shared(path), noise(300 + (n % 977), n + 1), new Date(`${day}T10:00:${String(n % 60).padStart(2, '0')}Z`));
      adopted.push(path);
    }
    expect(counted(await check('shared'))).toEqual({ stray: FILES });
    const folders = [...new Set(adopted.map((path) => dirname(path)))];
    const ask = folders.map((folder) => ({
      folder,
      contributorId: test.slip.contributorId,
      assignmentId: null,
      title: `Walk of ${folder.slice(9, 19)}`,
      day: null,
    }));
    await runAdoption(test.house, await askAdopt(test.house, 'shared', { folders: ask }, 'test'), never);
    await fillAll();
    expect(counted(await check('shared'))).toEqual({});
    expect(counted(await check('second'))).toEqual({});
  });

  it('and the tree counts what find and du count', async () => {
    const { folder } = await treeOf(test.house, 'shared', { folder: 'old', after: '', limit: 10 });
    const files = tool('find', shared('old'), '-type', 'f', '-name', '*.jpg', '-printf', '%s\\n').trim().split('\n').map(Number);
    expect([folder!.files, folder!.bytes]).toEqual([files.length, files.reduce((sum, bytes) => sum + bytes, 0)]);
  });

  it('each kind is found as often as it was planted, and nothing else', async () => {
    // Filed under the rule: what is renamed, corrected or parted afterwards.
    const card = await makeCard(
      join(test.folder, 'card'),
      Object.fromEntries(
        Array.from({ length: EACH * 4 }, (_, n) => n).flatMap((n): [string, number][] => [
          [`DCIM/100TEST/P_${n + 1}.JPG`, 5000 + n],
          [`DCIM/100TEST/P_${n + 1}.DNG`, 9000 + n],
        ]),
      ),
      77,
    );
    const intake = await bring(test, card);
    await fileNow(test.house, intake);
    await fillAll();
    const rows = await test.house.db.query<{ id: number; path: string; kind: string; item: number }[]>(
      `select f.id, concat_ws('/', f.folder, f.name) as path, i.kind, i.id as item from filed_item f join item i on i.id = f.item_id where f.intake_id = $1 order by f.name`,
      [intake],
    );
    const photos = rows.filter(({ kind }) => kind === 'photo');
    const raws = rows.filter(({ kind }) => kind === 'raw');
    const old = [...adopted].sort(() => roll() - 0.5);
    const some = () => old.splice(0, EACH);

    const missing = some();
    for (const path of missing) await rm(shared(path));
    const spoilt = some();
    for (const [index, path] of spoilt.entries())
      if (index % 2) await writeFile(shared(path), 'longer than it was, or shorter, and surely another file'.repeat(40));
      else {
        // The same size: only the bytes tell, once the time says that somebody was there.
        await writeFile(shared(path), noise(statSync(shared(path)).size, 999_999));
        await utimes(shared(path), new Date('2025-05-05'), new Date('2025-05-05'));
      }
    for (const path of some())
      await put(
        shared(join(dirname(path), `brought ${whole(roll, 1, 1e6)}.jpg`)),
        noise(777, whole(roll, 1, 1e6)),
        new Date('2020-01-01'),
      );
    for (const path of some())
      await put(shared(join('twins', path.replaceAll('/', ' '))), readFileSync(shared(path)), new Date('2020-01-01'));
    for (let n = 0; n < EACH; n++) {
      await put(shared(`odd/what${n}?.jpg`), noise(50 + n, n + 5), new Date('2020-01-01'));
      await put(shared(`odd/${'deep/'.repeat(50)}long${n}.jpg`), noise(60 + n, n + 15), new Date('2020-01-01'));
      await put(shared(`odd/Case${n}.jpg`), noise(70 + n, n + 25), new Date('2020-01-01'));
      await put(shared(`odd/case${n}.JPG`), noise(80 + n, n + 35), new Date('2020-01-01'));
      await put(shared(`odd/lone${n}.xmp`), '<x/>', new Date('2020-01-01'));
      await put(shared(`odd/~$letter${n}.docx`), 'lock', new Date('2020-01-01'));
      await symlink('/etc/passwd', shared(`odd/link${n}.jpg`));
      await mkdir(shared(`odd/nothing${n}/deeper`), { recursive: true });
    }
    // On the place that leads, the log follows; elsewhere it is a finding.
    const movedElsewhere = some();
    for (const path of movedElsewhere) {
      await mkdir(join(test.second, 'elsewhere'), { recursive: true });
      await rename(second(path), second(`elsewhere/${path.replaceAll('/', ' ')}`));
    }
    const alone = some();
    await test.house.db.query(
      `delete from copy c using filed_item f where f.id = c.filed_item_id and c.place_id <> 'shared' and concat_ws('/', f.folder, f.name) = any($1::text[])`,
      [alone],
    );
    for (const { path } of photos.slice(0, EACH)) await rename(shared(path), shared(path.replace(/20260418_IB_/, 'best of ')));
    for (const { item } of [...photos.slice(EACH, 2 * EACH), ...raws.slice(EACH, 2 * EACH)])
      await test.house.db.query(`update item set captured_local = '2026-04-12T09:00:00' where id = $1`, [item]);
    for (const { path } of raws.slice(2 * EACH, 3 * EACH)) {
      await mkdir(shared(`${dirname(path)}/RAW`), { recursive: true });
      await rename(shared(path), shared(join(dirname(path), 'RAW', path.slice(path.lastIndexOf('/') + 1))));
    }

    // The first look follows what was moved by hand, the second one judges the names it has now.
    await check('shared');
    await carryOutAll(test.house, never);
    expect(counted(await check('shared'))).toEqual({
      ...{ missing: EACH, changed: EACH, 'only here': EACH, stray: EACH + EACH * 4, twin: EACH, illegal: EACH, 'too long': EACH },
      ...{ 'case apart': EACH, 'left alone': EACH, leftover: EACH, 'empty folder': EACH, odd: EACH },
      ...{ misnamed: EACH, 'wrong date': 2 * EACH, parted: EACH },
    });
    expect(counted(await check('second'))).toMatchObject({ moved: EACH });
  }, 300_000);

  it('every mend that follows is done, and then copies are the same in every place', async () => {
    for (const place of ['shared', 'second']) {
      const ids = (await check(place)).filter(({ kind }) => kind !== 'stray' && kind !== 'odd').map(({ id }) => id);
      const ask = { kind: 'findings' as const, ids };
      const plan = await planMend(test.house, ask);
      expect(plan.faults).toEqual([]);
      expect((await beginMend(test.house, ask, plan.seal, 'test')).outcome).toBe('begun');
      await carryOutAll(test.house, never);
      await fillAll();
    }
    // What was adopted without a rule of ours keeps its names; strays, links and folders too deep are a person's to look at.
    const left = counted(await check('shared'));
    expect(Object.keys(left).sort()).toEqual(['odd', 'stray', 'too long']);
    expect(counted(await check('second'))).toEqual({});
    const filed = await test.house.db.query<{ path: string }[]>(
      `select concat_ws('/', nullif(f.folder, ''), f.name) as path from filed_item f join copy c on c.filed_item_id = f.id and c.place_id = 'second' and c.state = 'tallied' order by 1`,
    );
    compareAll(filed.map(({ path }) => [shared(path), second(path)]));
    for (const root of [test.shared, test.second])
      for (const folder of new Set(filed.map(({ path }) => dirname(path)))) {
        if (!readdirSync(join(root, folder)).includes('checksums.xxh128')) throw new Error(`${folder} has no list`);
        tool('sh', '-c', 'cd "$0" && xxhsum -c --quiet checksums.xxh128', join(root, folder));
      }
    const differing = tool(
      'rsync',
      '-n',
      '-c',
      '-r',
      '--out-format=%n',
      '--include=*/',
      '--include=*.jpg',
      '--exclude=*',
      `${shared('old')}/`,
      `${second('old')}/`,
    );
    const onlyShared = new Set(filed.map(({ path }) => path));
    expect(differing.split('\n').filter((name) => name.endsWith('.jpg') && onlyShared.has(`old/${name}`))).toEqual([]);
  }, 300_000);
});
