import { constants } from 'node:fs';
import { CHUNK_BYTES, padded, withChunk } from './aligned.js';
import { systemFiles, type Files, type OpenFile } from './files.js';
import { digestOf, EndsKeeper, withHasher } from './hashing.js';
import { codeOf } from './list-card.js';

/** A copy to be made: a temporary path that must not exist yet, and how its file system likes to be written. */
export interface CopyTarget {
  readonly placeId: string;
  readonly temporary: string | Buffer;
  readonly direct: boolean;
}

export interface CopiedFile {
  /** XXH128 of the bytes as they came from the card. */
  readonly hash: Buffer;
  readonly quickHash: Buffer;
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
    const { hash, quickHash } = await pump(source, input, outputs, giveUp, signal, onBytes);
    await Promise.all(
      [...outputs].map(async ([target, output]) => {
        try {
          await output.truncate(source.bytes);
          await output.utimes(source.modifiedAt, source.modifiedAt);
          await output.sync();
        } catch (error) {
          await giveUp(target, error);
        }
      }),
    );
    return { hash, quickHash, failed };
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
): Promise<{ hash: Buffer; quickHash: Buffer }> {
  const ends = new EndsKeeper(source.bytes);
  return withHasher((hasher) =>
    withChunk(async (chunk) => {
      let position = 0;
      for (;;) {
        signal.throwIfAborted();
        const length = await fill(input, chunk, position);
        if (length === 0) break;
        if (position + length > source.bytes) break;
        const part = chunk.subarray(0, length);
        const writing = [...outputs].map(async ([target, output]) => {
          const size = target.direct ? padded(length) : length;
          try {
            await writeAll(output, chunk, size, position);
          } catch (error) {
            await giveUp(target, error);
          }
        });
        hasher.update(part);
        ends.take(part, position);
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
      return { hash: digestOf(hasher), quickHash: await ends.quickHash() };
    }),
  );
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
