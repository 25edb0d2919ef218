import { EXIT, jsonLine, printable, say, WrongUse } from '../cli/output.js';
import { CHECKSUM_FILE, HASH_LIST_FOLDER, readChecksums } from '@tally/core/manifest';
import { formatBytes } from '@tally/core/logbook';
import { readFile, stat } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import pLimit from 'p-limit';
import { readHistory } from '../drive/hash-lists.js';
import { hashFile } from '../drive/hashing.js';
import { codeOf, listCard } from '../drive/list-card.js';

interface Tallied {
  readonly path: string;
  readonly state: 'tallies' | 'differs' | 'missing' | 'unreadable';
  readonly bytes: number;
}

/** What lists say of a file: all hashes it should have. Two lists that disagree are a difference. */
type Expected = Map<string, Set<string>>;

/**
 * `tally tally FOLDER`: reads every file that a checksum list or a hash list (XXH128) in the folder, or in one below it,
 * names, and compares. Needs no house and no database: the drive is enough.
 */
export async function tallyCommand(folder: string, options: { json?: boolean }): Promise<number> {
  const entries = await listCard(folder).catch((error: unknown) => {
    throw new WrongUse(`${folder} cannot be listed (${codeOf(error)}).`);
  });
  const expected: Expected = new Map();
  const expect = (path: string, hash: string) => expected.set(path, (expected.get(path) ?? new Set()).add(hash));
  let lists = 0;
  let trouble = 0;
  const complain = (words: string) => {
    trouble++;
    complain(`tally: ${printable(words)}.`);
  };
  for (const { path } of entries.filter((entry) => basenameOf(entry.path) === CHECKSUM_FILE)) {
    lists++;
    const checksums = readChecksums(await readFile(join(folder, path), 'utf8'));
    if (!checksums) complain(`${path} is not a checksum list`);
    for (const { name, hash } of checksums ?? []) expect(join(dirname(path), name), hash);
  }
  const histories = new Set(entries.flatMap(({ path }) => (isInHistory(path) ? [dirname(dirname(path))] : [])));
  for (const root of histories) {
    lists++;
    const { lists: generations, problems } = await readHistory(join(folder, root));
    problems.forEach((problem) => complain(join(root, problem)));
    for (const { list } of generations)
      for (const file of list.files) if (file.hashes.xxh128) expect(join(root, file.path), file.hashes.xxh128);
  }
  if (!lists) throw new WrongUse(`There is no ${CHECKSUM_FILE} and no ${HASH_LIST_FOLDER} in ${folder} or below it.`);
  const limit = pLimit(4);
  const outside = [...expected.keys()].filter((path) => path.startsWith('..'));
  for (const path of outside) complain(`${path} lies outside the folder and is not read`);
  const compared = await Promise.all(
    [...expected]
      .filter(([path]) => !outside.includes(path))
      .map(([path, hashes]) => limit(() => compare(folder, join(folder, path), hashes))),
  );
  let bytes = 0;
  let tallied = 0;
  for (const one of compared) {
    bytes += one.bytes;
    if (one.state === 'tallies') tallied++;
    if (options.json) jsonLine(one);
    else if (one.state !== 'tallies') say(`${one.state}: ${printable(one.path)}`);
  }
  if (!options.json) say(`${tallied} of ${compared.length} files tally (${formatBytes(bytes)} read).`);
  return trouble || tallied < compared.length ? EXIT.attention : EXIT.done;
}

const basenameOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);
const isInHistory = (path: string) => basenameOf(dirname(path)) === HASH_LIST_FOLDER;

async function compare(root: string, file: string, hashes: ReadonlySet<string>): Promise<Tallied> {
  const path = relative(root, file);
  try {
    const { size } = await stat(file);
    const found = (await hashFile(file)).toString('hex');
    return { path, state: hashes.size === 1 && hashes.has(found) ? 'tallies' : 'differs', bytes: size };
  } catch (error) {
    return { path, state: codeOf(error) === 'ENOENT' ? 'missing' : 'unreadable', bytes: 0 };
  }
}
