import { afterAll } from '@jest/globals';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A folder for one file of tests, gone when they end. Not on tmpfs where that can be helped: it knows no direct input and output. */
export function scratch(): string {
  const folder = mkdtempSync(join(tmpdir(), 'tally-spec-'));
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  return folder;
}
