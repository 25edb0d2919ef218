import { MovedRecord } from '@tally/contract';
import { explainedBy, MOVED_FILE, SECOND_FOLDER } from '@tally/core/drive';
import { complain, EXIT, jsonLine, printable, say, WrongUse } from '../cli/output.js';
import { CHECKSUM_FILE, HASH_LIST_FOLDER, readChecksums } from '@tally/core/manifest';
import { sidecarOf } from '@tally/core/fields';
import { formatBytes } from '@tally/core/logbook';
import { readFile, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import pLimit from 'p-limit';
import { readHistory } from '../drive/hash-lists.js';
import { editOf } from '../crediting/index.js';
import { hashBothWays } from '../drive/prove-file.js';
import { codeOf, listCard } from '../drive/list-card.js';
import { recordedAs, type RecordedFile, recordsIn, unlikeSeconds } from '../drive/records-beside.js';

interface Tallied {
  readonly path: string;
  readonly state: 'tallies' | 'differs' | 'missing' | 'unreadable';
  readonly bytes: number;
}

/**
 * What lists say of a file: all hashes it should have. Two lists that disagree are a difference, except where a record
 * explains it: credit was put into the file since, or its sidecar was written anew; then the newest list counts.
 */
interface Expected {
  readonly hashes: Set<string>;
  newest: string;
}

/**
 * `tally tally FOLDER`: reads every file that a checksum list or a hash list (XXH128) in the folder, or in one below it,
 * names, and compares: as it stands, and without the credit inside it. Needs no house and no database: the drive is enough.
 */
export async function tallyCommand(folder: string, options: { json?: boolean }): Promise<number> {
  const entries = await listCard(folder).catch((error: unknown) => {
    throw new WrongUse(`${folder} cannot be listed (${codeOf(error)}).`);
  });
  const expected = new Map<string, Expected>();
  const expect = (path: string, hash: string) => {
    const known = expected.get(path) ?? { hashes: new Set<string>(), newest: hash };
    known.hashes.add(hash);
    known.newest = hash;
    expected.set(path, known);
  };
  let lists = 0;
  let trouble = 0;
  const wrong = (words: string) => {
    trouble++;
    complain(`tally: ${printable(words)}.`);
  };
  const histories = new Set(entries.flatMap(({ path }) => (isInHistory(path) ? [dirname(dirname(path))] : [])));
  for (const root of histories) {
    lists++;
    const { lists: generations, problems } = await readHistory(join(folder, root));
    problems.forEach((problem) => wrong(join(root, problem)));
    for (const { list } of generations)
      for (const file of list.files) if (file.hashes.xxh128) expect(join(root, file.path), file.hashes.xxh128);
  }
  for (const { path } of entries.filter((entry) => basenameOf(entry.path) === CHECKSUM_FILE)) {
    lists++;
    const checksums = readChecksums(await readFile(join(folder, path), 'utf8'));
    if (!checksums) wrong(`${path} is not a checksum list`);
    for (const { name, hash } of checksums ?? []) expect(join(dirname(path), name), hash);
  }
  const recorded = new Map<string, RecordedFile[]>();
  for (const root of new Set(entries.filter(({ path }) => isRecord(path)).map(({ path }) => explainedBy(dirname(path))))) {
    for (const [name, file] of await recordsIn(join(folder, root))) recorded.set(join(root, name), file);
    for (const name of await unlikeSeconds(join(folder, root)))
      wrong(`${join(root, name)} and its second in ${SECOND_FOLDER} are not alike, or one of them is gone`);
  }
  // What went to another folder by a mend is named by older lists only, as long as nothing stands there.
  const standing = new Set(entries.map(({ path }) => path));
  for (const { path } of entries.filter((entry) => basenameOf(entry.path) === MOVED_FILE))
    for (const name of await movedFrom(join(folder, path))) {
      const was = join(dirname(path), name);
      if (!standing.has(was)) expected.delete(was);
    }
  if (!lists) throw new WrongUse(`There is no ${CHECKSUM_FILE} and no ${HASH_LIST_FOLDER} in ${folder} or below it.`);
  // A sidecar that we took away again is named by older lists only.
  for (const path of expected.keys()) if (isTakenAway(path, recorded)) expected.delete(path);
  const limit = pLimit(4);
  const outside = [...expected.keys()].filter((path) => path.startsWith('..'));
  for (const path of outside) wrong(`${path} lies outside the folder and is not read`);
  const compared = await Promise.all(
    [...expected]
      .filter(([path]) => !outside.includes(path))
      .map(([path, one]) => limit(() => compare(folder, path, one, recorded))),
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

/** Names that a list of what was moved away holds; none when it is somebody else's. */
async function movedFrom(file: string): Promise<string[]> {
  const parsed = MovedRecord.safeParse(
    await readFile(file, 'utf8')
      .then(JSON.parse)
      .catch(() => null),
  ); // Not ours: it says nothing.
  return parsed.success ? [...parsed.data.files, ...parsed.data.before].flatMap(({ name }) => [name, sidecarOf(name)]) : [];
}

const basenameOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);
const isInHistory = (path: string) => basenameOf(dirname(path)) === HASH_LIST_FOLDER;

const SIDECAR = sidecarOf('');
const isRecord = (path: string) => /^intake-.+\.json$/.test(basenameOf(path));

/** Is it the sidecar of a file whose records know of none, now? */
const isTakenAway = (path: string, recorded: ReadonlyMap<string, readonly RecordedFile[]>): boolean => {
  const of = path.endsWith(SIDECAR) ? recorded.get(path.slice(0, -SIDECAR.length)) : undefined;
  return of !== undefined && of.every(({ beside }) => beside === null) && !recorded.has(path);
};

/** The hashes that must all be the file's; of one that a record explains only the newest. */
function hashesOf(
  path: string,
  { hashes, newest }: Expected,
  own: RecordedFile | undefined,
  recorded: ReadonlyMap<string, readonly RecordedFile[]>,
  hash: string,
): ReadonlySet<string> {
  if (own?.inside) return new Set([newest, own.inside.xxh128]);
  // What was inside it once and was taken out again left its hash in older lists.
  if (own) return new Set([newest, own.xxh128]);
  const of = path.endsWith(SIDECAR) ? recorded.get(path.slice(0, -SIDECAR.length)) : undefined;
  const sidecars = of?.flatMap(({ beside }) => beside?.xxh128 ?? []) ?? [];
  return sidecars.length ? new Set([newest, sidecars.find((one) => one === hash) ?? sidecars[0]!]) : hashes;
}

/** Reads a file and compares: as it stands, and without what was put into it, in one pass. */
async function compare(
  root: string,
  path: string,
  expected: Expected,
  recorded: ReadonlyMap<string, readonly RecordedFile[]>,
): Promise<Tallied> {
  const file = join(root, path);
  try {
    const { size } = await stat(file);
    // Where several records name it, the one whose hash it has knows how the credit comes out: the newest list tells which.
    const said = recorded.get(path) ?? [];
    const own = recordedAs(said, said.length > 1 ? expected.newest : '');
    const undo = own?.inside ? editOf(own.inside.undo) : null;
    const { hash, original } = await hashBothWays(file, undo);
    const stands = hash.toString('hex');
    const hashes = hashesOf(path, expected, own, recorded, stands);
    const isCards = !own?.inside || original?.toString('hex') === own.xxh128;
    return { path, state: hashes.size === 1 && hashes.has(stands) && isCards ? 'tallies' : 'differs', bytes: size };
  } catch (error) {
    return { path, state: codeOf(error) === 'ENOENT' ? 'missing' : 'unreadable', bytes: 0 };
  }
}
