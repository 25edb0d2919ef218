import { randomUUID } from 'node:crypto';
import { open, readdir, readFile, rename, rm } from 'node:fs/promises';
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

/** How temporary files of what is ours begin: whoever was killed while writing one left it. */
const OWN_TEMPORARY = '.tally-own-';

/**
 * Writes a file of our own beside the filed ones, in one step: whoever looks sees the old one or the new one, whole.
 * Where nothing stands it replaces nothing, also not what somebody writes in this very moment; where a file of ours
 * stands (`replaces`) it takes its place. One process at a time writes in a folder: what an earlier one left half is removed.
 * @returns false when a file appeared under that name in between.
 */
export async function writeOwn(
  folder: string,
  name: string,
  content: string,
  replaces: boolean,
  links: boolean,
): Promise<boolean> {
  for (const left of (await readdir(folder)).filter((one) => one.startsWith(OWN_TEMPORARY) && one.endsWith('.part')))
    await rm(join(folder, left), { force: true });
  const temporary = join(folder, `${OWN_TEMPORARY}${randomUUID()}.part`);
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
