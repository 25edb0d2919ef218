import { join } from 'node:path';
import { HouseRecord } from '@tally/contract';
import { houseRecordName, SECOND_FOLDER } from '@tally/core/drive';
import { makeFolder } from '../drive/final-name.js';
import { readOwn, writeOwn } from '../drive/own-file.js';
import { houseRecordText } from '../drive/records-beside.js';
import { abilitiesOf, placesStanding, type StandingPlace } from '../driving/index.js';
import { type House, houseId, rebuildingFrom } from '../house/index.js';
import { houseKnows } from './store/house-record.js';

/** It is looked at again after so long, where something was written meanwhile or not. In milliseconds. */
const EVERY_MS = 10 * 60_000;
const looked = new WeakMap<object, number>();

/** Writes the house record to every place that is here, where it says something else by now; not more often than every ten minutes. */
export async function writeHouseRecordSoon(house: House, signal: AbortSignal): Promise<void> {
  const now = performance.now();
  if (now - (looked.get(house) ?? -Infinity) < EVERY_MS) return;
  looked.set(house, now);
  await writeHouseRecord(house, signal);
}

/**
 * Writes to every place that is here what the house knows of people, assignments, words and cards, twice: the records beside
 * the files name all of these by code, short name or text. One of another house stays, and ours gets a name of its own.
 * @returns to how many places it was written
 */
export async function writeHouseRecord(house: House, signal: AbortSignal): Promise<number> {
  // Half a logbook does not replace what it is being rebuilt from.
  if ((await rebuildingFrom(house.db)) !== null) return 0;
  const [id, knows] = [await houseId(house.db), await houseKnows(house.db)];
  const says = (writtenAt: string) =>
    textOf({ format: 'tally-stick-house', version: 1, house: house.settings.house, houseId: id, writtenAt, ...knows });
  let written = 0;
  for (const place of await placesStanding(house)) {
    if (!place.standing.online) continue;
    const held = await house.locks.holdInTurn('place', place.id, signal, async () => {
      if (await writeAt(house, place, id, says)) written++;
    });
    if (!held) looked.delete(house);
  }
  return written;
}

async function writeAt(house: House, place: StandingPlace, id: string, says: (writtenAt: string) => string): Promise<boolean> {
  const seconds = join(place.root, SECOND_FOLDER);
  const own = houseRecordName(null);
  const whose = [await readOwn(place.root, own), await readOwn(seconds, own)].flatMap((text) => text ?? []);
  const houses = whose.map((text) => houseRecordText(text)?.houseId);
  // What cannot be read is put right where its second says that it is ours; else it may be anybody's.
  const isFree = whose.length === 0 || (houses.includes(id) && houses.every((one) => one === id || one === undefined));
  const name = isFree ? own : houseRecordName(id);
  const [first, second] = [await readOwn(place.root, name), await readOwn(seconds, name)];
  const writtenAt = first === null ? null : (houseRecordText(first)?.writtenAt ?? null);
  const text = writtenAt !== null && says(writtenAt) === first ? first : says(house.clock().toISOString());
  if (first === text && second === text) return false;
  const { links } = await abilitiesOf(place);
  if (first !== text) await writeOwn(place.root, name, text, first !== null, links);
  await makeFolder(place.root, SECOND_FOLDER);
  if (second !== text) await writeOwn(seconds, name, text, second !== null, links);
  return true;
}

const textOf = (record: HouseRecord): string => `${JSON.stringify(HouseRecord.parse(record), null, 2)}\n`;
