// Where what is soon gone is kept while tests run: in memory where there is room for it, else on the disk.
import { existsSync, statfsSync } from 'node:fs';
import { tmpdir } from 'node:os';

const SHARED_MEMORY = '/dev/shm';
/** Linux: magic.h, TMPFS_MAGIC. */
const TMPFS = 0x01021994;
/** Houses, their pictures and a cluster need about half of this. */
const ROOM = 4e9;

/** A folder in memory with room for a run; `tmpdir()` where there is none. */
export function quickFolder() {
  if (!existsSync(SHARED_MEMORY)) return tmpdir();
  const { type, bavail, bsize } = statfsSync(SHARED_MEMORY);
  return type === TMPFS && bavail * bsize >= ROOM ? SHARED_MEMORY : tmpdir();
}
