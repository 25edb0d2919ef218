import { afterAll, beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { lstat, mkdir, readdir, readFile, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { flakyFiles, type Fault } from '../../../standins/src/flaky-files.js';
import { theIntake } from '../house/index.js';
import { makeCard } from '../testing/cards.js';
import { bring, fileNow, openHouse, type TestHouse } from '../testing/house.js';
import { tool } from '../testing/tools.js';
import { restoreIntake } from './restore.js';

let test: TestHouse;
let faults: readonly Fault[] = [];
let card: string;
let id: number;
let targets = 0;
let target: string;
beforeAll(async () => {
  test = await openHouse({}, [], { open: (path, flags, mode) => flakyFiles(faults).open(path, flags, mode) });
  card = await makeCard(join(test.folder, 'CARD'), { 'DCIM/A/1.JPG': 300_000, 'DCIM/A/2.JPG': 5_000_000, 'DCIM/3.JPG': 10 }, 5);
  id = await bring(test, card);
  await fileNow(test.house, id);
  expect((await theIntake(test.house, id)).state).toBe('tallied');
});
beforeEach(() => {
  faults = [];
  target = join(test.folder, `target${++targets}`);
});
afterAll(() => test.end());

const restore = () => restoreIntake(test.house, id, target, 'wren');
const files = async () => (await readdir(target, { recursive: true, withFileTypes: true })).filter((one) => one.isFile());

describe('restoring goes the way of filing', () => {
  it('byte for byte, with the times of the card, and again it changes nothing', async () => {
    expect(await restore()).toMatchObject({ restored: 3, failed: [] });
    expect(tool('diff', '-r', card, target)).toBe('');
    for (const path of ['DCIM/A/1.JPG', 'DCIM/3.JPG'])
      expect((await lstat(join(target, path))).mtimeMs).toBe((await lstat(join(card, path))).mtimeMs);
    const before = await lstat(join(target, 'DCIM/A/1.JPG'));
    expect(await restore()).toMatchObject({ restored: 3, failed: [] });
    expect((await lstat(join(target, 'DCIM/A/1.JPG'))).ino).toBe(before.ino);
  });

  it('a link where a folder should be is refused: nothing is written outside', async () => {
    const outside = join(test.folder, 'outside');
    await mkdir(outside);
    await mkdir(join(target, 'DCIM'), { recursive: true });
    await symlink(outside, join(target, 'DCIM/A'));
    const { restored, failed } = await restore();
    expect(restored).toBe(1);
    expect(failed).toEqual(
      ['DCIM/A/1.JPG', 'DCIM/A/2.JPG'].map((path) => ({ path, why: 'a link stands where its folder should be' })),
    );
    expect(await readdir(outside)).toEqual([]);
  });

  it('a link under the name of a file is another file, and is not written through', async () => {
    const outside = join(test.folder, 'outside.jpg');
    await writeFile(outside, 'not ours');
    await mkdir(join(target, 'DCIM'), { recursive: true });
    await symlink(outside, join(target, 'DCIM/3.JPG'));
    expect((await restore()).failed).toEqual([{ path: 'DCIM/3.JPG', why: 'another file stands there' }]);
    expect(await readFile(outside, 'utf8')).toBe('not ours');
  });

  it('interrupted in the middle of a file nothing half bears its name; the next one finishes and leaves nothing behind', async () => {
    faults = [{ path: 'target', writeFails: { byte: 1_000_000, code: 'EIO' } }];
    const { restored, failed } = await restore();
    expect([restored, failed]).toEqual([2, [{ path: 'DCIM/A/2.JPG', why: 'cannot be written (EIO)' }]]);
    expect((await files()).map(({ name }) => name).sort()).toEqual(['1.JPG', '3.JPG']);
    // What a kill would have left: a temporary file of ours, and somebody else’s.
    const items = await test.house.db.query<{ id: number }[]>(
      `select id from item where intake_id = $1 and path = 'DCIM/A/2.JPG'`,
      [id],
    );
    await writeFile(join(target, `DCIM/A/.tally-restore-${id}-${items[0]!.id}.part`), 'half');
    await writeFile(join(target, 'DCIM/A/.tally-restore-9999-1.part'), 'not ours');
    faults = [];
    expect(await restore()).toMatchObject({ restored: 3, failed: [] });
    expect((await files()).map(({ name }) => name).sort()).toEqual(['.tally-restore-9999-1.part', '1.JPG', '2.JPG', '3.JPG']);
  });

  it('what the device gives back changed is not given the name', async () => {
    faults = [{ path: 'target', flipsBitAt: 200_000 }];
    const { failed } = await restore();
    expect(failed.map(({ path, why }) => [path, why])).toEqual(
      ['DCIM/A/1.JPG', 'DCIM/A/2.JPG'].map((path) => [path, 'what was written is not what was filed']),
    );
    expect((await files()).map(({ name }) => name)).toEqual(['3.JPG']);
  });
});
