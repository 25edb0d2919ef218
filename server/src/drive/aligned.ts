/**
 * Buffers for direct input and output. O_DIRECT wants the memory address, the file offset and the length aligned to the
 * device's block; WebAssembly memory is page aligned (64 KiB), ordinary Node buffers are not.
 */
export const BLOCK_BYTES = 4096;
export const CHUNK_BYTES = 4 << 20;
/** A chunk's buffer is longer by this: the beginning of a file may grow before it is written. */
export const GROWTH_BYTES = 256 << 10;
const PAGE_BYTES = 65_536;
const PAGES = (CHUNK_BYTES + GROWTH_BYTES) / PAGE_BYTES;

const idle: Buffer[] = [];

export async function withChunk<T>(use: (chunk: Buffer) => Promise<T>): Promise<T> {
  const chunk = idle.pop() ?? Buffer.from(new WebAssembly.Memory({ initial: PAGES, maximum: PAGES }).buffer);
  try {
    return await use(chunk);
  } finally {
    idle.push(chunk);
  }
}

export const padded = (bytes: number): number => Math.ceil(bytes / BLOCK_BYTES) * BLOCK_BYTES;
