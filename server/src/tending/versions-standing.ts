import { type Version, versionsOf } from '../crediting/index.js';
import { hashFile } from '../drive/hashing.js';
import { sizeAndTime } from '../drive/move-file.js';
import type { House } from '../house/index.js';
import { groupedBy } from './grouped.js';
import type { CopyRow } from './store/known.js';

/** What of ours may stand in a copy, by filed items: with credit inside it, as it was said once. */
export async function versionsInside(house: Pick<House, 'db'>, rows: readonly CopyRow[]): Promise<Map<number, Version[]>> {
  const versions = await versionsOf(
    house.db,
    rows.map(({ filedItemId }) => filedItemId),
  );
  return groupedBy(
    versions.filter(({ how }) => how === 'inside'),
    ({ filedItemId }) => filedItemId,
  );
}

/**
 * Which version of ours a file is: a run that died may have put credit into it, or taken some out, before it could say so.
 * @param inside what may stand in it @returns 0: as it was on the card. null: none of ours @throws the system's error
 */
export async function versionStanding(
  { files }: Pick<House, 'files'>,
  path: string,
  row: CopyRow,
  inside: readonly Version[],
  signal?: AbortSignal,
): Promise<number | null> {
  const bytes = (await sizeAndTime(path))?.bytes;
  const may = [...inside, { version: 0, bytes: row.cardBytes, hash: row.cardHash }].filter((one) => one.bytes === bytes);
  if (!inside.length || !may.length) return null;
  const hash = await hashFile(path, signal, files);
  return may.find((one) => one.hash?.equals(hash))?.version ?? null;
}
