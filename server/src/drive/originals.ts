import { constants, copyFile, mkdir, open } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { Readable } from 'node:stream';
import { codeOf } from './list-card.js';

/** A file of a place as it goes out. */
export interface Original {
  readonly size: number;
  readonly mtime: Date;
  readonly bytes: Readable;
}

const CHUNK = 1 << 20;

/** Opens a file of a place to be read from its beginning. @returns null when it is not there any more, or cannot be opened. */
export async function openOriginal(path: string): Promise<Original | null> {
  const handle = await open(path).catch(() => null); // Gone since it was looked for: whoever asks says so.
  if (!handle) return null;
  const { size, mtime } = await handle.stat();
  return { size, mtime, bytes: handle.createReadStream({ highWaterMark: CHUNK }) };
}

/** Copies a file of a place to where nothing stands. @returns why it did not, in words; null: it did. */
export async function copyOut(from: string, to: string): Promise<string | null> {
  try {
    await mkdir(dirname(to), { recursive: true });
    await copyFile(from, to, constants.COPYFILE_EXCL);
    return null;
  } catch (error) {
    return codeOf(error) === 'EEXIST'
      ? 'something of this name stands there already.'
      : `it cannot be copied (${codeOf(error)}).`;
  }
}
