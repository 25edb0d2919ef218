import type { IntakeRecord } from '@tally/contract';
import { recordNumber } from '@tally/core/drive';
import { nameOf } from '@tally/core/rule';
import { join } from 'node:path';
import { wholeRecordsIn } from '../drive/records-beside.js';
import { type House, houseId, isReceived, knownUids } from '../house/index.js';
import type { BesideWritten } from '../proving/index.js';

/** Is a record of an intake that this house knows, in this life? Not that of another house, nor of an earlier life of this one. */
export async function isOfThisHouse({ db }: Pick<House, 'db'>, record: IntakeRecord): Promise<boolean> {
  const { houseId: theirs, intakeId, intake, receivedAt, station } = record;
  // Of before records had ids: by the moment, too, as a number may be drawn twice.
  if (intakeId === null) return isReceived(db, { number: intake, at: new Date(receivedAt), station });
  return theirs === (await houseId(db)) && (await knownUids(db, [intakeId])).has(intakeId);
}

/**
 * Records that stand in a folder and are not of this house. Where all are as we wrote them nothing is read.
 * @param names that stand in the folder @param written what we wrote there @returns names, with the house that each says it is of
 */
export async function othersRecords(
  house: Pick<House, 'db'>,
  root: string,
  folder: string,
  { names, written }: { readonly names: readonly string[]; readonly written: readonly BesideWritten[] },
): Promise<{ name: string; house: string; number: string }[]> {
  const ours = new Set(written.map(({ name }) => nameOf(name)));
  const odd = new Set(names.filter((name) => recordNumber(name) !== null && !ours.has(name)));
  if (!odd.size) return [];
  const found: { name: string; house: string; number: string }[] = [];
  for (const { name, record } of await wholeRecordsIn(join(root, folder)))
    if (odd.has(name) && !(await isOfThisHouse(house, record))) found.push({ name, house: record.house, number: record.intake });
  return found;
}
