import type { Db } from '../../db/database.js';
import { inAndBelow } from '../../db/paths.js';

/** A folder as it stood. */
export interface FolderRow {
  readonly path: string;
  readonly parent: string | null;
  readonly name: string;
  readonly changedMs: number | null;
  readonly files: number;
  readonly bytes: number;
  readonly known: number;
  readonly strays: number;
  readonly trouble: number;
}

export interface FolderSums extends FolderRow {
  readonly allFiles: number;
  readonly allBytes: number;
  readonly allKnown: number;
  readonly allStrays: number;
  readonly allTrouble: number;
}

/** Keeps how folders stand, with the sums of what is below them. */
export async function keepFolders(db: Db, placeId: string, folders: readonly FolderSums[]): Promise<void> {
  for (let from = 0; from < folders.length; from += 2000) {
    const some = folders.slice(from, from + 2000);
    await db.query(
      `insert into stood_folder (place_id, path, parent, name, changed_ms, files, bytes, known, strays, trouble, all_files, all_bytes, all_known, all_strays, all_trouble)
       select $1, q.* from unnest($2::text[], $3::text[], $4::text[], $5::float8[], $6::int[], $7::bigint[], $8::int[], $9::int[], $10::int[],
         $11::int[], $12::bigint[], $13::int[], $14::int[], $15::int[]) as q
       on conflict (place_id, path) do update set changed_ms = excluded.changed_ms, files = excluded.files, bytes = excluded.bytes,
         known = excluded.known, strays = excluded.strays, trouble = excluded.trouble, all_files = excluded.all_files, all_bytes = excluded.all_bytes,
         all_known = excluded.all_known, all_strays = excluded.all_strays, all_trouble = excluded.all_trouble`,
      [
        placeId,
        some.map((one) => one.path),
        some.map((one) => one.parent),
        some.map((one) => one.name),
        some.map((one) => one.changedMs),
        some.map((one) => one.files),
        some.map((one) => one.bytes),
        some.map((one) => one.known),
        some.map((one) => one.strays),
        some.map((one) => one.trouble),
        some.map((one) => one.allFiles),
        some.map((one) => one.allBytes),
        some.map((one) => one.allKnown),
        some.map((one) => one.allStrays),
        some.map((one) => one.allTrouble),
      ],
    );
  }
}

/** Forgets folders that do not stand any more, and what was found in them of strays. */
export async function forgetFolders(db: Db, placeId: string, paths: readonly string[]): Promise<void> {
  await db.query('delete from stood_folder where place_id = $1 and path = any($2::text[])', [placeId, paths]);
  await db.query('delete from stray where place_id = $1 and folder = any($2::text[])', [placeId, paths]);
}

/** Every folder of a place, as it stood. */
export async function foldersOfPlace(db: Db, placeId: string): Promise<FolderSums[]> {
  return db.query<FolderSums[]>(
    `select path, parent, name, changed_ms as "changedMs", files, bytes, known, strays, trouble, all_files as "allFiles", all_bytes as "allBytes",
       all_known as "allKnown", all_strays as "allStrays", all_trouble as "allTrouble" from stood_folder where place_id = $1`,
    [placeId],
  );
}

export async function folderAt(db: Db, placeId: string, path: string): Promise<FolderSums | null> {
  const rows = await db.query<FolderSums[]>(
    `select path, parent, name, changed_ms as "changedMs", files, bytes, known, strays, trouble, all_files as "allFiles", all_bytes as "allBytes",
       all_known as "allKnown", all_strays as "allStrays", all_trouble as "allTrouble"
     from stood_folder where place_id = $1 and path = $2`,
    [placeId, path],
  );
  return rows[0] ?? null;
}

/** Folders in a folder, by name, after one. */
export async function foldersIn(db: Db, placeId: string, parent: string, after: string, limit: number): Promise<FolderSums[]> {
  return db.query(
    `select path, parent, name, changed_ms as "changedMs", files, bytes, known, strays, trouble, all_files as "allFiles", all_bytes as "allBytes",
       all_known as "allKnown", all_strays as "allStrays", all_trouble as "allTrouble"
     from stood_folder where place_id = $1 and parent = $2 and name > $3 order by name limit $4`,
    [placeId, parent, after, limit],
  );
}

/** A stray as it was seen. */
export interface StrayRow {
  readonly id: number;
  readonly path: string;
  readonly folder: string;
  readonly bytes: number;
  readonly modifiedAt: Date;
  readonly since: Date;
  readonly twinOf: number | null;
  /** Where its twin stands. */
  readonly twin: string | null;
  readonly compared: boolean;
}

const STRAYS = `select s.id, s.path, s.folder, s.bytes, s.modified_at as "modifiedAt", s.since, s.twin_of as "twinOf", s.compared,
    nullif(concat_ws('/', nullif(f.folder, ''), f.name), '') as twin
  from stray s left join filed_item f on f.id = s.twin_of`;

/** Strays of a place that were not compared with what is filed, or all of them, after one. */
export const straysAfter = (db: Db, placeId: string, after: number, limit: number): Promise<StrayRow[]> =>
  db.query<StrayRow[]>(`${STRAYS} where s.place_id = $1 and s.id > $2 order by s.id limit $3`, [placeId, after, limit]);

/** Strays that stand where people put them, not where a house gathers or keeps some; not such as could not be moved before. */
export const straysToGather = (db: Db, placeId: string, limit: number): Promise<StrayRow[]> =>
  db.query<StrayRow[]>(
    `${STRAYS} where s.place_id = $1 and s.compared and left(s.path, 1) <> '_'
       and not exists (select from mend_move v where v.place_id = s.place_id and v.state = 'failed' and v.from_path = s.path)
     order by s.id limit $2`,
    [placeId, limit],
  );

/** Strays in these folders. */
export const straysOfFolders = (db: Db, placeId: string, folders: readonly string[]): Promise<StrayRow[]> =>
  db.query<StrayRow[]>(`${STRAYS} where s.place_id = $1 and s.folder = any($2::text[]) order by s.id`, [placeId, folders]);

/**
 * Keeps which strays stand in these folders: what was seen before keeps since when, and what it was compared with unless
 * it was changed.
 */
export async function keepStrays(
  db: Db,
  placeId: string,
  folders: readonly string[],
  strays: readonly { readonly path: string; readonly folder: string; readonly bytes: number; readonly modifiedMs: number }[],
  at: Date,
): Promise<void> {
  await db.query('delete from stray where place_id = $1 and folder = any($2::text[]) and path <> all($3::text[])', [
    ...[placeId, folders, strays.map(({ path }) => path)],
  ]);
  for (let from = 0; from < strays.length; from += 5000) {
    const some = strays.slice(from, from + 5000);
    await db.query(
      `insert into stray as s (place_id, path, folder, bytes, modified_at, since) select $1, q.*, $6 from unnest($2::text[], $3::text[], $4::bigint[], $5::timestamptz[]) as q
       on conflict (place_id, path) do update set bytes = excluded.bytes, modified_at = excluded.modified_at, compared = false, twin_of = null
       where s.bytes <> excluded.bytes or s.modified_at <> excluded.modified_at`,
      [
        placeId,
        some.map((one) => one.path),
        some.map((one) => one.folder),
        some.map((one) => one.bytes),
        some.map((one) => new Date(Math.floor(one.modifiedMs))),
        at,
      ],
    );
  }
}

/** Says what strays were compared with. */
export async function setTwins(
  db: Db,
  placeId: string,
  compared: readonly { readonly path: string; readonly twinOf: number | null }[],
): Promise<void> {
  await db.query(
    `update stray s set compared = true, twin_of = q.twin_of from unnest($2::text[], $3::int[]) as q(path, twin_of)
     where s.place_id = $1 and s.path = q.path`,
    [placeId, compared.map(({ path }) => path), compared.map(({ twinOf }) => twinOf)],
  );
}

/** Strays that became something else: adopted, or given another path. */
export async function forgetStrays(db: Db, placeId: string, paths: readonly string[]): Promise<void> {
  await db.query('delete from stray where place_id = $1 and path = any($2::text[])', [placeId, paths]);
}

/** Do strays stand in a folder or below it, at any place? */
export async function straysBelow(db: Db, folder: string): Promise<boolean> {
  const [{ some }] = await db.query<[{ some: boolean }]>(
    `select exists (select from place p join stray s on s.place_id = p.id and ${inAndBelow('s.folder', '$1')}) as some`,
    [folder],
  );
  return some;
}

/** These folders are to be listed in the next round, whatever their time says. */
export async function listAgain(db: Db, placeId: string, paths: readonly string[]): Promise<void> {
  await db.query('update stood_folder set changed_ms = null where place_id = $1 and path = any($2::text[])', [placeId, paths]);
}
