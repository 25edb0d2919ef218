import { afterAll } from '@jest/globals';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A folder on a disk, for what is tried of disks; all else lies in `tmpdir()`, which is memory in a whole run (tools/test). */
export const onDisk = (): string => process.env['TALLY_TEST_DISK'] ?? tmpdir();

/** A folder on a disk for one file of tests, gone when they end. */
export function scratch(): string {
  const folder = mkdtempSync(join(onDisk(), 'tally-spec-'));
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  return folder;
}
