import { describe, expect, it } from '@jest/globals';
import { mkdir, readdir, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { scratch } from '../testing/scratch.js';
import { clearLeftOvers, giveFinalName, makeFolder, stands, temporaryName } from './final-name.js';

const folder = scratch();

describe.each([
  ['where hard links exist', true],
  ['where they do not (exFAT, many shares)', false],
])('the final name, %s', (_where, links) => {
  const at = (name: string) => join(folder, `${links}-${name}`);

  it('is given to a proven file', async () => {
    await writeFile(at('t1'), 'whole');
    expect(await giveFinalName(at('t1'), at('final.jpg'), links)).toBe(true);
    expect(await readFile(at('final.jpg'), 'utf8')).toBe('whole');
    expect(await stands(at('t1'))).toBe(false);
  });

  it('is never taken from another file', async () => {
    await writeFile(at('t2'), 'new');
    await writeFile(at('taken.jpg'), 'precious');
    expect(await giveFinalName(at('t2'), at('taken.jpg'), links)).toBe(false);
    expect(await readFile(at('taken.jpg'), 'utf8')).toBe('precious');
    expect(await stands(at('t2'))).toBe(true);
  });

  it('of a hundred at once goes to exactly one', async () => {
    const names = Array.from({ length: 100 }, (_, i) => at(`race-${i}`));
    await Promise.all(names.map((name) => writeFile(name, name)));
    const won = await Promise.all(names.map((name) => giveFinalName(name, at('prize.jpg'), links)));
    expect(won.filter(Boolean)).toHaveLength(1);
    expect(await readFile(at('prize.jpg'), 'utf8')).toBe(names[won.indexOf(true)]);
  });
});

describe('what an interrupted run left behind', () => {
  it('is removed by the intake that owns it only', async () => {
    const place = join(folder, 'left');
    await mkdir(place);
    for (const name of [temporaryName(7, 1), temporaryName(7, 2), temporaryName(8, 1), 'stranger.part', '20260418_IB_0001.jpg'])
      await writeFile(join(place, name), 'x');
    await clearLeftOvers(place, 7, new Map(), true);
    expect((await readdir(place)).sort()).toEqual([temporaryName(8, 1), '20260418_IB_0001.jpg', 'stranger.part'].sort());
  });

  it('an empty reservation goes with its temporary file; a whole file stays', async () => {
    const place = join(folder, 'reserved');
    await mkdir(place);
    await writeFile(join(place, temporaryName(7, 1)), 'bytes');
    await writeFile(join(place, 'reserved.jpg'), '');
    await writeFile(join(place, temporaryName(7, 2)), 'bytes');
    await writeFile(join(place, 'whole.jpg'), 'whole');
    const finals = new Map([
      [temporaryName(7, 1), 'reserved.jpg'],
      [temporaryName(7, 2), 'whole.jpg'],
    ]);
    await clearLeftOvers(place, 7, finals, false);
    expect(await readdir(place)).toEqual(['whole.jpg']);
  });

  it('a folder that is not there is no trouble', async () => {
    await expect(clearLeftOvers(join(folder, 'nowhere'), 7, new Map(), true)).resolves.toBeUndefined();
  });
});

it('folders are made with their parents; a file in the way is an error', async () => {
  await makeFolder(folder, 'a/b/c');
  await makeFolder(folder, 'a/b/c');
  expect((await stat(join(folder, 'a/b/c'))).isDirectory()).toBe(true);
  await writeFile(join(folder, 'a/file'), '');
  await expect(makeFolder(folder, 'a/file/x')).rejects.toThrow('ENOTDIR');
  await expect(makeFolder(folder, 'a/file')).rejects.toThrow('ENOTDIR');
});

it('the root of a drive that is away is never made', async () => {
  await expect(makeFolder(join(folder, 'gone'), 'a/b')).rejects.toThrow('ENOENT');
  await expect(stat(join(folder, 'gone'))).rejects.toThrow('ENOENT');
});
