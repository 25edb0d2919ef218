import { lstat, readdir, readFile } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import { HouseRecord, IntakeRecord, MovedRecord, RecordHeader } from '@tally/contract';
import { BACKUP_FOLDER, explainedBy, recordNumber, SECOND_FOLDER } from '@tally/core/drive';
import { CHECKSUM_FILE, HASH_LIST_FOLDER, readChecksums } from '@tally/core/manifest';
import pLimit from 'p-limit';
import { codeOf } from './list-card.js';
import { readOwn } from './own-file.js';
import { hashOf } from './sidecar-file.js';

export type RecordedFile = IntakeRecord['items'][number];

const NAME = /^intake-.+\.json$/;
/** A file kept as on the card stands this far below its record at most. */
const MOST_ABOVE = 12;

/**
 * What the records in a folder say of the files it explains, by the path from that folder. Others' files are passed over.
 * Of one that several records name, all that they say: houses that had the drive one after another each have one.
 */
export async function recordsIn(folder: string): Promise<Map<string, RecordedFile[]>> {
  const found = new Map<string, RecordedFile[]>();
  for (const { record } of await wholeRecordsIn(folder))
    for (const item of record.items) found.set(item.name, [...(found.get(item.name) ?? []), item]);
  return found;
}

/**
 * Every record in a folder, those of former houses too; where one of the two is spoilt or gone, the other.
 * @param only names of those that are wanted; null: all
 */
export async function wholeRecordsIn(
  folder: string,
  only: readonly string[] | null = null,
): Promise<{ name: string; record: IntakeRecord }[]> {
  const names = new Set(only ?? [...(await recordNamesIn(folder)), ...(await recordNamesIn(join(folder, SECOND_FOLDER)))]);
  const found: { name: string; record: IntakeRecord }[] = [];
  for (const name of [...names].sort()) {
    const [one, other] = [await bytesOf(join(folder, name)), await bytesOf(join(folder, SECOND_FOLDER, name))];
    const first = one && recordText(one.toString('utf8'));
    const second = other && !(one && first && other.equals(one)) ? recordText(other.toString('utf8')) : null;
    // Two of different intakes under one name: the second was replaced, and both are known of.
    const isOther = first && second && (first.houseId !== second.houseId || first.intakeId !== second.intakeId);
    for (const record of isOther ? [first, second] : [first ?? second]) if (record) found.push({ name, record });
  }
  return found;
}

/** What explains a file by the hash that it has, as it stands or on its card; else the first. @param hash 32 hexadecimal digits */
export const recordedAs = (said: readonly RecordedFile[], hash: string): RecordedFile | undefined =>
  said.find(({ inside }) => inside?.xxh128 === hash) ?? said.find(({ xxh128 }) => xxh128 === hash) ?? said[0];

/** Names in a folder; of one that is not there, or that nobody may enter, none. */
export async function namesIn(folder: string): Promise<string[]> {
  return readdir(folder).catch((error: unknown) => {
    if (['ENOENT', 'ENOTDIR', 'EACCES'].includes(codeOf(error))) return [];
    throw error;
  });
}

export const recordNamesIn = async (folder: string): Promise<string[]> => (await namesIn(folder)).filter((one) => NAME.test(one));

/** Records of a folder whose second is another one, or is spoilt. Those that have none, or of which none is left, are passed over. */
export async function unlikeSeconds(folder: string): Promise<string[]> {
  const unlike: string[] = [];
  for (const name of await recordNamesIn(join(folder, SECOND_FOLDER))) {
    const [first, second] = await Promise.all(
      [join(folder, name), join(folder, SECOND_FOLDER, name)].map((path) => readFile(path).catch(() => null)),
    );
    if (!first || !second || !first.equals(second)) unlike.push(name);
  }
  return unlike;
}

/** More than this is no record. In bytes. */
const MOST_BYTES = 256 << 20;

/** What a record's file holds; null: it is none, or too large for one. Somebody else's file under such a name, or a link, explains nothing. */
async function bytesOf(file: string): Promise<Buffer | null> {
  const found = await lstat(file).catch(() => null);
  if (!found?.isFile() || found.size > MOST_BYTES) return null;
  return readFile(file).catch(() => null);
}

/** A record's content; null: it is none, or is spoilt. */
export const recordText = (text: string): IntakeRecord | null => readAs(IntakeRecord, text);

/** What one of our own files says; null: it is none, or is spoilt. */
function readAs<T>(schema: { parse: (json: unknown) => T }, text: string): T | null {
  try {
    return schema.parse(JSON.parse(text));
  } catch {
    return null;
  }
}

/** Do its second, or the list of the folder, say that a record is what was written? @param folder whole path of what it explains */
export async function isProvenRecord(folder: string, name: string): Promise<boolean> {
  const [first, second] = await Promise.all(
    [join(folder, name), join(folder, SECOND_FOLDER, name)].map((path) => readFile(path).catch(() => null)),
  );
  if (first && second && first.equals(second)) return true;
  const stands = [first, second].find((bytes) => bytes && recordText(bytes.toString('utf8')) !== null);
  if (!stands) return false;
  const listed = readChecksums((await readOwn(folder, CHECKSUM_FILE)) ?? '')?.find((one) => one.name === name);
  return (await hashOf(stands)).toString('hex') === listed?.hash;
}

/** A house record's content; null: it is none, or is spoilt. */
export const houseRecordText = (text: string): HouseRecord | null => readAs(HouseRecord, text);

/** Which intake of which house a record is of. */
export interface RecordOf {
  readonly houseId: string;
  /** UUID. */
  readonly intakeId: string;
  readonly number: string;
  readonly receivedAt: Date;
  readonly station: string;
}

/** Is it the record of that very intake? Before records had ids, the moment and the station tell: a number may be drawn twice. */
export function isRecordOf(record: IntakeRecord, of: RecordOf): boolean {
  if (record.houseId !== null || record.intakeId !== null)
    return record.houseId === of.houseId && record.intakeId === of.intakeId;
  const isThen = new Date(record.receivedAt).getTime() === of.receivedAt.getTime();
  return record.intake === of.number && isThen && record.station === of.station;
}

/** What stood in a folder once, as we write it; null: it is something else, or is spoilt. */
export const movedText = (text: string): MovedRecord | null => readAs(MovedRecord, text);

/** What the record beside a file, or above it, says of it; null: none does. @param hash of the file as it stands, 32 hexadecimal digits */
export const recordOfFile = async (path: string, hash: string): Promise<RecordedFile | null> =>
  recordedAs(await recordsOfFile(path), hash) ?? null;

/** What all records beside a file, or above it, say of it. */
export async function recordsOfFile(path: string): Promise<RecordedFile[]> {
  for (let [folder, up] = [dirname(path), 0]; up < MOST_ABOVE; up++) {
    const found = (await recordsIn(folder)).get(relative(folder, path));
    if (found) return found;
    if (dirname(folder) === folder) return [];
    folder = dirname(folder);
  }
  return [];
}

const FOLDERS_AT_ONCE = 8;
/** No record stands in these, nor below them. */
const NO_RECORDS: readonly string[] = [HASH_LIST_FOLDER, BACKUP_FOLDER];
const NUMBER = /^(\d{4})-(\d+)$/;

/** Folders below a root that hold records, with their names. One that nobody may enter, or that went meanwhile, holds none. */
async function* recordFolders(root: string, signal: AbortSignal): AsyncGenerator<{ folder: string; names: string[] }> {
  const look = async (folder: string) => {
    signal.throwIfAborted();
    const entries = await readdir(join(root, folder), { withFileTypes: true }).catch((error: unknown) => {
      if (['ENOENT', 'ENOTDIR', 'EACCES', 'EPERM'].includes(codeOf(error))) return [];
      throw error;
    });
    const names = entries.flatMap(({ name }) => (recordNumber(name) === null ? [] : [name]));
    const below = entries.flatMap((entry) =>
      entry.isDirectory() && !NO_RECORDS.includes(entry.name) ? [join(folder, entry.name)] : [],
    );
    return { folder, names, below };
  };
  const limit = pLimit(FOLDERS_AT_ONCE);
  for (let folders = ['']; folders.length;) {
    const looked = await Promise.all(folders.map((folder) => limit(look, folder)));
    yield* looked.filter(({ names }) => names.length > 0);
    folders = looked.flatMap(({ below }) => below);
  }
}

/** Highest number of a record that stands anywhere below a root, by its year. Only names are read. @throws when it was told to stop */
export async function highestNumbers(root: string, signal: AbortSignal): Promise<Map<number, number>> {
  const highest = new Map<number, number>();
  for await (const { names } of recordFolders(root, signal))
    for (const name of names) {
      const [, year, n] = NUMBER.exec(recordNumber(name) ?? '') ?? [];
      if (year && n) highest.set(Number(year), Math.max(highest.get(Number(year)) ?? 0, Number(n)));
    }
  return highest;
}

/** Of which intake every record below a root is, with the folder that it explains; of two of one name the first. @throws when it was told to stop */
export async function* recordHeadersBelow(
  root: string,
  signal: AbortSignal,
): AsyncGenerator<{ folder: string; name: string; header: RecordHeader }> {
  const done = new Set<string>();
  for await (const { folder } of recordFolders(root, signal)) {
    const explained = explainedBy(folder);
    if (done.has(explained)) continue;
    done.add(explained);
    const path = join(root, explained);
    const names = new Set([...(await recordNamesIn(path)), ...(await recordNamesIn(join(path, SECOND_FOLDER)))]);
    for (const name of [...names].sort()) {
      signal.throwIfAborted();
      const header = (await headerIn(join(path, name))) ?? (await headerIn(join(path, SECOND_FOLDER, name)));
      if (header) yield { folder: explained, name, header };
    }
  }
}

async function headerIn(file: string): Promise<RecordHeader | null> {
  const bytes = await bytesOf(file);
  return bytes && readAs(RecordHeader, bytes.toString('utf8'));
}
