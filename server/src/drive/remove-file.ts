import { constants } from 'node:fs';
import { lstat, open, realpath, unlink } from 'node:fs/promises';
import { quickHash } from './hashing.js';
import { codeOf, joinBytes } from './list-card.js';

/** What a file must be in the moment before it is removed. */
export interface Expected {
  readonly pathBytes: Buffer;
  readonly bytes: number;
  readonly modifiedAt: Date;
  readonly quickHash: Buffer;
}

/**
 * Removes one file of a card, if it is still what it was: a regular file below the card's root, of this size, time and
 * fast identity. The file that was looked at is the one that goes: its name must lead to it still.
 * @returns why it stays, or null when it is gone.
 */
export async function removeFile(root: string, expected: Expected): Promise<string | null> {
  const path = joinBytes(root, expected.pathBytes);
  try {
    const folder = path.subarray(0, path.lastIndexOf(0x2f));
    const [realRoot, realFolder] = await Promise.all([realpath(root, 'buffer'), realpath(folder, 'buffer')]);
    const inside =
      realFolder.equals(realRoot) ||
      realFolder.subarray(0, realRoot.length + 1).equals(Buffer.concat([realRoot, Buffer.from('/')]));
    if (!inside) return 'its folder leads elsewhere';
    const handle = await open(path, constants.O_RDONLY | constants.O_NOFOLLOW);
    try {
      const stats = await handle.stat();
      if (!stats.isFile()) return 'it is no regular file';
      if (stats.size !== expected.bytes || stats.mtime.getTime() !== expected.modifiedAt.getTime()) {
        return 'it changed since the clearance';
      }
      if (!(await quickHash(handle, stats.size)).equals(expected.quickHash)) return 'its bytes changed';
      const named = await lstat(path);
      if (named.ino !== stats.ino || named.dev !== stats.dev) return 'another file took its name';
      await unlink(path);
      return null;
    } finally {
      await handle.close();
    }
  } catch (error) {
    return `it cannot be removed (${codeOf(error)})`;
  }
}
