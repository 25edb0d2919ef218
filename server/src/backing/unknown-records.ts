import type { RecordHeader } from '@tally/contract';
import { recordHeadersBelow } from '../drive/records-beside.js';
import { placesStanding } from '../driving/index.js';
import { areKnown, type House } from '../house/index.js';

/** The record of an intake that the log does not know. */
export interface UnknownRecord {
  /** Name of the place. */
  readonly place: string;
  readonly folder: string;
  readonly number: string;
  readonly items: number;
}

const AT_ONCE = 200;

/** Records on the places of intakes that this database does not have: filed after it was backed up, or by another house. Reads every record. */
export async function unknownRecords(house: House, signal: AbortSignal): Promise<UnknownRecord[]> {
  const found: UnknownRecord[] = [];
  for (const place of await placesStanding(house)) {
    if (!place.standing.online) continue;
    let some: { folder: string; header: RecordHeader }[] = [];
    const judge = async () => {
      const known = await areKnown(
        house.db,
        some.map(({ header }) => header),
      );
      for (const [index, { folder, header }] of some.entries())
        if (!known[index]) found.push({ place: place.name, folder, number: header.intake, items: header.items.length });
      some = [];
    };
    for await (const one of recordHeadersBelow(place.root, signal)) {
      some.push(one);
      if (some.length >= AT_ONCE) await judge();
    }
    await judge();
  }
  return found;
}
