import { randomUUID } from 'node:crypto';
import { open, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { flushFolder, giveFinalName } from './final-name.js';
import { codeOf } from './list-card.js';

/** What stands under a name in a folder; null when nothing does. */
export async function readOwn(folder: string, name: string): Promise<string | null> {
  return readFile(join(folder, name), 'utf8').catch((error: unknown) => {
    if (codeOf(error) === 'ENOENT') return null;
    throw error;
  });
}

/**
 * Writes a file of our own beside the filed ones, in one step: whoever looks sees the old one or the new one, whole.
 * Where nothing stands it replaces nothing, also not what somebody writes in this very moment; where a file of ours
 * stands (`replaces`) it takes its place.
 * @returns false when a file appeared under that name in between.
 */
export async function writeOwn(
  folder: string,
  name: string,
  content: string,
  replaces: boolean,
  links: boolean,
): Promise<boolean> {
  const temporary = join(folder, `.tally-${randomUUID()}.part`);
  const handle = await open(temporary, 'wx');
  try {
    await handle.writeFile(content);
    await handle.sync();
  } finally {
    await handle.close();
  }
  try {
    if (replaces) await rename(temporary, join(folder, name));
    else if (!(await giveFinalName(temporary, join(folder, name), links))) return false;
    await flushFolder(folder);
    return true;
  } finally {
    await rm(temporary, { force: true });
  }
}
