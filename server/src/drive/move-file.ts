import { constants } from 'node:fs';
import { lstat, open, readdir, rm, rmdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { type Files, systemFiles } from './files.js';
import { flushFolder, makeFolder, stands } from './final-name.js';
import { codeOf } from './list-card.js';

/**
 * What became of a move. `gone`: what was to move is not there. `taken`: something else has the name. `other`: it is not the file
 * that is meant. `elsewhere`: a folder of either path is a link.
 */
export type Moved = 'moved' | 'gone' | 'taken' | 'other' | 'elsewhere';

/** What tells a file of ours in the moment before it gets another name; null: whatever it is. */
export type IsIt = (path: string) => Promise<boolean>;

export interface MoveOf {
  readonly root: string;
  readonly from: string;
  readonly to: string;
  /** Can the file system make hard links? */
  readonly links: boolean;
  /** The system's files, or a stand-in for a device that fails. */
  readonly files?: Files;
}

/** Folder of a path; '' is the root. */
const above = (path: string) => (dirname(path) === '.' ? '' : dirname(path));

/**
 * What leads out of a place, or about in it, is not followed.
 * @returns the folder, or the first one above it, that is a link; null: none is.
 */
export async function linkAbove(root: string, folder: string): Promise<string | null> {
  let path = '';
  for (const part of folder.split('/').filter(Boolean)) {
    path = path ? `${path}/${part}` : part;
    const found = await lookAt(join(root, path));
    if (!found) return null;
    if (found.isSymbolicLink()) return path;
  }
  return null;
}

const anyElsewhere = async (root: string, from: string, to: string): Promise<boolean> =>
  (await linkAbove(root, above(from))) !== null || (await linkAbove(root, above(to))) !== null;

/**
 * Gives a file another path within a place, by an operation that replaces nothing: link, then unlink; without hard links
 * the name is reserved by exclusive creation, and the file is renamed over that reservation. Safe to be killed at any
 * moment and called again: both names of one file become the new one, an empty reservation is taken. Flushes nothing.
 * @param isIt is what stands there the file that is meant? Asked before it gets its name, and where only the new name stands.
 */
export async function moveFile({ root, from, to, links, files = systemFiles }: MoveOf, isIt: IsIt): Promise<Moved> {
  if (await anyElsewhere(root, from, to)) return 'elsewhere';
  const [old, fresh] = [join(root, from), join(root, to)];
  const here = await lookAt(old);
  const there = await lookAt(fresh);
  if (!here) return there?.isFile() && (await isIt(fresh)) ? 'moved' : 'gone';
  if (!here.isFile()) return 'gone';
  if (!(await isIt(old))) return 'other';
  if (there) {
    const isSameFile = there.ino === here.ino && there.dev === here.dev && here.nlink > 1;
    if (isSameFile) {
      // A run that died between the two names.
      await files.unlink(old);
      return 'moved';
    }
    // A reservation of ours: empty, and the file waits beside it.
    if (links || there.size > 0 || here.size === 0 || !there.isFile()) return 'taken';
    await files.rename(old, fresh);
    return 'moved';
  }
  await makeFolder(root, above(to));
  try {
    if (links) {
      await files.link(old, fresh);
      await files.unlink(old);
    } else {
      await (await open(fresh, constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY, 0o644)).close();
      await files.rename(old, fresh);
    }
  } catch (error) {
    if (codeOf(error) === 'EEXIST') return 'taken';
    if (codeOf(error) === 'ENOENT') return 'gone';
    throw error;
  }
  return 'moved';
}

/**
 * Gives a folder another path with all that is in it. The system replaces no folder that holds anything (POSIX `rename`),
 * and none that is empty is left to it either.
 */
export async function moveFolder({ root, from, to, files = systemFiles }: Omit<MoveOf, 'links'>): Promise<Moved> {
  if (await anyElsewhere(root, from, to)) return 'elsewhere';
  const [old, fresh] = [join(root, from), join(root, to)];
  const here = await lookAt(old);
  if (await stands(fresh)) {
    const there = await lookAt(fresh);
    // By case only, on a system that does not tell: it is the same folder.
    if (!here) return 'moved';
    if (there?.ino !== here.ino || there.dev !== here.dev) return 'taken';
  }
  if (!here?.isDirectory()) return 'gone';
  await makeFolder(root, above(to));
  try {
    await files.rename(old, fresh);
  } catch (error) {
    if (['EEXIST', 'ENOTEMPTY', 'ENOTDIR'].includes(codeOf(error))) return 'taken';
    if (codeOf(error) === 'ENOENT') return 'gone';
    throw error;
  }
  return 'moved';
}

async function lookAt(path: string) {
  return lstat(path).catch((error: unknown) => {
    if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return null;
    throw error;
  });
}

/** Flushes the folders that moves went out of and into, each once. One that went with its last file needs none. */
export async function flushMoved(root: string, moves: readonly { readonly from: string; readonly to: string }[]): Promise<void> {
  const folders = new Set(moves.flatMap(({ from, to }) => [dirname(from), dirname(to)]));
  for (const folder of folders) {
    const path = join(root, folder === '.' ? '' : folder);
    if (await stands(path)) await flushFolder(path);
  }
}

/** Removes a folder in which nothing stands. @returns false when something does, or it is not there. */
async function removeEmpty(root: string, folder: string): Promise<boolean> {
  if (folder === '') return false;
  try {
    await rmdir(join(root, folder));
    return true;
  } catch (error) {
    if (['ENOTEMPTY', 'EEXIST', 'ENOENT', 'ENOTDIR', 'EBUSY'].includes(codeOf(error))) return false;
    throw error;
  }
}

/** Removes folders in which nothing stands, from this one upwards. */
export async function removeEmptyUpwards(root: string, folder: string): Promise<void> {
  for (let path = folder; path && (await removeEmpty(root, path));) path = above(path);
}

/** Names in a folder; none when it is not there. */
export async function namesOf(root: string, folder: string): Promise<string[]> {
  return readdir(join(root, folder)).catch((error: unknown) => {
    if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return [];
    throw error;
  });
}

/** Removes a file of ours beside filed ones. */
export const removeOwn = (root: string, path: string): Promise<void> => rm(join(root, path), { force: true, recursive: true });

/** Size and time of a regular file, the time as `removeFile` compares it; null: none stands there. */
export async function sizeAndTime(path: string): Promise<{ bytes: number; modifiedAt: Date } | null> {
  const found = await lookAt(path);
  return found?.isFile() ? { bytes: found.size, modifiedAt: found.mtime } : null;
}
