import { constants } from 'node:fs';
import { applyTo, type Edit, growth, reach } from '@tally/core/fields';
import { BLOCK_BYTES, CHUNK_BYTES, GROWTH_BYTES, padded, withChunk } from './aligned.js';
import { systemFiles, type Files, type OpenFile } from './files.js';
import { digestOf, EndsKeeper, withHasher } from './hashing.js';
import type { IHasher } from 'hash-wasm';
import { codeOf } from './list-card.js';

/** A copy to be made: a temporary path that must not exist yet, and how its file system likes to be written. */
export interface CopyTarget {
  readonly placeId: string;
  readonly temporary: string | Buffer;
  readonly direct: boolean;
}

export interface CopiedFile {
  /** XXH128 of the bytes as they came from the source. */
  readonly hash: Buffer;
  readonly quickHash: Buffer;
  /** Of the copies, where they are not the source to the byte: their size and fast identity; null: they are. */
  readonly changed: { readonly bytes: number; readonly quickHash: Buffer } | null;
  /** Places where writing failed, with the system's code. */
  readonly failed: ReadonlyMap<string, string>;
}

/** The source could not be read, or is not what it was when it was listed. */
export class SourceError extends Error {
  constructor(
    message: string,
    readonly code: string,
  ) {
    super(message);
  }
}

export interface Source {
  readonly path: Buffer;
  readonly bytes: number;
  readonly modifiedAt: Date;
}

/**
 * How the copies of a file differ from it, told from its first 4 MiB (all of a shorter one), which hold all that changes;
 * null: not at all.
 */
export type Change = (head: Uint8Array) => Edit | null;

/** Can a copy be changed like this while it is made? Within its first chunk, and so that the rest stays in step with blocks. */
export const isFeasible = (edit: Edit): boolean =>
  reach(edit) <= CHUNK_BYTES - GROWTH_BYTES && Math.abs(growth(edit)) < GROWTH_BYTES && growth(edit) % BLOCK_BYTES === 0;

/**
 * Reads a source once; hashes and writes the same bytes to every target in parallel, flushed to the device.
 * A target that fails is given up; the others go on. With no targets it only reads and hashes.
 * @throws SourceError when the source cannot be read or changed in the meantime; AbortError when told to stop.
 */
export async function copyFile(
  source: Source,
  targets: readonly CopyTarget[],
  signal: AbortSignal,
  onBytes: (bytes: number) => void,
  files: Files = systemFiles,
  change: Change = () => null,
): Promise<CopiedFile> {
  const input = await openSource(source, files);
  const failed = new Map<string, string>();
  const outputs = new Map<CopyTarget, OpenFile>();
  try {
    for (const target of targets) {
      try {
        outputs.set(target, await files.open(target.temporary, writeFlags(target.direct), 0o644));
      } catch (error) {
        failed.set(target.placeId, codeOf(error));
      }
    }
    const giveUp = async (target: CopyTarget, error: unknown) => {
      failed.set(target.placeId, codeOf(error));
      await outputs
        .get(target)
        ?.close()
        .catch(() => undefined);
      outputs.delete(target);
    };
    const { hash, quickHash, changed } = await pump(source, input, outputs, giveUp, signal, onBytes, change);
    await Promise.all(
      [...outputs].map(async ([target, output]) => {
        try {
          // Written past the page cache it ends with a whole block. Not every file system over a network can cut a file.
          if (target.direct) await output.truncate(changed?.bytes ?? source.bytes);
          await output.utimes(source.modifiedAt, source.modifiedAt);
          await output.sync();
        } catch (error) {
          await giveUp(target, error);
        }
      }),
    );
    return { hash, quickHash, changed, failed };
  } finally {
    await input.close().catch(() => undefined);
    for (const output of outputs.values()) await output.close().catch(() => undefined);
  }
}

const writeFlags = (direct: boolean) =>
  constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY | (direct ? constants.O_DIRECT : 0);

async function openSource(source: Source, files: Files): Promise<OpenFile> {
  try {
    // O_NOFOLLOW and O_NONBLOCK: what was a file when listed may be a link or a pipe by now.
    const handle = await files.open(source.path, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK);
    const stats = await handle.stat();
    if (stats.isFile()) return handle;
    await handle.close();
  } catch (error) {
    throw new SourceError(`cannot be read (${codeOf(error)})`, codeOf(error));
  }
  throw new SourceError('is not a regular file any more', 'ENOTFILE');
}

async function pump(
  source: Source,
  input: OpenFile,
  outputs: ReadonlyMap<CopyTarget, OpenFile>,
  giveUp: (target: CopyTarget, error: unknown) => Promise<void>,
  signal: AbortSignal,
  onBytes: (bytes: number) => void,
  change: Change,
): Promise<Omit<CopiedFile, 'failed'>> {
  const ends = new EndsKeeper(source.bytes);
  let grown = 0;
  let changedEnds: EndsKeeper | null = null;
  return withHasher((hasher) =>
    withChunk(async (chunk) => {
      let position = 0;
      for (;;) {
        signal.throwIfAborted();
        const length = await fill(input, chunk.subarray(0, CHUNK_BYTES), position);
        if (length === 0) {
          // Of nothing, too, it is told what becomes of it: nothing can be put in.
          if (position === 0) change(chunk.subarray(0, 0));
          break;
        }
        if (position + length > source.bytes) break;
        const part = chunk.subarray(0, length);
        ends.take(part, position);
        const edit = position === 0 ? change(part) : null;
        // What the source has and the copies do not is hashed before it goes, all else while it is written.
        const [end, head] = edit ? changeHead(chunk, length, edit, hasher) : [0, 0];
        if (edit) {
          grown = head - end;
          changedEnds = new EndsKeeper(source.bytes + grown);
        }
        // The first chunk has grown, the others only move: all begin and end on blocks as before.
        const [at, filled] = position === 0 ? [0, length + grown] : [position + grown, length];
        changedEnds?.take(chunk.subarray(0, filled), at);
        const writing = [...outputs].map(async ([target, output]) => {
          try {
            await writeAll(output, chunk, target.direct ? padded(filled) : filled, at);
          } catch (error) {
            await giveUp(target, error);
          }
        });
        hasher.update(chunk.subarray(head, filled));
        await Promise.all(writing);
        position += length;
        onBytes(length);
        if (length < CHUNK_BYTES) break;
      }
      const { size } = await input.stat();
      if (position !== source.bytes || size !== source.bytes) {
        throw new SourceError(
          `changed while it was read: ${source.bytes} bytes when listed, ${Math.max(size, position)} now`,
          'ECHANGED',
        );
      }
      const changed = changedEnds && { bytes: source.bytes + grown, quickHash: await changedEnds.quickHash() };
      return { hash: digestOf(hasher), quickHash: await ends.quickHash(), changed };
    }),
  );
}

/**
 * Changes what a chunk begins with, in place, and hashes it as it was.
 * @param length how much of the chunk is filled. @returns how much of it was changed, and how much that is now.
 */
function changeHead(chunk: Buffer, length: number, edit: Edit, hasher: IHasher): [end: number, head: number] {
  const end = reach(edit);
  if (!isFeasible(edit) || end > length) throw new RangeError('such a change is not made while copying');
  const before = new Uint8Array(chunk.subarray(0, end));
  hasher.update(before);
  const head = applyTo(before, edit);
  chunk.copyWithin(head.length, end, length);
  chunk.set(head);
  return [end, head.length];
}

/** After a fault of the device the rest is read in pieces of these sizes: what can be read by small reads is not lost. */
const SMALLER_READS = [64 << 10, 4 << 10] as const;

/** Fills a chunk from a position of the source, whatever pieces the system hands out. */
async function fill(input: OpenFile, chunk: Buffer, position: number): Promise<number> {
  let length = 0;
  let most = chunk.length;
  for (let faults = 0; length < chunk.length;) {
    try {
      const { bytesRead } = await input.read(chunk, length, Math.min(most, chunk.length - length), position + length);
      if (bytesRead === 0) break;
      length += bytesRead;
    } catch (error) {
      const smaller = SMALLER_READS[faults++];
      if (codeOf(error) !== 'EIO' || smaller === undefined) {
        const where = position + length > 0 ? ` at byte ${position + length}` : '';
        throw new SourceError(`cannot be read${where} (${codeOf(error)})`, codeOf(error));
      }
      most = smaller;
    }
  }
  return length;
}

async function writeAll(output: OpenFile, chunk: Buffer, length: number, position: number): Promise<void> {
  for (let done = 0; done < length;) {
    const { bytesWritten } = await output.write(chunk, done, length - done, position + done);
    if (bytesWritten === 0) throw Object.assign(new Error('nothing was written'), { code: 'ENOSPC' });
    done += bytesWritten;
  }
}
