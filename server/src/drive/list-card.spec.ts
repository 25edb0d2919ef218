import { describe, expect, it } from '@jest/globals';
import { mkdir, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { scratch } from '../testing/scratch.js';
import { tool } from '../testing/tools.js';
import { joinBytes, listCard } from './list-card.js';

const folder = scratch();

describe('a card as it is', () => {
  it('lists all folders, not only the first, in order of their bytes', async () => {
    const card = join(folder, 'plain');
    for (const path of ['DCIM/100A', 'DCIM/101A', 'PRIVATE/CLIPS/SUB', 'EMPTY'])
      await mkdir(join(card, path), { recursive: true });
    for (const path of ['DCIM/101A/2.JPG', 'DCIM/100A/1.JPG', 'PRIVATE/CLIPS/SUB/C.XML', 'root.txt'])
      await writeFile(join(card, path), path);
    const entries = await listCard(card);
    expect(entries.map((entry) => [entry.path, entry.bytes, entry.problem])).toEqual([
      ['DCIM/100A/1.JPG', 15, null],
      ['DCIM/101A/2.JPG', 15, null],
      ['PRIVATE/CLIPS/SUB/C.XML', 23, null],
      ['root.txt', 8, null],
    ]);
  });

  it('equals what find lists, hostile names included', async () => {
    const card = join(folder, 'hostile');
    await mkdir(card);
    const names = [
      'new\nline.jpg',
      'quote"\'.jpg',
      '-rf',
      'tab\t.jpg',
      'emoji📷.jpg',
      `${'x'.repeat(251)}.jpg`,
      '\u202egpj.exe',
      ' lead',
      'back\\slash.jpg',
    ];
    for (const name of names) await writeFile(join(card, name), 'x');
    const invalid = joinBytes(card, Buffer.from([0x61, 0xff, 0xfe, 0x2e, 0x6a, 0x70, 0x67]));
    await writeFile(invalid, 'x');
    const entries = await listCard(card);
    const found = tool('find', card, '-type', 'f', '-printf', '%s\\n').trim().split('\n');
    expect(entries).toHaveLength(found.length);
    expect(entries.map((entry) => entry.path)).toEqual(expect.arrayContaining(names));
    const odd = entries.find((entry) => entry.path.includes('\uFFFD'))!;
    expect(odd.pathBytes.includes(0xff)).toBe(true);
  });

  it('follows no links, so that a loop cannot trap it, and names what is no file', async () => {
    const card = join(folder, 'links');
    await mkdir(join(card, 'DCIM'), { recursive: true });
    await writeFile(join(card, 'DCIM/1.JPG'), 'x');
    await symlink('..', join(card, 'DCIM/loop'));
    await symlink('/etc/passwd', join(card, 'DCIM/2.JPG'));
    tool('mkfifo', join(card, 'DCIM/pipe.mp4'));
    const entries = await listCard(card);
    expect(entries.map(({ path, problem }) => [path, problem])).toEqual([
      ['DCIM/1.JPG', null],
      ['DCIM/2.JPG', 'a symbolic link: not followed, not filed'],
      ['DCIM/loop', 'a symbolic link: not followed, not filed'],
      ['DCIM/pipe.mp4', 'not a regular file: not filed'],
    ]);
  });

  it('an empty card is an empty list; a missing one is an error', async () => {
    await mkdir(join(folder, 'empty'));
    expect(await listCard(join(folder, 'empty'))).toEqual([]);
    await expect(listCard(join(folder, 'nowhere'))).rejects.toThrow('ENOENT');
  });
});
