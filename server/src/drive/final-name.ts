import { constants } from 'node:fs';
import { link, lstat, mkdir, open, opendir, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { codeOf } from './list-card.js';

/** Name of the temporary file of an intake's item, in the folder of its final name. */
export const temporaryName = (intakeId: number, filedItemId: number): string => `.tally-${intakeId}-${filedItemId}.part`;

const temporaryOf = (intakeId: number) => new RegExp(`^\\.tally-${intakeId}-\\d+\\.part$`);

/**
 * Gives a proven temporary file its final name, by an operation that fails when the name exists.
 * Where hard links exist: link, then unlink. Elsewhere: reserve the name by exclusive creation, then rename over that
 * reservation, which is ours.
 * @returns false when the name exists already; the temporary file then stays.
 */
export async function giveFinalName(temporary: string | Buffer, final: string | Buffer, links: boolean): Promise<boolean> {
  try {
    if (links) {
      await link(temporary, final);
      await rm(temporary);
    } else {
      const reservation = await open(final, constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY, 0o644);
      await reservation.close();
      await rename(temporary, final);
    }
    return true;
  } catch (error) {
    if (codeOf(error) === 'EEXIST') return false;
    throw error;
  }
}

/**
 * Removes what an earlier, interrupted run of the same intake left in a folder: its temporary files, and reservations
 * (empty files under a final name) whose temporary file was still there. Nothing of anybody else.
 * @param finalNames final name of each of the intake's items here that is not empty itself, by temporary name.
 */
export async function clearLeftOvers(
  folder: string,
  intakeId: number,
  finalNames: ReadonlyMap<string, string>,
  links: boolean,
): Promise<void> {
  let names: string[];
  try {
    names = await readdir(folder);
  } catch (error) {
    if (codeOf(error) === 'ENOENT') return;
    throw error;
  }
  const pattern = temporaryOf(intakeId);
  for (const name of names.filter((candidate) => pattern.test(candidate))) {
    const final = finalNames.get(name);
    if (!links && final !== undefined && (await isEmptyFile(join(folder, final)))) await rm(join(folder, final));
    await rm(join(folder, name), { force: true });
  }
}

export async function isEmptyFile(path: string | Buffer): Promise<boolean> {
  try {
    const stats = await lstat(path);
    return stats.isFile() && stats.size === 0;
  } catch {
    // Not there, or not to be looked at: not known to be empty.
    return false;
  }
}

/** Bytes of a regular file; null when something else stands there. @throws the system's error when it is not there. */
export async function sizeOf(path: string): Promise<number | null> {
  const found = await lstat(path);
  return found.isFile() ? found.size : null;
}

/** Removes a temporary file of ours; that it is not there any more is as good. What cannot be removed is cleared away by the next run. */
export async function removeTemporary(path: string): Promise<void> {
  // A device that is gone says so at every step: the outcome of the copy tells it, not this.
  await rm(path, { force: true }).catch(() => undefined);
}

/** Tells a file that stands at a path from any other, and from itself after it was written to; null: none stands there. */
export async function seenAt(path: string): Promise<string | null> {
  try {
    const { dev, ino, size, mtimeMs, ctimeMs } = await lstat(path);
    return [dev, ino, size, mtimeMs, ctimeMs].join(' ');
  } catch {
    // What cannot be looked at is nothing that anything is said of.
    return null;
  }
}

/** Was a file not written to, nor named, for so long? Its own time is that of what it is a copy of. */
export async function restsFor(path: string, ms: number): Promise<boolean> {
  try {
    return Date.now() - (await lstat(path)).ctimeMs > ms;
  } catch (error) {
    if (codeOf(error) === 'ENOENT') return false;
    throw error;
  }
}

/** Does something stand at this path, whatever it is? */
export async function stands(path: string | Buffer): Promise<boolean> {
  try {
    await lstat(path);
    return true;
  } catch (error) {
    if (['ENOENT', 'ENOTDIR'].includes(codeOf(error))) return false;
    throw error;
  }
}

/**
 * Makes a folder below a root with all its parents, each entry flushed. The root is never made: a drive that went away
 * a moment ago must not get a second, empty root on the disk below it.
 * @throws when one of them is not a folder, or the root is not there.
 */
export async function makeFolder(root: string, folder: string): Promise<void> {
  let above = root;
  for (const part of folder.split('/').filter(Boolean)) {
    const path = join(above, part);
    if (await madeNew(path)) await flushFolder(above);
    above = path;
  }
  await (await opendir(above)).close();
}

async function madeNew(path: string): Promise<boolean> {
  try {
    await mkdir(path);
    return true;
  } catch (error) {
    if (codeOf(error) === 'EEXIST') return false;
    throw error;
  }
}

/** Flushes a folder's entries to the device, where the file system can. */
export async function flushFolder(path: string | Buffer): Promise<void> {
  const handle = await open(path, constants.O_RDONLY | constants.O_DIRECTORY);
  try {
    await handle.sync();
  } catch (error) {
    if (!['EINVAL', 'ENOTSUP', 'EBADF'].includes(codeOf(error))) throw error;
  } finally {
    await handle.close();
  }
}
