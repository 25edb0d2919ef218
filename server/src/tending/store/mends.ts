import type { Mend, MendMove, SaidBefore } from '../../db/entities/tending.js';
import { foldName } from '@tally/core/rule';
import type { Db } from '../../db/database.js';
import { inAndBelow } from '../../db/paths.js';

export type MendRow = Omit<Mend, 'of'>;
export type MoveRow = Omit<MendMove, 'mend' | 'place' | 'filedItem'>;
export type NewMove = Omit<MoveRow, 'id' | 'mendId' | 'position' | 'problem' | 'bytes' | 'quickHash'>;

const MENDS = `select m.id, m.kind, m.words, m.who, m.at, m.state, m.items, m.takes_back as "takesBack", to_char(m.kept_until, 'YYYY-MM-DD') as "keptUntil",
    m.emptying_at as "emptyingAt", m.emptied_at as "emptiedAt", m.before from mend m`;

export interface NewMend {
  readonly kind: string;
  readonly words: string;
  readonly who: string;
  readonly at: Date;
  readonly items: number;
  readonly takesBack: number | null;
  readonly keptUntil: string | null;
  readonly before: readonly SaidBefore[] | null;
}

export async function addMend(tx: Db, mend: NewMend): Promise<number> {
  const [{ id }] = await tx.query<[{ id: number }]>(
    `insert into mend (kind, words, who, at, state, items, takes_back, kept_until, before) values ($1, $2, $3, $4, 'doing', $5, $6, $7, $8) returning id`,
    [
      ...[mend.kind, mend.words, mend.who, mend.at, mend.items, mend.takesBack, mend.keptUntil],
      mend.before && JSON.stringify(mend.before),
    ],
  );
  return id;
}

export async function addMoves(tx: Db, mendId: number, moves: readonly NewMove[]): Promise<void> {
  for (let from = 0; from < moves.length; from += 5000) {
    const some = moves.slice(from, from + 5000);
    await tx.query(
      `insert into mend_move (mend_id, position, place_id, what, filed_item_id, from_path, to_path, state)
       select $1, q.* from unnest($2::int[], $3::text[], $4::text[], $5::int[], $6::text[], $7::text[], $8::text[]) as q`,
      [
        mendId,
        some.map((_, index) => from + index),
        some.map((one) => one.placeId),
        some.map((one) => one.what),
        some.map((one) => one.filedItemId),
        some.map((one) => one.fromPath),
        some.map((one) => one.toPath),
        some.map((one) => one.state),
      ],
    );
  }
}

export async function mendById(db: Db, id: number): Promise<MendRow | null> {
  const rows = await db.query<MendRow[]>(`${MENDS} where m.id = $1`, [id]);
  return rows[0] ?? null;
}

/** Mends, the newest first, before one; with what takes each back. */
export async function mendsBefore(
  db: Db,
  before: number | null,
  limit: number,
): Promise<(MendRow & { takenBackBy: number | null })[]> {
  return db.query(
    `select q.*, (select b.id from mend b where b.takes_back = q.id) as "takenBackBy" from (${MENDS}
       where ($1::int is null or m.id < $1) order by m.id desc limit $2) q order by q.id desc`,
    [before, limit],
  );
}

const MOVES = `select v.id, v.mend_id as "mendId", v.position, v.place_id as "placeId", v.what, v.filed_item_id as "filedItemId",
    v.from_path as "fromPath", v.to_path as "toPath", v.state, v.problem, v.bytes, v.quick_hash as "quickHash" from mend_move v`;

export const movesOf = (db: Db, mendId: number): Promise<MoveRow[]> =>
  db.query<MoveRow[]>(`${MOVES} where v.mend_id = $1 order by v.position`, [mendId]);

/** What a place has to do next, mend by mend, in order. What leaves it waits until it tallies where it goes, and that is here. */
export const movesWaiting = (db: Db, placeId: string, here: readonly string[], limit: number): Promise<MoveRow[]> =>
  db.query<MoveRow[]>(
    `${MOVES} where v.place_id = $1 and v.state = 'waiting' and (v.what <> 'leaves' or v.to_path = any($2::text[])
       and exists (select from copy c where c.filed_item_id = v.filed_item_id and c.place_id = v.to_path and c.state = 'tallied'))
     order by v.mend_id, v.position limit $3`,
    [placeId, here, limit],
  );

/** Is anything filed in a folder or below it that this mend gave no name? */
export async function othersBelow(db: Db, folder: string, mendId: number): Promise<boolean> {
  const [{ some }] = await db.query<[{ some: boolean }]>(
    `select exists (select from filed_folder k join filed_item f on f.folded_folder = k.folded
       where ${inAndBelow('k.folded', '$1')} and not exists (select from former_path p where p.filed_item_id = f.id and p.mend_id = $2)) as some`,
    [foldName(folder), mendId],
  );
  return some;
}

/** What a mend took from a folder and below, with the paths from before it. */
export const formerBelow = (db: Db, mendId: number, folder: string): Promise<{ filedItemId: number; path: string }[]> =>
  db.query(
    `select filed_item_id as "filedItemId", path from former_path where mend_id = $1 and starts_with(folded_path, $2 || '/') order by path`,
    [mendId, foldName(folder)],
  );

/** Places with something to do. */
export async function placesMoving(db: Db): Promise<string[]> {
  const rows = await db.query<{ id: string }[]>(
    `select p.id from place p where exists (select from mend_move v where v.place_id = p.id and v.state = 'waiting') order by p.position`,
  );
  return rows.map(({ id }) => id);
}

/** Says what became of moves that wait: what is settled stays as it was said. */
export async function setMoves(
  db: Db,
  outcomes: readonly (Pick<MoveRow, 'id' | 'state' | 'problem'> & { readonly bytes?: number; readonly quickHash?: Buffer })[],
): Promise<void> {
  await db.query(
    `update mend_move v set state = q.state, problem = q.problem, bytes = q.bytes, quick_hash = q.quick_hash
     from unnest($1::int[], $2::text[], $3::text[], $4::bigint[], $5::bytea[]) as q(id, state, problem, bytes, quick_hash)
     where v.id = q.id and v.state = 'waiting'`,
    [
      outcomes.map(({ id }) => id),
      outcomes.map(({ state }) => state),
      outcomes.map(({ problem }) => problem),
      outcomes.map(({ bytes }) => bytes ?? null),
      outcomes.map(({ quickHash }) => quickHash ?? null),
    ],
  );
}

/** What could not be done is tried again. */
export async function retryMoves(db: Db, mendId: number): Promise<number> {
  const [, count]: [unknown, number] = await db.query(
    `update mend_move set state = 'waiting', problem = null where mend_id = $1 and state = 'failed'`,
    [mendId],
  );
  if (count) await db.query(`update mend set state = 'doing' where id = $1`, [mendId]);
  return count;
}

/** How far a mend is at each place. */
export async function movesLeft(
  db: Db,
  mendIds: readonly number[],
): Promise<{ mendId: number; placeId: string; waiting: number; failed: number; problem: string | null }[]> {
  return db.query(
    `select v.mend_id as "mendId", v.place_id as "placeId", count(*) filter (where v.state = 'waiting')::int as waiting,
       count(*) filter (where v.state = 'failed')::int as failed, min(v.problem) filter (where v.state = 'failed') as problem
     from mend_move v where v.mend_id = any($1::int[]) and v.state in ('waiting', 'failed') group by 1, 2 order by 1, 2`,
    [mendIds],
  );
}

export async function setMendState(db: Db, id: number, state: MendRow['state']): Promise<void> {
  await db.query('update mend set state = $2 where id = $1 and state <> $2', [id, state]);
}

/** Mends that nobody has said to be over, though nothing of them waits. */
export async function mendsToSettle(db: Db): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select m.id from mend m where m.state <> 'done' and m.state = 'doing' and not exists (select from mend_move v where v.mend_id = m.id and v.state = 'waiting') order by m.id`,
  );
  return rows.map(({ id }) => id);
}

/** Of these filed items, those that are being moved at one of these places. */
export async function beingMoved(db: Db, filedItemIds: readonly number[], placeIds: readonly string[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select distinct c.filed_item_id as id from copy c where c.filed_item_id = any($1::int[]) and c.place_id = any($2::text[])
       and is_moving(c.filed_item_id, c.place_id) order by 1`,
    [filedItemIds, placeIds],
  );
  return rows.map(({ id }) => id);
}

/** Of these filed items, those that somebody has begun to remove from the tray. */
export async function beingEmptied(db: Db, filedItemIds: readonly number[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select distinct v.filed_item_id as id from mend_move v join mend m on m.id = v.mend_id
     where v.filed_item_id = any($1::int[]) and m.emptying_at is not null and m.emptied_at is null order by 1`,
    [filedItemIds],
  );
  return rows.map(({ id }) => id);
}

/** Copies that stand at places, whole or not, or are being made: those that a new name concerns. */
export async function standingCopies(
  db: Db,
  filedItemIds: readonly number[],
): Promise<{ filedItemId: number; placeId: string; state: string }[]> {
  return db.query(
    `select filed_item_id as "filedItemId", place_id as "placeId", state from copy
     where filed_item_id = any($1::int[]) and state not in ('waiting', 'missing') order by 1, 2`,
    [filedItemIds],
  );
}

/** Names that a mend took from filed items, and what they are called now. */
export async function namesBefore(
  db: Db,
  mendId: number,
): Promise<
  { filedItemId: number; intakeId: number; was: string; n: number | null; now: string; listFolder: string; folder: string }[]
> {
  return db.query(
    `select p.filed_item_id as "filedItemId", f.intake_id as "intakeId", p.path as was, p.n, concat_ws('/', nullif(f.folder, ''), f.name) as now,
       f.list_folder as "listFolder", f.folder
     from former_path p join filed_item f on f.id = p.filed_item_id where p.mend_id = $1 order by p.filed_item_id`,
    [mendId],
  );
}

/** How many moves of a place wait, and how many failed. */
export async function movesAt(db: Db, placeId: string): Promise<{ moving: number; failed: number }> {
  const [row] = await db.query<[{ moving: number; failed: number }]>(
    `select (select count(*)::int from mend_move where place_id = $1 and state = 'waiting') as moving,
       (select count(*)::int from mend_move where place_id = $1 and state = 'failed') as failed`,
    [placeId],
  );
  return row;
}

/** Mends that put something aside whose days are over before this one, and that nobody has emptied. */
export const trayOver = (db: Db, day: string): Promise<MendRow[]> =>
  db.query<MendRow[]>(
    `${MENDS} where m.kept_until < $1 and m.emptied_at is null and m.state = 'done' and not exists (select from mend b where b.takes_back = m.id) order by m.id`,
    [day],
  );

/** Mends whose tray somebody began to empty, and did not end. */
export const trayBegun = (db: Db): Promise<MendRow[]> =>
  db.query<MendRow[]>(`${MENDS} where m.emptying_at is not null and m.emptied_at is null order by m.id`);

export async function setEmptying(db: Db, id: number, at: Date | null): Promise<void> {
  await db.query('update mend set emptying_at = $2 where id = $1', [id, at]);
}

/** Of these filed items, those that a mend is to move at some place, or could not. */
export async function pendingOfItems(db: Db, filedItemIds: readonly number[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select q.id from unnest($1::int[]) as q(id) where exists (select from mend_move v where v.filed_item_id = q.id and v.state in ('waiting', 'failed'))
       or exists (select from copy c where c.filed_item_id = q.id and is_moving(c.filed_item_id, c.place_id))`,
    [filedItemIds],
  );
  return rows.map(({ id }) => id);
}

/** What is to be moved at a place, or could not be: files and whole folders, by where they stand. */
export interface PendingMoves {
  readonly isTold: (path: string) => boolean;
}

/** Moves at a place that wait or failed, of these paths and of folders above them. */
export async function movesPendingFrom(db: Db, placeId: string, paths: readonly string[]): Promise<PendingMoves> {
  const rows = await db.query<{ path: string; what: string }[]>(
    `select v.from_path as path, v.what from mend_move v where v.place_id = $1 and v.state in ('waiting', 'failed')
       and (v.from_path = any($2::text[]) or v.what = 'folder')`,
    [placeId, paths],
  );
  const files = new Set(rows.map(({ path }) => path));
  const folders = rows.flatMap(({ path, what }) => (what === 'folder' ? [`${path}/`] : []));
  return { isTold: (path) => files.has(path) || folders.some((folder) => path.startsWith(folder)) };
}

export async function setEmptied(db: Db, id: number, at: Date): Promise<void> {
  await db.query('update mend set emptied_at = $2 where id = $1', [id, at]);
}
