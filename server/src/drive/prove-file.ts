import { constants } from 'node:fs';
import { CHUNK_BYTES, withChunk } from './aligned.js';
import { systemFiles, type Files, type OpenFile } from './files.js';
import { digestOf, withHasher } from './hashing.js';
import { codeOf } from './list-card.js';

/** How a copy was read back: from the device, or possibly from the system's memory of it. */
export type ProofMethod = 'read back past the page cache' | 'read back through the page cache';

/**
 * Reads a copy back and hashes it by itself, past the page cache where the file system allows it.
 * @throws the system's error when it cannot be read.
 */
export async function proveFile(
  path: string | Buffer,
  direct: boolean,
  signal: AbortSignal,
  files: Files = systemFiles,
): Promise<{ hash: Buffer; method: ProofMethod }> {
  const { handle, isDirect } = await openForProof(path, direct, files);
  try {
    const hash = await withHasher((hasher) =>
      withChunk(async (chunk) => {
        for (let position = 0; ;) {
          signal.throwIfAborted();
          const { bytesRead } = await handle.read(chunk, 0, CHUNK_BYTES, position);
          hasher.update(chunk.subarray(0, bytesRead));
          position += bytesRead;
          // With O_DIRECT only the last read may be short; another one at an unaligned offset would be refused.
          if (bytesRead < CHUNK_BYTES && (isDirect || bytesRead === 0)) return digestOf(hasher);
        }
      }),
    );
    return { hash, method: isDirect ? 'read back past the page cache' : 'read back through the page cache' };
  } finally {
    await handle.close();
  }
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
