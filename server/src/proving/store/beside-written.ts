import { foldName } from '@tally/core/rule';
import type { Db } from '../../db/database.js';
import { inAndBelow } from '../../db/paths.js';

/** A list, record or history that we wrote beside filed files of a folder at a place. */
export interface BesideWritten {
  /** From the folder that it explains, `/` between folders. */
  readonly name: string;
  readonly bytes: number;
  /** XXH128. */
  readonly hash: Buffer;
}

/**
 * Keeps what was written in a folder at a place, so that a look tells what is gone or spoilt. Records of intakes that have
 * nothing there any more are forgotten. @param gone names that stand no more
 */
export async function keepWritten(
  db: Db,
  { placeId, folder }: { readonly placeId: string; readonly folder: string },
  written: readonly BesideWritten[],
  gone: readonly string[],
): Promise<void> {
  await forgetWritten(db, placeId, folder, gone);
  await db.query(
    `delete from beside_written b where b.place_id = $1 and b.folder = $2 and b.intake is not null and not exists (
       select from filed_item f join intake n on n.id = f.intake_id where f.folded_list_folder = $3 and n.number = b.intake)`,
    [placeId, folder, foldName(folder)],
  );
  await db.query(
    `insert into beside_written (place_id, folder, name, bytes, hash, intake)
     select $1, $2, q.name, q.bytes, q.hash, substring(q.name from '(?:^|/)intake-(\\d{4}-\\d{4,})(?:-\\d+)?[.]json$')
     from unnest($3::text[], $4::bigint[], $5::bytea[]) as q(name, bytes, hash) order by q.name
     on conflict (place_id, folder, name) do update set bytes = excluded.bytes, hash = excluded.hash
       where beside_written.hash <> excluded.hash`,
    [placeId, folder, written.map(({ name }) => name), written.map(({ bytes }) => bytes), written.map(({ hash }) => hash)],
  );
}

/** What was written in these folders of a place. */
export const writtenIn = (
  db: Db,
  placeId: string,
  folders: readonly string[],
): Promise<(BesideWritten & { readonly folder: string })[]> =>
  db.query(
    `select folder, name, bytes, hash from beside_written where place_id = $1 and folder = any($2::text[]) order by folder, name`,
    [placeId, folders],
  );

/** Those of these folders whose lists are to be written anew at a place. */
export async function dueIn(db: Db, placeId: string, folders: readonly string[]): Promise<Set<string>> {
  const rows = await db.query<{ folder: string }[]>(
    'select distinct folder from beside_due where place_id = $1 and folder = any($2::text[])',
    [placeId, folders],
  );
  return new Set(rows.map(({ folder }) => folder));
}

/** What is about to be removed, or is gone, is expected no more. @param names null: all that was written in the folder */
export async function forgetWritten(
  db: Db,
  placeId: string,
  folder: string,
  names: readonly string[] | null = null,
): Promise<void> {
  if (names?.length === 0) return;
  await db.query(
    'delete from beside_written where place_id = $1 and folder = $2 and ($3::text[] is null or name = any($3::text[]))',
    [placeId, folder, names],
  );
}

/** A folder has another name at a place: what was written in it and below is expected under the old one no more. */
export async function forgetWrittenBelow(db: Db, placeId: string, folder: string): Promise<void> {
  await db.query(`delete from beside_written where place_id = $1 and ${inAndBelow('folder', '$2')}`, [placeId, folder]);
}
