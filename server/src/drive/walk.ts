import { access, mkdir, readdir, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { randomBytes } from 'node:crypto';
import { join, relative } from 'node:path';
import { folderOf } from '@tally/core/rule';
import workerpool from 'workerpool';
import { builtFile } from '../aside/built.js';
import type { ListedFolder } from './walk-thread.js';

export type { ListedFolder } from './walk-thread.js';

/** Looks at the folders of places in a thread of its own. Close it. */
export class Walker {
  private readonly pool = workerpool.pool(builtFile('./walk-thread.js', import.meta.url), {
    workerType: 'thread',
    maxWorkers: 1,
  });

  list(root: string, paths: readonly string[]): Promise<ListedFolder[]> {
    return this.pool.exec('listFolders', [root, paths]);
  }

  changed(root: string, paths: readonly string[]): Promise<Float64Array> {
    return this.pool.exec('changedFolders', [root, paths]);
  }

  async close(): Promise<void> {
    await this.pool.terminate(true);
  }
}

const LONG_AGO = new Date('2001-01-01T00:00:00Z');

/**
 * Does the time of a folder follow what comes and goes in it? Most file systems do that (POSIX: a new entry marks the
 * folder's time for update); some drivers of exFAT do not. Tried once; leaves nothing behind.
 */
export async function followsEntries(root: string): Promise<boolean> {
  const folder = join(root, `.tally-probe-${randomBytes(6).toString('hex')}`);
  try {
    await mkdir(folder);
    await utimes(folder, LONG_AGO, LONG_AGO);
    await writeFile(join(folder, 'x'), '');
    return (await stat(folder)).mtimeMs > LONG_AGO.getTime() + 86_400_000;
  } catch {
    // It cannot be tried, on a place that is full or read-only: every folder is listed then.
    return false;
  } finally {
    await rm(folder, { recursive: true, force: true }).catch(() => undefined); // A place that is gone took it along.
  }
}

/** What lies in a folder at any depth: its files, and the folders with the deepest first, itself last. Links are neither.
 * One that is gone leaves the folder it stood in. */
export async function everythingBelow(root: string, folder: string): Promise<[files: string[], folders: string[]]> {
  if (!(await isThere(join(root, folder)))) return [[], [folderOf(folder)]];
  const entries = await readdir(join(root, folder), { recursive: true, withFileTypes: true });
  const pathOf = (entry: (typeof entries)[number]) => relative(root, join(entry.parentPath, entry.name));
  const folders = entries.filter((entry) => entry.isDirectory()).map(pathOf);
  return [entries.filter((entry) => entry.isFile()).map(pathOf), [...folders.sort().reverse(), folder]];
}

/** Is something there? */
export const isThere = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  );
