import { join } from 'node:path';
import type { HouseRecord, IntakeRecord } from '@tally/contract';
import { isHouseRecord, SECOND_FOLDER } from '@tally/core/drive';
import { newestFirst, type RecordFound } from '@tally/core/rebuild';
import { readOwn } from '../drive/own-file.js';
import { houseRecordText, isProvenRecord, namesIn, recordsBelow, wholeRecordsIn } from '../drive/records-beside.js';

/** A place as it is read from. */
export interface ReadPlace {
  readonly id: string;
  readonly name: string;
  readonly root: string;
}

/** Where a record stands, and of which intake it is. */
export interface Header extends Pick<IntakeRecord, 'houseId' | 'intakeId' | 'receivedAt' | 'station' | 'writtenAt'> {
  /** Number of the intake. */
  readonly intake: string;
  readonly place: ReadPlace;
  readonly folder: string;
  readonly items: number;
}

/** Every record that stands on places, without what it says of its items. @throws when it was told to stop */
export async function* headersOn(places: readonly ReadPlace[], signal: AbortSignal): AsyncGenerator<Header> {
  for (const place of places)
    for await (const { folder, record } of recordsBelow(place.root, signal)) {
      const { houseId, intakeId, receivedAt, station, writtenAt, intake } = record;
      yield { houseId, intakeId, receivedAt, station, writtenAt, intake, place, folder, items: record.items.length };
    }
}

/** What an intake is told apart by: its id, or what records said before they had ids. */
export const keyOf = ({ intakeId, intake, receivedAt, station }: Header): string =>
  intakeId ?? JSON.stringify([intake, receivedAt, station]);

/** The records of one intake, read whole, each with whether its second or the list beside it prove it. */
export async function recordsOf(headers: readonly Header[]): Promise<RecordFound<IntakeRecord>[]> {
  const found: RecordFound<IntakeRecord>[] = [];
  const wanted = new Set(headers.map(keyOf));
  const folders = new Map(headers.map(({ place, folder }) => [JSON.stringify([place.id, folder]), { place, folder }]));
  for (const { place, folder } of folders.values()) {
    const path = join(place.root, folder);
    for (const { name, record } of await wholeRecordsIn(path)) {
      if (!wanted.has(keyOf({ ...record, place, folder, items: 0 }))) continue;
      found.push({ placeId: place.id, folder, proven: await isProvenRecord(path, name), record });
    }
  }
  return found;
}

/** The house records of a house on places, the one that counts first. */
export async function houseRecordsOn(places: readonly ReadPlace[], houseId: string): Promise<HouseRecord[]> {
  const found: RecordFound<HouseRecord>[] = [];
  for (const { id, root } of places)
    for (const folder of ['', SECOND_FOLDER])
      for (const name of (await namesIn(join(root, folder))).filter(isHouseRecord)) {
        const record = houseRecordText((await readOwn(join(root, folder), name).catch(() => null)) ?? '');
        if (record?.houseId === houseId) found.push({ placeId: id, folder, proven: true, record });
      }
  return newestFirst(found).map(({ record }) => record);
}
