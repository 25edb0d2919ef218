import { readdir, readFile } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import { IntakeRecord, MovedRecord } from '@tally/contract';
import { SECOND_FOLDER } from '@tally/core/drive';
import { codeOf } from './list-card.js';

export type RecordedFile = IntakeRecord['items'][number];

const NAME = /^intake-.+\.json$/;
/** A file kept as on the card stands this far below its record at most. */
const MOST_ABOVE = 12;

/** What the records in a folder say of the files it explains, by the path from that folder. Others' files are passed over. */
export async function recordsIn(folder: string): Promise<Map<string, RecordedFile>> {
  const found = new Map<string, RecordedFile>();
  const names = [...(await recordNamesIn(folder)), ...(await recordNamesIn(join(folder, SECOND_FOLDER)))];
  for (const name of new Set(names)) {
    // Where one of the two is spoilt or gone, the other knows.
    const record = (await recordIn(join(folder, name))) ?? (await recordIn(join(folder, SECOND_FOLDER, name)));
    for (const item of record?.items ?? []) found.set(item.name, item);
  }
  return found;
}

async function recordNamesIn(folder: string): Promise<string[]> {
  const names = await readdir(folder).catch((error: unknown) => {
    if (['ENOENT', 'ENOTDIR', 'EACCES'].includes(codeOf(error))) return [];
    throw error;
  });
  return names.filter((one) => NAME.test(one));
}

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

async function recordIn(file: string): Promise<IntakeRecord | null> {
  try {
    return IntakeRecord.parse(JSON.parse(await readFile(file, 'utf8')));
  } catch {
    // Somebody else's file under such a name, or one that is damaged: it explains nothing.
    return null;
  }
}

/** Is a file a record of ours? */
export const isRecordFile = async (file: string): Promise<boolean> => (await recordIn(file)) !== null;

/** Is it what we write of the intake of this number? */
export function isRecordText(text: string, number: string): boolean {
  try {
    return IntakeRecord.parse(JSON.parse(text)).intake === number;
  } catch {
    return false;
  }
}

/** Is it what we write of what stood in a folder once? */
export function isMovedText(text: string): boolean {
  try {
    return MovedRecord.safeParse(JSON.parse(text)).success;
  } catch {
    return false;
  }
}

/** What the record beside a file, or above it, says of it; null: none does. */
export async function recordOfFile(path: string): Promise<RecordedFile | null> {
  for (let [folder, up] = [dirname(path), 0]; up < MOST_ABOVE; up++) {
    const found = (await recordsIn(folder)).get(relative(folder, path));
    if (found) return found;
    if (dirname(folder) === folder) return null;
    folder = dirname(folder);
  }
  return null;
}
