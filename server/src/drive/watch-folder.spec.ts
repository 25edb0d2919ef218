import { afterEach, describe, expect, it } from '@jest/globals';
import { appendFile, mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { until } from '../testing/house.js';
import { watchFolder, type Ear } from './watch-folder.js';

/** A network file system tells nothing of what another machine writes. */
const deaf: Ear = () => () => Promise.resolve();
const LOOK_MS = 1_200;

let folder: string;
let stop: () => Promise<void> = () => Promise.resolve();
afterEach(async () => {
  await stop();
  await rm(folder, { recursive: true });
});
async function watched(ear?: Ear, lookMs = LOOK_MS): Promise<() => ReadonlySet<string>> {
  folder = await mkdtemp(join(tmpdir(), 'tally-watched-'));
  let told: ReadonlySet<string> = new Set();
  stop = watchFolder(folder, (paths) => (told = paths), lookMs, ear);
  return () => told;
}

describe('a watched folder of which the system tells nothing', () => {
  it('is looked at: what came is found, also in new folders; half files are waited for or passed over', async () => {
    const told = await watched(deaf);
    await mkdir(join(folder, '101OSTRL'));
    await writeFile(join(folder, '101OSTRL', 'A.JPG'), 'whole');
    await writeFile(join(folder, 'B.JPG.part'), 'never');
    const growing = join(folder, 'C.JPG');
    for (let piece = 0; piece < 16; piece++) {
      await appendFile(growing, 'piece');
      await sleep(200);
      expect(told().has('C.JPG')).toBe(false);
    }
    await until(() => Promise.resolve(told().has('101OSTRL/A.JPG')));
    expect([...(await until(() => Promise.resolve(told().size === 2 && told())))].sort()).toEqual(['101OSTRL/A.JPG', 'C.JPG']);
  });

  it('forgets what went: under the same name another file can come', async () => {
    const told = await watched(deaf);
    await writeFile(join(folder, 'A.JPG'), 'one');
    await until(() => Promise.resolve(told().has('A.JPG')));
    await rm(join(folder, 'A.JPG'));
    await writeFile(join(folder, 'B.JPG'), 'two');
    await until(() => Promise.resolve(told().has('B.JPG')));
    expect([...told()]).toEqual(['B.JPG']);
  });
});

it('tells by events what arrives before the first look, and each file once', async () => {
  // Nobody looks for an hour.
  const told = await watched(undefined, 3_600_000);
  await sleep(300);
  await writeFile(join(folder, 'A.JPG'), 'one');
  await until(() => Promise.resolve(told().has('A.JPG')));
  expect([...told()]).toEqual(['A.JPG']);
});
