import { CHECKSUM_FILE, readChecksums } from '@tally/core/manifest';
import { formatBytes } from '@tally/core/logbook';
import { readFile, stat } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import pLimit from 'p-limit';
import { hashFile } from '../drive/hashing.js';
import { codeOf, listCard } from '../drive/list-card.js';
import { EXIT, jsonLine, printable, WrongUse } from './output.js';

interface Tallied {
  readonly path: string;
  readonly state: 'tallies' | 'differs' | 'missing' | 'unreadable';
  readonly bytes: number;
}

/**
 * `tally tally FOLDER`: reads every file that a checksum list in the folder, or in one below it, names, and compares.
 * Needs no house and no database: the drive is enough.
 */
export async function tallyCommand(folder: string, options: { json?: boolean }): Promise<number> {
  const entries = await listCard(folder).catch((error: unknown) => {
    throw new WrongUse(`${folder} cannot be listed (${codeOf(error)}).`);
  });
  const lists = entries.filter(({ path }) => path === CHECKSUM_FILE || path.endsWith(`/${CHECKSUM_FILE}`));
  if (!lists.length) throw new WrongUse(`There is no ${CHECKSUM_FILE} in ${folder} or below it.`);
  const limit = pLimit(4);
  let trouble = 0;
  let [files, bytes] = [0, 0];
  for (const list of lists) {
    const here = join(folder, dirname(list.path));
    const checksums = readChecksums(await readFile(join(folder, list.path), 'utf8'));
    if (!checksums) {
      trouble++;
      console.error(`tally: ${printable(list.path)} is not a checksum list.`);
      continue;
    }
    const compared = await Promise.all(checksums.map(({ name, hash }) => limit(() => compare(folder, join(here, name), hash))));
    for (const one of compared) {
      files++;
      bytes += one.bytes;
      if (one.state !== 'tallies') trouble++;
      if (options.json) jsonLine(one);
      else if (one.state !== 'tallies') console.log(`${one.state}: ${printable(one.path)}`);
    }
  }
  if (!options.json) console.log(`${files - trouble} of ${files} files tally (${formatBytes(bytes)} read).`);
  return trouble ? EXIT.attention : EXIT.done;
}

async function compare(root: string, file: string, hash: string): Promise<Tallied> {
  const path = relative(root, file);
  try {
    const { size } = await stat(file);
    const found = (await hashFile(file)).toString('hex');
    return { path, state: found === hash ? 'tallies' : 'differs', bytes: size };
  } catch (error) {
    return { path, state: codeOf(error) === 'ENOENT' ? 'missing' : 'unreadable', bytes: 0 };
  }
}
