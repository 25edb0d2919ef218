import { expect, it } from '@jest/globals';
import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { scratch } from '../testing/scratch.js';
import { readOwn, writeOwn } from './own-file.js';

const root = scratch();

it('a file of ours replaces its own only, and what a killed writer left half is removed, nothing of others', async () => {
  const folder = join(root, 'beside');
  await mkdir(folder);
  for (const name of ['.tally-own-0000.part', '.tally-7-1.part', 'stranger.part']) await writeFile(join(folder, name), 'half');
  expect(await writeOwn(folder, 'list.txt', 'first', false, true)).toBe(true);
  expect(await writeOwn(folder, 'list.txt', 'second', false, true)).toBe(false);
  expect(await readOwn(folder, 'list.txt')).toBe('first');
  expect(await writeOwn(folder, 'list.txt', 'third', true, true)).toBe(true);
  expect(await readOwn(folder, 'list.txt')).toBe('third');
  expect((await readdir(folder)).sort()).toEqual(['.tally-7-1.part', 'list.txt', 'stranger.part']);
});
