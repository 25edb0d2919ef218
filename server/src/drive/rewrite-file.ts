import { lstat, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Edit } from '@tally/core/fields';
import { type Change, copyFile, SourceError } from './copy-file.js';
import type { Files } from './files.js';
import { codeOf } from './list-card.js';
import type { Abilities } from './place.js';
import { proveFile, type ProofMethod } from './prove-file.js';

/** A file of ours as it must be before it is rewritten. */
export interface OwnFile {
  readonly path: string;
  readonly bytes: number;
  readonly modifiedAt: Date;
  /** XXH128 of it as it stands. */
  readonly hash: Buffer;
  /** XXH128 of the bytes that came from the card. */
  readonly original: Buffer;
}

/** What is put into it instead of what is in it; `null` edits: it becomes what it was on the card. */
export interface Rewriting {
  /** Of the file as it stands. */
  readonly edit: Edit;
  /** What is inside it then, and how that comes out. */
  readonly inside: { readonly edit: Edit; readonly undo: Edit } | null;
}

export interface Rewritten {
  readonly temporary: string;
  readonly bytes: number;
  readonly hash: Buffer;
  readonly quickHash: Buffer;
  readonly method: ProofMethod;
  /** The file that was read, so that no other one is replaced. */
  readonly read: Identity;
}

type Identity = Readonly<Record<'ino' | 'dev' | 'size' | 'mtimeMs', number>>;

/** The file is not what it must be: somebody else changed it, or it is gone. */
export class NotOurs extends Error {}

/**
 * Writes a file of ours anew beside it, under a temporary name: read once and compared with what it must be, flushed, read
 * back past the page cache, and compared with what was once read from the card. The file itself is not touched.
 * @param plan told the file's first 4 MiB. @throws NotOurs, the system's error, or whatever the plan throws; then nothing
 * is left behind.
 */
export async function rewriteFile(
  file: OwnFile,
  temporary: string,
  plan: (head: Uint8Array) => Rewriting,
  { direct, files, signal }: Pick<Abilities, 'direct'> & { files: Files; signal: AbortSignal },
): Promise<Rewritten> {
  await rm(temporary, { force: true });
  const read = await identityOf(file.path);
  let rewriting: Rewriting | null = null;
  const change: Change = (head) => {
    rewriting = plan(head);
    return rewriting.edit;
  };
  try {
    const source = { path: Buffer.from(file.path), bytes: file.bytes, modifiedAt: file.modifiedAt };
    const target = { placeId: 'own', temporary, direct };
    const copied = await copyFile(source, [target], signal, () => undefined, files, change);
    if (!copied.hash.equals(file.hash)) throw new NotOurs('was changed by somebody else');
    const failed = copied.failed.get('own');
    if (failed !== undefined) throw Object.assign(new Error(failed), { code: failed });
    const { inside } = rewriting!;
    const proof = await proveFile(temporary, direct, signal, files, inside);
    if (proof.original?.equals(file.original) !== true)
      throw Object.assign(new Error('what was written is not what was filed'), { code: 'EIO' });
    const { bytes, quickHash } = copied.changed ?? { bytes: file.bytes, quickHash: copied.quickHash };
    return { temporary, bytes, hash: proof.hash, quickHash, method: proof.method, read };
  } catch (error) {
    await rm(temporary, { force: true });
    if (error instanceof SourceError && error.code === 'ECHANGED') throw new NotOurs('was changed by somebody else');
    throw error;
  }
}

async function identityOf(path: string): Promise<Identity> {
  const found = await lstat(path).catch((error: unknown) => {
    throw codeOf(error) === 'ENOENT' ? new NotOurs('is not there any more') : error;
  });
  if (!found.isFile()) throw new NotOurs('is no file any more');
  const { ino, dev, size, mtimeMs } = found;
  return { ino, dev, size, mtimeMs };
}

/**
 * Gives what was written its name, in one step: whoever looks sees the old file or the new one, whole.
 * @throws NotOurs when another file stands there than the one that was read; it stays.
 */
export async function replaceFile(path: string, { temporary, read }: Pick<Rewritten, 'temporary' | 'read'>): Promise<void> {
  const now = await identityOf(path);
  if (now.ino !== read.ino || now.dev !== read.dev || now.size !== read.size || now.mtimeMs !== read.mtimeMs) {
    await rm(temporary, { force: true });
    throw new NotOurs('was changed by somebody else');
  }
  await rename(temporary, path);
}

/** Removes temporary files that a run which died left in a folder. @param beginning of their names. */
export async function removeLeft(folder: string, beginning: string): Promise<void> {
  for (const name of await readdir(folder))
    if (name.startsWith(beginning) && name.endsWith('.part')) await rm(join(folder, name), { force: true });
}
