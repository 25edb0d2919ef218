import { constants } from 'node:fs';
import { applyTo, type Edit, type Piece, reach } from '@tally/core/fields';
import { CHUNK_BYTES, withChunk } from './aligned.js';
import { systemFiles, type Files, type OpenFile } from './files.js';
import type { IHasher } from 'hash-wasm';
import { digestOf, withHasher } from './hashing.js';
import { codeOf } from './list-card.js';
import type { Abilities } from './place.js';

/** How a copy was read back: from the device, or possibly from the system's memory of it. */
export type ProofMethod =
  | 'read back past the page cache'
  | 'read back through the page cache'
  | 'read back over the network; its server may have answered from memory';

/** How a proof at a place is told: past this machine's memory is not yet past that of another one. */
export const toldAt = ({ remote }: Pick<Abilities, 'remote'>, method: ProofMethod): ProofMethod =>
  remote ? 'read back over the network; its server may have answered from memory' : method;

/** What was put into a copy, where that is known, and how it comes out again. */
export interface PutIn {
  readonly edit?: Edit;
  readonly undo: Edit;
}

export interface Proof {
  /** XXH128 of the file as it stands. */
  readonly hash: Buffer;
  /** XXH128 of the file without what was put into it; the same hash where nothing was; null: something else stands there. */
  readonly original: Buffer | null;
  readonly method: ProofMethod;
}

/**
 * Reads a copy back and hashes it by itself, past the page cache where the file system allows it. Where something was put
 * into it, one pass hashes twice: the file as it stands, and without that.
 * @throws the system's error when it cannot be read.
 */
export async function proveFile(
  path: string | Buffer,
  direct: boolean,
  signal: AbortSignal,
  files: Files = systemFiles,
  putIn: PutIn | null = null,
): Promise<Proof> {
  const { handle, isDirect } = await openForProof(path, direct, files);
  const method = isDirect ? 'read back past the page cache' : 'read back through the page cache';
  try {
    return await withHasher(async (hasher) => {
      const original = putIn && (await withHasher((other) => hashBoth(handle, isDirect, signal, hasher, other, putIn)));
      if (!putIn) await readAll(handle, isDirect, signal, (part) => void hasher.update(part));
      const hash = digestOf(hasher);
      return { hash, original: putIn ? original : hash, method };
    });
  } finally {
    await handle.close();
  }
}

/** The same through the page cache, for files that are looked at later. @throws the system's error. */
export const hashBothWays = (path: string, undo: Edit | null): Promise<Proof> =>
  proveFile(path, false, new AbortController().signal, systemFiles, undo && { undo });

/** @returns the hash without what was put in; null when what stands there is not that. */
async function hashBoth(
  handle: OpenFile,
  isDirect: boolean,
  signal: AbortSignal,
  hasher: IHasher,
  other: IHasher,
  { edit, undo }: PutIn,
): Promise<Buffer | null> {
  const found = { putIn: true };
  await readAll(handle, isDirect, signal, (part, position) => {
    hasher.update(part);
    if (position > 0) {
      other.update(part);
      return;
    }
    const end = reach(undo);
    const isMeant = ({ at, cut }: Piece, i: number) => Buffer.compare(part.subarray(at, at + cut), edit![i]!.put) === 0;
    found.putIn = end <= part.length && (!edit || undo.every(isMeant));
    if (!found.putIn) return;
    other.update(applyTo(part.subarray(0, end), undo));
    other.update(part.subarray(end));
  });
  return found.putIn ? digestOf(other) : null;
}

async function readAll(
  handle: OpenFile,
  isDirect: boolean,
  signal: AbortSignal,
  take: (part: Buffer, position: number) => void,
): Promise<void> {
  await withChunk(async (chunk) => {
    for (let [position, length] = [0, 0]; ;) {
      signal.throwIfAborted();
      const { bytesRead } = await handle.read(chunk, length, CHUNK_BYTES - length, position + length);
      length += bytesRead;
      // With O_DIRECT only the last read may be short; another one at an unaligned offset would be refused.
      const isLast = length < CHUNK_BYTES && (isDirect || bytesRead === 0);
      if (length < CHUNK_BYTES && !isLast) continue;
      take(chunk.subarray(0, length), position);
      if (isLast) return;
      position += length;
      length = 0;
    }
  });
}

async function openForProof(
  path: string | Buffer,
  direct: boolean,
  files: Files,
): Promise<{ handle: OpenFile; isDirect: boolean }> {
  if (direct) {
    try {
      return { handle: await files.open(path, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_DIRECT), isDirect: true };
    } catch (error) {
      if (codeOf(error) !== 'EINVAL') throw error;
    }
  }
  return { handle: await files.open(path, constants.O_RDONLY | constants.O_NOFOLLOW), isDirect: false };
}
