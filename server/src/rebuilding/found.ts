import { join } from 'node:path';
import type { HouseRecord, IntakeRecord, RecordHeader } from '@tally/contract';
import { isHouseRecord, SECOND_FOLDER } from '@tally/core/drive';
import { newestFirst, type RecordFound } from '@tally/core/rebuild';
import { readOwn } from '../drive/own-file.js';
import { mustStillStand } from '../drive/place.js';
import { houseRecordText, isProvenRecord, namesIn, recordHeadersBelow, wholeRecordsIn } from '../drive/records-beside.js';

/** A place as it is read from. */
export interface ReadPlace {
  readonly id: string;
  readonly name: string;
  readonly root: string;
  /** That its drive carries now. */
  readonly mark: string;
}

/** Where a record stands, and of which intake it is. */
export interface Header extends Pick<RecordHeader, 'houseId' | 'intakeId' | 'intake' | 'receivedAt' | 'station' | 'writtenAt'> {
  readonly place: ReadPlace;
  readonly folder: string;
  /** Of its file. */
  readonly name: string;
}

/**
 * Every record that stands on places, without what it says of its items. @throws when it was told to stop, or a place went
 * away: what was not found there may stand there
 */
export async function* headersOn(places: readonly ReadPlace[], signal: AbortSignal): AsyncGenerator<Header> {
  for (const place of places) {
    for await (const { folder, name, header } of recordHeadersBelow(place.root, signal)) yield { ...header, place, folder, name };
    await mustStillStand(place);
  }
}

/** What an intake is told apart by: its id, or what records said before they had ids. */
export const keyOf = ({
  intakeId,
  intake,
  receivedAt,
  station,
}: Pick<Header, 'intakeId' | 'intake' | 'receivedAt' | 'station'>): string =>
  intakeId ?? JSON.stringify([intake, receivedAt, station]);

/** The records of one intake, read whole, each with whether its second or the list beside it prove it. */
export async function recordsOf(headers: readonly Header[]): Promise<RecordFound<IntakeRecord>[]> {
  const found: RecordFound<IntakeRecord>[] = [];
  const wanted = new Set(headers.map(keyOf));
  for (const { place, folder, name } of headers) {
    const path = join(place.root, folder);
    for (const { record } of await wholeRecordsIn(path, [name]))
      if (wanted.has(keyOf(record))) found.push({ placeId: place.id, folder, proven: await isProvenRecord(path, name), record });
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
