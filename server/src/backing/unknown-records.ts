import { recordsBelow } from '../drive/records-beside.js';
import { placesStanding } from '../driving/index.js';
import { houseId, type House, knownUids } from '../house/index.js';

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
  const ours = await houseId(house.db);
  for (const place of await placesStanding(house)) {
    if (!place.standing.online) continue;
    let some: (UnknownRecord & { uid: string | null })[] = [];
    const judge = async () => {
      const known = await knownUids(
        house.db,
        some.flatMap(({ uid }) => uid ?? []),
      );
      for (const { uid, ...one } of some) if (uid === null || !known.has(uid)) found.push(one);
      some = [];
    };
    for await (const { folder, record } of recordsBelow(place.root, signal)) {
      const uid = record.houseId === ours ? record.intakeId : null;
      some.push({ place: place.name, folder, number: record.intake, items: record.items.length, uid });
      if (some.length >= AT_ONCE) await judge();
    }
    await judge();
  }
  return found;
}
