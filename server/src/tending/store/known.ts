import type { Kind } from '@tally/core/card';
import type { CopyState } from '@tally/core/copies';
import { foldName } from '@tally/core/rule';
import type { Db } from '../../db/database.js';
import { inAndBelow } from '../../db/paths.js';

/** A copy as a place should have it, with what it is compared by. */
export interface CopyRow {
  readonly filedItemId: number;
  readonly itemId: number;
  readonly intakeId: number;
  readonly folder: string;
  readonly name: string;
  /** Where the lists stand that explain it. */
  readonly listFolder: string;
  /** Of the bytes as they came from the card. */
  readonly cardBytes: number;
  readonly cardHash: Buffer | null;
  /** Of the file as it should stand there. */
  readonly bytes: number;
  readonly modifiedAt: Date;
  readonly hash: Buffer | null;
  readonly quickHash: Buffer | null;
  readonly state: CopyState;
  readonly talliedAt: Date | null;
  readonly hasSidecar: boolean;
  /** XXH128 of the sidecar as we wrote it. */
  readonly sidecarHash: Buffer | null;
  /** The sidecar as it was left there, with what others had in it: XXH128, bytes, its time (null: not kept). */
  readonly sidecarStands: Buffer | null;
  readonly sidecarBytes: number | null;
  readonly sidecarModifiedAt: Date | null;
  /** Places whose copy tallies, without this one. */
  readonly tallied: string[] | null;
  readonly waiting: boolean;
  readonly moving: boolean;
}

/** Copies at a place. @param of a condition on `filed_item f`; $1: the place */
const copiesAt = (of: string) => `
  select f.id as "filedItemId", f.item_id as "itemId", f.intake_id as "intakeId", f.folder, f.name, f.list_folder as "listFolder",
    f.bytes as "cardBytes", f.hash as "cardHash", i.modified_at as "modifiedAt", c.state, c.tallied_at as "talliedAt",
    coalesce(case when w.how = 'inside' then w.bytes end, f.bytes) as bytes, case when w.how = 'inside' then w.hash else f.hash end as hash,
    case when w.how = 'inside' then w.quick_hash else f.quick_hash end as "quickHash", coalesce(w.how = 'beside', false) as "hasSidecar",
    case when w.how = 'beside' then w.hash end as "sidecarHash", case when w.how = 'beside' then coalesce(s.hash, w.hash) end as "sidecarStands",
    case when w.how = 'beside' then coalesce(s.bytes, w.bytes) end as "sidecarBytes", s.modified_at as "sidecarModifiedAt",
    (select array_agg(o.place_id) from copy o where o.filed_item_id = f.id and o.place_id <> $1 and o.state = 'tallied') as tallied,
    exists (select from copy o where o.filed_item_id = f.id and o.place_id <> $1 and o.state in ('waiting', 'copying')) as waiting,
    is_moving(f.id, c.place_id) as moving
  from filed_item f join copy c on c.filed_item_id = f.id and c.place_id = $1 join item i on i.id = f.item_id
    left join credit_stands s on s.filed_item_id = f.id and s.place_id = $1
    left join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version
  where ${of}`;

/** Copies that a place should have in these folders. */
export async function copiesInFolders(db: Db, placeId: string, folders: readonly string[]): Promise<CopyRow[]> {
  // Most folders of a drive that is not ours have nothing filed in them: that is told at once.
  const filed = await db.query<{ folded: string }[]>(
    'select folded from filed_folder where folded = any($1::text[]) and items > 0',
    [folders.map(foldName)],
  );
  if (!filed.length) return [];
  return db.query<CopyRow[]>(copiesAt('f.folded_folder = any($2::text[])'), [placeId, filed.map(({ folded }) => folded)]);
}

/** Copies of these filed items at a place. */
export const copiesOfFiled = (db: Db, placeId: string, filedItemIds: readonly number[]): Promise<CopyRow[]> =>
  db.query<CopyRow[]>(copiesAt('f.id = any($2::int[])'), [placeId, filedItemIds]);

/** Of these paths, those under which a place has a copy of something by now. */
export async function filedAtNow(db: Db, placeId: string, paths: readonly string[]): Promise<string[]> {
  const rows = await db.query<{ path: string }[]>(
    `select q.path from unnest($2::text[], $3::text[]) as q(path, folded) join filed_item f on f.folded_path = q.folded
       join copy c on c.filed_item_id = f.id and c.place_id = $1
     where c.state not in ('waiting', 'missing') and concat_ws('/', nullif(f.folder, ''), f.name) = q.path`,
    [placeId, paths, paths.map(foldName)],
  );
  return rows.map(({ path }) => path);
}

/** Folders that something is filed in, after one, in their order. */
export async function filedFoldersAfter(db: Db, folded: string, limit: number): Promise<{ folded: string; folder: string }[]> {
  return db.query('select folded, folder from filed_folder where folded > $1 and items > 0 order by folded limit $2', [
    folded,
    limit,
  ]);
}

/** How many files are filed in a folder and below. */
export async function filedBelow(db: Db, folder: string): Promise<number> {
  const folded = foldName(folder);
  const [{ count }] = await db.query<[{ count: number }]>(
    `select coalesce(sum(items), 0)::int as count from filed_folder where ${inAndBelow('folded', '$1')}`,
    [folded],
  );
  return count;
}

/** Filed items in a folder and below. */
export async function filedIn(
  db: Db,
  folder: string,
  limit: number,
): Promise<
  { filedItemId: number; itemId: number; intakeId: number; folder: string; listFolder: string; name: string; n: number | null }[]
> {
  return db.query(
    `select id as "filedItemId", item_id as "itemId", intake_id as "intakeId", folder, list_folder as "listFolder", name, n
     from filed_item where folded_folder in (
       select folded from filed_folder where ${inAndBelow('folded', '$1')}) order by id limit $2`,
    [foldName(folder), limit],
  );
}

/** Assignments of what is filed in a folder itself, or in it and below; two of them at most. */
export async function assignmentsFiledIn(db: Db, folder: string, below: boolean): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select distinct coalesce(i.assignment_id, n.assignment_id) as id from filed_item f join item i on i.id = f.item_id join intake n on n.id = f.intake_id
     where f.folded_folder in (select folded from filed_folder where folded = $1 or ($2 and ($1 = '' or ${inAndBelow('folded', '$1')})))
       and coalesce(i.assignment_id, n.assignment_id) is not null limit 2`,
    [foldName(folder), below],
  );
  return rows.map(({ id }) => id);
}

/** Filed items that stand in a folder itself, with what tells which places must hold them. */
export async function heldIn(db: Db, folder: string): Promise<{ filedItemId: number; kind: Kind; assignment: string | null }[]> {
  return db.query(
    `select f.id as "filedItemId", i.kind, a.slug as assignment from filed_item f join item i on i.id = f.item_id
       join intake n on n.id = f.intake_id left join assignment a on a.id = coalesce(i.assignment_id, n.assignment_id)
     where f.folded_folder = $1 order by f.id`,
    [foldName(folder)],
  );
}

/** Of these sizes, those that something filed has: strays of another one are nothing that is filed. */
export async function sizesFiled(db: Db, sizes: readonly number[]): Promise<Set<number>> {
  const rows = await db.query<{ bytes: number }[]>(
    `select q.bytes from unnest($1::bigint[]) as q(bytes) where exists (select from filed_item f where f.bytes = q.bytes)
       or exists (select from credit_written w where w.how = 'inside' and w.bytes = q.bytes)`,
    [sizes],
  );
  return new Set(rows.map(({ bytes }) => bytes));
}

/** A filed item by what tells its bytes; with credit written into it, by those it has now, too. */
export interface FiledBytes {
  readonly filedItemId: number;
  readonly bytes: number;
  readonly quickHash: Buffer;
  readonly hash: Buffer;
  readonly path: string;
}

/** Filed items that have one of these sizes and fast identities: alike, as far as that tells. */
export const filedAlike = (
  db: Db,
  some: readonly { readonly bytes: number; readonly quickHash: Buffer }[],
): Promise<FiledBytes[]> =>
  db.query<FiledBytes[]>(
    `with q as (select distinct * from unnest($1::bigint[], $2::bytea[]) as q(bytes, quick_hash))
     select f.id as "filedItemId", f.bytes, f.quick_hash as "quickHash", f.hash, concat_ws('/', nullif(f.folder, ''), f.name) as path
     from q join filed_item f on f.bytes = q.bytes and f.quick_hash = q.quick_hash where f.hash is not null
     union all select f.id, w.bytes, w.quick_hash, w.hash, concat_ws('/', nullif(f.folder, ''), f.name)
     from q join credit_written w on w.bytes = q.bytes and w.quick_hash = q.quick_hash and w.how = 'inside' and w.hash is not null
       join filed_item f on f.id = w.filed_item_id`,
    [some.map(({ bytes }) => bytes), some.map(({ quickHash }) => quickHash)],
  );

/** A filed item as a mend names it. */
export interface FiledRow {
  readonly filedItemId: number;
  readonly itemId: number;
  readonly intakeId: number;
  readonly folder: string;
  readonly listFolder: string;
  readonly name: string;
  readonly n: number | null;
}

/** What is filed of these items, with their companions. */
export const filedWithCompanions = (db: Db, itemIds: readonly number[]): Promise<FiledRow[]> =>
  db.query<FiledRow[]>(
    `select f.id as "filedItemId", f.item_id as "itemId", f.intake_id as "intakeId", f.folder, f.list_folder as "listFolder", f.name, f.n
     from (select distinct intake_id, leader from item where id = any($1::int[])) l
       join item o on o.intake_id = l.intake_id and o.leader = l.leader join filed_item f on f.item_id = o.id
     where f.hash is not null order by f.id`,
    [itemIds],
  );

/** What is said of items now of what a mend may say. */
export const saidNow = (
  db: Db,
  itemIds: readonly number[],
): Promise<{ itemId: number; contributorId: number | null; assignmentId: number | null; capturedLocal: string }[]> =>
  db.query(
    `select id as "itemId", contributor_id as "contributorId", assignment_id as "assignmentId", captured_local as "capturedLocal"
     from item where id = any($1::int[])`,
    [itemIds],
  );

/** Items of filed ones. */
export async function itemsOfFiled(db: Db, filedItemIds: readonly number[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>('select item_id as id from filed_item where id = any($1::int[]) order by id', [
    filedItemIds,
  ]);
  return rows.map(({ id }) => id);
}

/** Keeps filed items against others until the transaction ends. @returns where they stand now. */
export async function holdFiled(
  tx: Db,
  filedItemIds: readonly number[],
): Promise<{ filedItemId: number; intakeId: number; path: string; state: string }[]> {
  return tx.query(
    `select f.id as "filedItemId", f.intake_id as "intakeId", concat_ws('/', nullif(f.folder, ''), f.name) as path, n.state from filed_item f join intake n on n.id = f.intake_id
     where f.id = any($1::int[]) order by f.id for update of f`,
    [filedItemIds],
  );
}

/** Names that are filed or promised in these folders, folded. */
export async function namesInFolders(db: Db, folders: readonly string[]): Promise<string[]> {
  const rows = await db.query<{ path: string }[]>(
    'select folded_path as path from filed_item where folded_folder = any($1::text[])',
    [folders.map(foldName)],
  );
  return rows.map(({ path }) => path);
}

/** Of these folders, those where lists of what a place has stand, and the intakes they are of. @param without filed items that do not count. */
export async function listsIn(
  db: Db,
  placeId: string,
  folders: readonly string[],
  without: readonly number[] = [],
): Promise<{ folder: string; intakes: number[] }[]> {
  return db.query(
    `select min(f.list_folder) as folder, array_agg(distinct f.intake_id) as intakes
     from filed_item f join copy c on c.filed_item_id = f.id and c.place_id = $1
     where f.folded_list_folder = any($2::text[]) and f.id <> all($3::int[]) group by f.folded_list_folder`,
    [placeId, folders.map(foldName), without],
  );
}

/** Folders in which lists of filed items stand that are in a folder and below, and the intakes they are of. */
export async function listsBelow(db: Db, folder: string): Promise<{ folder: string; intakes: number[] }[]> {
  return db.query(
    `select list_folder as folder, array_agg(distinct intake_id) as intakes from filed_item where folded_folder in (
       select folded from filed_folder where ${inAndBelow('folded', '$1')}) group by 1`,
    [foldName(folder)],
  );
}
