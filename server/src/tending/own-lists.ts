import { isHalfMade, isOurs, MOVED_FILE, recordNumber, SECOND_FOLDER } from '@tally/core/drive';
import { CHECKSUM_FILE, HASH_LIST_FOLDER, readChecksums } from '@tally/core/manifest';
import { foldName, pathIn } from '@tally/core/rule';
import { join } from 'node:path';
import { isOwnHistory } from '../drive/hash-lists.js';
import { namesOf, removeEmptyUpwards, removeOwn } from '../drive/move-file.js';
import { readOwn } from '../drive/own-file.js';
import { isMovedText, isRecordFile } from '../drive/records-beside.js';
import type { House } from '../house/index.js';
import { forgetWritten } from '../proving/index.js';
import { numbersOf } from './store/records.js';

/** A folder with what explains its files at a place. */
export interface ListFolder {
  readonly folder: string;
  readonly intakes: readonly number[];
}

/**
 * What explains files that left these folders of a place goes, too: records of intakes that have nothing there any more; and
 * where nothing is filed at all, lists, records, and the folder, if nothing else stands in it.
 * @param lists of those folders in which something of the place is filed still.
 */
export async function clearLists(
  house: Pick<House, 'db'>,
  { id, root }: { readonly id: string; readonly root: string },
  folders: Iterable<string>,
  lists: readonly ListFolder[],
): Promise<void> {
  const byFolder = new Map(lists.map((list) => [foldName(list.folder), list]));
  for (const folder of folders) {
    const list = byFolder.get(foldName(folder));
    if (list) await removeRecords(house, { id, root }, folder, list.intakes);
    else {
      // What is expected no more before it goes is missed by nobody, whenever this is killed.
      await forgetWritten(house.db, id, folder);
      await removeOwnLists(root, folder);
    }
  }
}

async function removeRecords(
  { db }: Pick<House, 'db'>,
  { id, root }: { readonly id: string; readonly root: string },
  folder: string,
  intakes: readonly number[],
): Promise<void> {
  const numbers = new Set(await numbersOf(db, intakes));
  for (const name of new Set([...(await namesOf(root, folder)), ...(await namesOf(root, pathIn(folder, SECOND_FOLDER)))])) {
    const number = recordNumber(name);
    if (number === null || numbers.has(number)) continue;
    const second = `${SECOND_FOLDER}/${name}`;
    await forgetWritten(db, id, folder, [name, second]);
    if (await isRecordFile(join(root, folder, name))) await removeOwn(root, pathIn(folder, name));
    await removeOwn(root, pathIn(folder, second));
  }
}

/** Takes our lists and records away from a folder, then the folder and those above it in which nothing else stands. */
export async function removeOwnLists(root: string, folder: string): Promise<void> {
  for (const name of await namesOf(root, folder))
    if (isOurs(name) && (await isItOurs(join(root, folder), name))) await removeOwn(root, pathIn(folder, name));
  await removeEmptyUpwards(root, folder);
}

/** Is what stands under one of our names what we write there? */
async function isItOurs(folder: string, name: string): Promise<boolean> {
  if (name === HASH_LIST_FOLDER) return isOwnHistory(folder);
  if (name === SECOND_FOLDER) return (await namesOf(folder, name)).every((one) => recordNumber(one) !== null || isHalfMade(one));
  if (recordNumber(name) !== null) return isRecordFile(join(folder, name));
  const text = (await readOwn(folder, name)) ?? '';
  return name === CHECKSUM_FILE ? readChecksums(text) !== null : name === MOVED_FILE && isMovedText(text);
}
