import { constants } from 'node:fs';
import { lstat, open, readFile, rename, rm } from 'node:fs/promises';
import type { Files } from './files.js';
import { giveFinalName } from './final-name.js';
import { digestOf, withHasher } from './hashing.js';
import { codeOf } from './list-card.js';
import type { Abilities } from './place.js';
import { proveFile } from './prove-file.js';

/** More than this is no sidecar. In bytes. */
const MOST_BYTES = 8_000_000;

/** What stands under a sidecar's name; null: nothing. A word for why it cannot be read. @throws the system's error. */
export async function readSidecar(path: string): Promise<Buffer | string | null> {
  try {
    const found = await lstat(path);
    if (!found.isFile()) return 'something that is no file stands under the name of its sidecar';
    if (found.size > MOST_BYTES) return 'its sidecar is too large to be one';
    return await readFile(path);
  } catch (error) {
    if (codeOf(error) === 'ENOENT') return null;
    throw error;
  }
}

/** XXH128 of some bytes. */
export const hashOf = (bytes: Uint8Array): Promise<Buffer> =>
  withHasher((hasher) => {
    hasher.update(bytes);
    return Promise.resolve(digestOf(hasher));
  });

/** Writes a sidecar under a temporary name, flushed, read back and compared. @throws the system's error; nothing is left. */
export async function writeSidecar(temporary: string, bytes: Uint8Array, files: Files, signal: AbortSignal): Promise<Buffer> {
  await rm(temporary, { force: true });
  try {
    const handle = await files.open(temporary, constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY, 0o644);
    try {
      for (let done = 0; done < bytes.length;) {
        const { bytesWritten } = await handle.write(bytes, done, bytes.length - done, done);
        done += bytesWritten;
      }
      await handle.sync();
    } finally {
      await handle.close();
    }
    const [wanted, { hash }] = [await hashOf(bytes), await proveFile(temporary, false, signal, files)];
    if (!hash.equals(wanted)) throw Object.assign(new Error('a sidecar differs from what was written'), { code: 'EIO' });
    return hash;
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  }
}

/**
 * Gives a sidecar its name. @param before what stood there when it was put together; null: nothing.
 * @returns false when something else stands there by now; it stays.
 */
export async function nameSidecar(
  temporary: string,
  path: string,
  before: Buffer | null,
  { links }: Pick<Abilities, 'links'>,
): Promise<boolean> {
  try {
    if (before === null) return await giveFinalName(temporary, path, links);
    const now = await open(path, constants.O_RDONLY | constants.O_NOFOLLOW).then(async (handle) => {
      try {
        return await handle.readFile();
      } finally {
        await handle.close();
      }
    });
    if (!now.equals(before)) return false;
    await rename(temporary, path);
    return true;
  } finally {
    await rm(temporary, { force: true });
  }
}

/** Does a sidecar stand as we wrote it, or none any more? @param hash XXH128 of what we wrote. */
export async function isOurSidecar(path: string, hash: Buffer | null): Promise<boolean> {
  const there = await readSidecar(path);
  return there === null || (typeof there !== 'string' && hash !== null && (await hashOf(there)).equals(hash));
}

/** Removes a sidecar that is what we wrote. @param hash XXH128 of that. @returns false when it is something else; it stays. */
export async function removeSidecar(path: string, hash: Buffer | null): Promise<boolean> {
  if (!(await isOurSidecar(path, hash))) return false;
  await rm(path, { force: true });
  return true;
}
