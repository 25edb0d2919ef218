import type { CopyState } from '@tally/core/copies';
import { foldName } from '@tally/core/rule';
import type { Db } from '../../db/database.js';
import { inAndBelow } from '../../db/paths.js';

/** A file that is filed in a folder, with its copies wherever they are. */
export interface FiledHere {
  readonly name: string;
  readonly filedItemId: number;
  readonly itemId: number;
  readonly intakeId: number;
  readonly intakeNumber: string;
  readonly kind: string;
  readonly pictured: boolean;
  readonly bytes: number;
  readonly copies: { place: string; state: CopyState }[];
}

/** What is filed in a folder itself, by name, after one. */
export async function filedHere(db: Db, folder: string, after: string, limit: number): Promise<FiledHere[]> {
  return db.query(
    `select q.*, (select json_agg(json_build_object('place', p.name, 'state', c.state) order by p.position) from copy c join place p on p.id = c.place_id
         where c.filed_item_id = q."filedItemId") as copies
     from (select f.name, f.id as "filedItemId", f.item_id as "itemId", f.intake_id as "intakeId", n.number as "intakeNumber", i.kind, i.pictured, f.bytes
       from filed_item f join item i on i.id = f.item_id join intake n on n.id = f.intake_id
       where f.folded_folder = $1 and f.name > $2 and f.hash is not null order by f.name limit $3) q order by q.name`,
    [foldName(folder), after, limit],
  );
}

/** Strays in a folder itself, by name, after one. */
export async function straysHere(
  db: Db,
  placeId: string,
  folder: string,
  after: string,
  limit: number,
): Promise<{ id: number; path: string; bytes: number; twin: string | null }[]> {
  return db.query(
    `select s.id, s.path, s.bytes, nullif(concat_ws('/', nullif(f.folder, ''), f.name), '') as twin
     from stray s left join filed_item f on f.id = s.twin_of
     where s.place_id = $1 and s.folder = $2 and s.path > $3 order by s.path limit $4`,
    [placeId, folder, after, limit],
  );
}

/** What was found about files of a folder itself. */
export async function findingsHere(
  db: Db,
  placeId: string,
  folder: string,
): Promise<{ kind: string; path: string; other: string | null; what: string }[]> {
  return db.query(
    'select kind, path, other, what from drive_finding where place_id = $1 and folder = $2 and path <> $2 limit 2000',
    [placeId, folder],
  );
}

/** Of these folders, those that hold folders. */
export async function withFolders(db: Db, placeId: string, paths: readonly string[]): Promise<string[]> {
  const rows = await db.query<{ path: string }[]>(
    `select q.path from unnest($2::text[]) as q(path) where exists (select from stood_folder f where f.place_id = $1 and f.parent = q.path)`,
    [placeId, paths],
  );
  return rows.map(({ path }) => path);
}

/** How many of what is filed in these folders and below each place has. */
export async function coverageOf(db: Db, paths: readonly string[]): Promise<{ placeId: string; path: string; known: number }[]> {
  return db.query(
    `select f.place_id as "placeId", f.path, f.all_known as known from place p join stood_folder f on f.place_id = p.id and f.path = any($1::text[])`,
    [paths],
  );
}

/** Items that are filed in a folder and below, or at these paths. */
export async function itemsIn(db: Db, foldedPath: string, limit: number): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select item_id as id from filed_item where folded_path = $1
     union all select f.item_id from filed_item f where f.folded_folder in (
       select folded from filed_folder where ${inAndBelow('folded', '$1')}) limit $2`,
    [foldedPath, limit],
  );
  return rows.map(({ id }) => id);
}
