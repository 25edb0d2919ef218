import { recordNumber } from '@tally/core/drive';
import { nameOf } from '@tally/core/rule';
import { join } from 'node:path';
import { wholeRecordsIn } from '../drive/records-beside.js';
import { areKnown, type House } from '../house/index.js';
import type { BesideWritten } from '../proving/index.js';

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
  const records = (await wholeRecordsIn(join(root, folder))).filter(({ name }) => odd.has(name));
  const known = await areKnown(
    house.db,
    records.map(({ record }) => record),
  );
  return records.flatMap(({ name, record }, index) =>
    known[index] ? [] : [{ name, house: record.house, number: record.intake }],
  );
}
