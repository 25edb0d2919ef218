import { END_BYTES, fastIdentityParts } from '@tally/core/copies';
import { createXXHash128, type IHasher } from 'hash-wasm';
import { constants } from 'node:fs';
import { type Files, type OpenFile, systemFiles } from './files.js';

type Readable = Pick<OpenFile, 'read'>;

const idle: IHasher[] = [];

/**
 * Lends a streaming XXH128 hasher (xxHash 0.8 specification; equal to `xxh128sum`) and takes it back.
 * Hashers are WebAssembly instances: making one costs more than hashing a small file.
 */
export async function withHasher<T>(use: (hasher: IHasher) => Promise<T>): Promise<T> {
  const hasher = idle.pop() ?? (await createXXHash128());
  hasher.init();
  try {
    return await use(hasher);
  } finally {
    idle.push(hasher);
  }
}

export function digestOf(hasher: IHasher): Buffer {
  return Buffer.from(hasher.digest('binary'));
}

/** XXH128 of a whole file, read through the page cache. @throws the system's error when it cannot be read. */
export async function hashFile(path: string | Buffer, signal?: AbortSignal, files: Files = systemFiles): Promise<Buffer> {
  const handle = await files.open(path, constants.O_RDONLY);
  try {
    const buffer = Buffer.allocUnsafe(1 << 20);
    return await withHasher(async (hasher) => {
      for (let position = 0; ;) {
        signal?.throwIfAborted();
        const { bytesRead } = await handle.read(buffer, 0, buffer.length, position);
        if (bytesRead === 0) return digestOf(hasher);
        hasher.update(buffer.subarray(0, bytesRead));
        position += bytesRead;
      }
    });
  } finally {
    await handle.close();
  }
}

/** Fast identity of a file (XXH128 over both ends), which is read and never followed as a link. @throws the system's error. */
export async function fastIdentityOf(path: string | Buffer, bytes: number, files: Files = systemFiles): Promise<Buffer> {
  const handle = await files.open(path, constants.O_RDONLY | constants.O_NOFOLLOW);
  try {
    return await quickHash(handle, bytes);
  } finally {
    await handle.close();
  }
}

/** The fast identity of an open file: XXH128 over its first and last 64 KiB. Meaningful together with its size only. */
export async function quickHash(handle: Readable, bytes: number): Promise<Buffer> {
  return (await readEnds(handle, bytes, END_BYTES)).quickHash;
}

/** The beginning and the end of a file, read once, and the fast identity that follows from them. */
export interface Ends {
  /** The first `headBytes`, or all there is. */
  readonly head: Buffer;
  /** The last 64 KiB behind the first 64 KiB; empty for a file that is not longer than that. */
  readonly tail: Buffer;
  readonly quickHash: Buffer;
}

/** @param headBytes how much of the beginning is wanted, at least 64 KiB. */
export async function readEnds(handle: Readable, bytes: number, headBytes: number): Promise<Ends> {
  const head = await readAt(handle, 0, Math.min(headBytes, bytes));
  const [from, to] = fastIdentityParts(bytes)[1] ?? [bytes, bytes];
  const length = to - from;
  const tail = from + length <= head.length ? head.subarray(from, from + length) : await readAt(handle, from, length);
  return { head, tail, quickHash: await quickHashOf(head.subarray(0, END_BYTES), bytes > END_BYTES ? tail : null) };
}

export function quickHashOf(head: Uint8Array, tail: Uint8Array | null): Promise<Buffer> {
  return withHasher((hasher) => {
    hasher.update(head);
    if (tail) hasher.update(tail);
    return Promise.resolve(digestOf(hasher));
  });
}

async function readAt(handle: Readable, position: number, length: number): Promise<Buffer> {
  const buffer = Buffer.allocUnsafe(length);
  const { bytesRead } = await handle.read(buffer, 0, length, position);
  return buffer.subarray(0, bytesRead);
}

/** Keeps the ends of a stream as it passes, so that the fast identity needs no second read. */
export class EndsKeeper {
  private head = Buffer.alloc(0);
  private tail = Buffer.alloc(0);

  constructor(private readonly bytes: number) {}

  take(chunk: Buffer, position: number): void {
    if (position < END_BYTES) this.head = Buffer.concat([this.head, chunk.subarray(0, END_BYTES - position)]);
    const from = Math.max(END_BYTES, this.bytes - END_BYTES);
    if (position + chunk.length > from) this.tail = Buffer.concat([this.tail, chunk.subarray(Math.max(0, from - position))]);
  }

  quickHash(): Promise<Buffer> {
    return quickHashOf(this.head, this.bytes > END_BYTES ? this.tail : null);
  }
}
