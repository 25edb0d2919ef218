import { foldName, pathIn } from '@tally/core/rule';
import { setStands } from '../../crediting/index.js';
import type { Db } from '../../db/database.js';

/** The name that a filed item gets. */
export interface NewName {
  readonly filedItemId: number;
  readonly folder: string;
  readonly name: string;
  /** Where the lists stand that explain it. */
  readonly listFolder: string;
  readonly n: number | null;
}

/**
 * Gives filed items other names, and keeps the old ones as names they had. Names of one call may be handed on among its
 * items: all of them are free for a moment. Call it in a transaction.
 * @throws the database's error 23505 when a name is somebody else's.
 */
export async function renameFiled(tx: Db, mendId: number, at: Date, names: readonly NewName[]): Promise<void> {
  for (let from = 0; from < names.length; from += 5000) {
    const ids = names.slice(from, from + 5000).map(({ filedItemId }) => filedItemId);
    await tx.query(
      `insert into former_path (filed_item_id, path, folded_path, folded_folder, n, until, mend_id)
       select id, concat_ws('/', nullif(folder, ''), name), folded_path, folded_folder, n, $2, $3 from filed_item where id = any($1::int[]) order by id`,
      [ids, at, mendId],
    );
    await tx.query(`update filed_item set folded_path = E'\\x01' || id where id = any($1::int[])`, [ids]);
  }
  for (let from = 0; from < names.length; from += 5000) {
    const some = names.slice(from, from + 5000);
    await tx.query(
      `update filed_item f set folder = q.folder, folded_folder = q.folded_folder, name = q.name, folded_path = q.folded_path,
         list_folder = q.list_folder, folded_list_folder = q.folded_list_folder, n = q.n
       from unnest($1::int[], $2::text[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::int[])
         as q(id, folder, folded_folder, name, folded_path, list_folder, folded_list_folder, n)
       where f.id = q.id`,
      [
        some.map((one) => one.filedItemId),
        some.map((one) => one.folder),
        some.map((one) => foldName(one.folder)),
        some.map((one) => one.name),
        some.map((one) => foldName(pathIn(one.folder, one.name))),
        some.map((one) => one.listFolder),
        some.map((one) => foldName(one.listFolder)),
        some.map((one) => one.n),
      ],
    );
  }
}

/** A filed item that a path leads to: by the name it has, else by one it had. */
export interface LedTo {
  readonly filedItemId: number;
  readonly itemId: number;
  readonly intakeId: number;
  readonly intakeNumber: string;
  readonly path: string;
  /** Until when it was called as was asked; null: it is called so now. */
  readonly until: Date | null;
}

export async function filedAtPath(db: Db, path: string): Promise<LedTo | null> {
  const rows = await db.query<LedTo[]>(
    `select f.id as "filedItemId", f.item_id as "itemId", f.intake_id as "intakeId", n.number as "intakeNumber",
       concat_ws('/', nullif(f.folder, ''), f.name) as path, q.until
     from (select id, null::timestamptz as until from filed_item where folded_path = $1
       union all select filed_item_id, until from former_path where folded_path = $1) q
     join filed_item f on f.id = q.id join intake n on n.id = f.intake_id order by q.until desc nulls first limit 1`,
    [foldName(path)],
  );
  return rows[0] ?? null;
}

/** What stood in a folder once, and where it is now: the newest name first. */
export async function movedAway(
  db: Db,
  foldedFolder: string,
): Promise<{ path: string; now: string; until: Date; hash: string | null }[]> {
  return db.query(
    `select distinct on (p.path) p.path, concat_ws('/', nullif(f.folder, ''), f.name) as now, p.until, encode(f.hash, 'hex') as hash
     from former_path p join filed_item f on f.id = p.filed_item_id
     where p.folded_folder = $1 and f.folded_path <> p.folded_path
       and not exists (select from filed_item o where o.folded_path = p.folded_path) order by p.path, p.until desc`,
    [foldedFolder],
  );
}

/** A copy at a place. */
export interface CopyAt {
  readonly filedItemId: number;
  readonly placeId: string;
}

/** Copies that are lost or spoilt are to be made anew from another place. @returns how many there are to make. */
export async function askCopiesAgain(db: Db, copies: readonly CopyAt[]): Promise<number> {
  const [, count]: [unknown, number] = await db.query(
    `update copy c set state = 'waiting', tallied_at = null, proof = null, problem = null
     from unnest($1::int[], $2::text[]) as q(id, place_id)
     where c.filed_item_id = q.id and c.place_id = q.place_id and c.state in ('missing', 'differs', 'unreadable')`,
    [copies.map(({ filedItemId }) => filedItemId), copies.map(({ placeId }) => placeId)],
  );
  return count;
}

/** A copy that was missing or spoilt stands as it should again. */
export async function standsAgain(db: Db, copies: readonly CopyAt[], at: Date, proof: string): Promise<void> {
  await db.query(
    `update copy c set state = 'tallied', tallied_at = $3, proof = $4, problem = null from unnest($1::int[], $2::text[]) as q(id, place_id)
     where c.filed_item_id = q.id and c.place_id = q.place_id and c.state <> 'tallied'`,
    [copies.map(({ filedItemId }) => filedItemId), copies.map(({ placeId }) => placeId), at, proof],
  );
}

/** A place is to have copies of these, too. */
export async function wishCopies(db: Db, filedItemIds: readonly number[], placeId: string): Promise<void> {
  await db.query(
    `insert into copy (filed_item_id, place_id, state) select id, $2, 'waiting' from unnest($1::int[]) id order by id on conflict do nothing`,
    [filedItemIds, placeId],
  );
}

/** A place has these no more, and is not to. */
export async function dropCopies(db: Db, copies: readonly CopyAt[]): Promise<void> {
  await setStands(
    db,
    copies.map((copy) => ({ ...copy, version: 0 })),
  );
  await db.query(
    `delete from copy c using unnest($1::int[], $2::text[]) as q(id, place_id) where c.filed_item_id = q.id and c.place_id = q.place_id`,
    [copies.map(({ filedItemId }) => filedItemId), copies.map(({ placeId }) => placeId)],
  );
}

/** A file that was found on a place, as it is taken into the logbook. */
export interface AdoptedFile {
  readonly itemId: number;
  readonly folder: string;
  readonly name: string;
  readonly listFolder: string;
  readonly n: number | null;
  readonly bytes: number;
  readonly hash: Buffer;
  readonly quickHash: Buffer;
}

/**
 * Takes files into the logbook where they stand: their copy there tallies, because it was read a moment ago and is what it
 * is. @param others places that are to have copies. @returns ids of those whose names were free.
 */
export async function adoptFiled(
  tx: Db,
  intakeId: number,
  placeId: string,
  files: readonly AdoptedFile[],
  othersOf: (itemId: number) => readonly string[],
  at: Date,
): Promise<{ filedItemId: number; itemId: number }[]> {
  const made = await tx.query<{ filedItemId: number; itemId: number }[]>(
    `insert into filed_item (intake_id, item_id, folder, folded_folder, name, folded_path, n, bytes, list_folder, folded_list_folder, hash, quick_hash, filed_at)
     select $1, q.*, $13 from unnest($2::int[], $3::text[], $4::text[], $5::text[], $6::text[], $7::int[], $8::bigint[], $9::text[], $10::text[], $11::bytea[], $12::bytea[]) as q
     on conflict do nothing returning id as "filedItemId", item_id as "itemId"`,
    [
      intakeId,
      files.map((one) => one.itemId),
      files.map((one) => one.folder),
      files.map((one) => foldName(one.folder)),
      files.map((one) => one.name),
      files.map((one) => foldName(pathIn(one.folder, one.name))),
      files.map((one) => one.n),
      files.map((one) => one.bytes),
      files.map((one) => one.listFolder),
      files.map((one) => foldName(one.listFolder)),
      files.map((one) => one.hash),
      files.map((one) => one.quickHash),
      at,
    ],
  );
  const waiting = made.flatMap(({ filedItemId, itemId }) => othersOf(itemId).map((place) => [filedItemId, place] as const));
  await tx.query(
    `insert into copy (filed_item_id, place_id, state, tallied_at, proof)
     select id, $2, 'tallied', $3::timestamptz, 'read where it stands' from unnest($1::int[]) id
     union all select q.id, q.place_id, 'waiting', null::timestamptz, null from unnest($4::int[], $5::text[]) as q(id, place_id)`,
    [made.map(({ filedItemId }) => filedItemId), placeId, at, waiting.map(([id]) => id), waiting.map(([, place]) => place)],
  );
  return made;
}

/** Takes filed items out of the logbook whose files were removed for good. Their copies are gone. */
export async function forgetFiled(tx: Db, filedItemIds: readonly number[]): Promise<void> {
  await tx.query('delete from copy where filed_item_id = any($1::int[])', [filedItemIds]);
  await tx.query('delete from filed_item where id = any($1::int[])', [filedItemIds]);
}
