import { isHalfMade, isOurs, MOVED_FILE, recordNumber, SECOND_FOLDER } from '@tally/core/drive';
import { CHECKSUM_FILE, HASH_LIST_FOLDER, readChecksums } from '@tally/core/manifest';
import { foldName, pathIn } from '@tally/core/rule';
import { join } from 'node:path';
import { isOwnHistory } from '../drive/hash-lists.js';
import { namesOf, removeEmptyUpwards, removeOwn } from '../drive/move-file.js';
import { readOwn } from '../drive/own-file.js';
import { movedText, recordText, wholeRecordsIn } from '../drive/records-beside.js';
import { areKnown, type House, houseId, uidsOf } from '../house/index.js';
import { forgetWritten } from '../proving/index.js';

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
      await removeOwnLists(house, root, folder);
    }
  }
}

/** Records of intakes of ours that have nothing in the folder any more; those of others stay, whatever number they bear. */
async function removeRecords(
  house: Pick<House, 'db'>,
  { id, root }: { readonly id: string; readonly root: string },
  folder: string,
  intakes: readonly number[],
): Promise<void> {
  const here = new Set(await uidsOf(house.db, intakes));
  const records = await wholeRecordsIn(join(root, folder));
  const known = await areKnown(
    house.db,
    records.map(({ record }) => record),
  );
  for (const [index, { name, record }] of records.entries()) {
    if (record.intakeId === null || here.has(record.intakeId) || !known[index]) continue;
    await forgetWritten(house.db, id, folder, [name, `${SECOND_FOLDER}/${name}`]);
    for (const one of [name, `${SECOND_FOLDER}/${name}`]) {
      const text = await readOwn(join(root, folder), one);
      if (text !== null && recordText(text)?.intakeId === record.intakeId) await removeOwn(root, pathIn(folder, one));
    }
  }
}

/**
 * Takes our lists and records away from a folder, then the folder and those above it in which nothing else stands. Where the
 * record of another house or of an earlier life of this one stands, the lists may be theirs, too: they stay with it.
 */
export async function removeOwnLists(house: Pick<House, 'db'>, root: string, folder: string): Promise<void> {
  const path = join(root, folder);
  const records = await wholeRecordsIn(path);
  const isKnown = await areKnown(
    house.db,
    records.map(({ record }) => record),
  );
  if (isKnown.includes(false)) {
    for (const [index, { name, record }] of records.entries())
      for (const one of isKnown[index] ? [name, `${SECOND_FOLDER}/${name}`] : []) {
        const text = await readOwn(path, one);
        if (text !== null && recordText(text)?.intakeId === record.intakeId) await removeOwn(root, pathIn(folder, one));
      }
    return;
  }
  const ours = await houseId(house.db);
  for (const name of await namesOf(root, folder))
    if (isOurs(name) && (await isItOurs(path, name, ours))) await removeOwn(root, pathIn(folder, name));
  await removeEmptyUpwards(root, folder);
}

/** Is what stands under one of our names what we write there? */
async function isItOurs(folder: string, name: string, house: string): Promise<boolean> {
  if (name === HASH_LIST_FOLDER) return isOwnHistory(folder);
  if (name === SECOND_FOLDER) return (await namesOf(folder, name)).every((one) => recordNumber(one) !== null || isHalfMade(one));
  const text = (await readOwn(folder, name)) ?? '';
  if (recordNumber(name) !== null) return recordText(text) !== null;
  if (name === CHECKSUM_FILE) return readChecksums(text) !== null;
  const moved = name === MOVED_FILE ? movedText(text) : null;
  return moved !== null && (moved.houseId ?? house) === house && !moved.before.length;
}
