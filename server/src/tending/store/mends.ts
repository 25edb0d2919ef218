import type { Mend, MendMove, SaidBefore } from '../../db/entities/tending.js';
import type { Db } from '../../db/database.js';

export type MendRow = Omit<Mend, 'of'>;
export type MoveRow = Omit<MendMove, 'mend' | 'place' | 'filedItem'>;
export type NewMove = Omit<MoveRow, 'id' | 'mendId' | 'position' | 'problem'>;

const MENDS = `select m.id, m.kind, m.words, m.who, m.at, m.state, m.items, m.takes_back as "takesBack", to_char(m.kept_until, 'YYYY-MM-DD') as "keptUntil",
    m.emptied_at as "emptiedAt", m.before from mend m`;

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
    v.from_path as "fromPath", v.to_path as "toPath", v.state, v.problem from mend_move v`;

export const movesOf = (db: Db, mendId: number): Promise<MoveRow[]> =>
  db.query<MoveRow[]>(`${MOVES} where v.mend_id = $1 order by v.position`, [mendId]);

/** What a place has to do next, mend by mend, in order. What leaves it waits until it tallies where it goes. */
export const movesWaiting = (db: Db, placeId: string, limit: number): Promise<MoveRow[]> =>
  db.query<MoveRow[]>(
    `${MOVES} where v.place_id = $1 and v.state = 'waiting' and (v.what <> 'leaves'
       or exists (select from copy c where c.filed_item_id = v.filed_item_id and c.place_id = v.to_path and c.state = 'tallied'))
     order by v.mend_id, v.position limit $2`,
    [placeId, limit],
  );

/** Places with something to do. */
export async function placesMoving(db: Db): Promise<string[]> {
  const rows = await db.query<{ id: string }[]>(
    `select p.id from place p where exists (select from mend_move v where v.place_id = p.id and v.state = 'waiting') order by p.position`,
  );
  return rows.map(({ id }) => id);
}

export async function setMoves(
  db: Db,
  outcomes: readonly { readonly id: number; readonly state: MoveRow['state']; readonly problem: string | null }[],
): Promise<void> {
  await db.query(
    `update mend_move v set state = q.state, problem = q.problem from unnest($1::int[], $2::text[], $3::text[]) as q(id, state, problem) where v.id = q.id`,
    [outcomes.map(({ id }) => id), outcomes.map(({ state }) => state), outcomes.map(({ problem }) => problem)],
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

/** Of these filed items, those that are being moved somewhere. */
export async function beingMoved(db: Db, filedItemIds: readonly number[]): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    `select distinct c.filed_item_id as id from copy c where c.filed_item_id = any($1::int[]) and is_moving(c.filed_item_id, c.place_id) order by 1`,
    [filedItemIds],
  );
  return rows.map(({ id }) => id);
}

/** Copies that stand at places, whole or not: those that a new name concerns. */
export async function standingCopies(
  db: Db,
  filedItemIds: readonly number[],
): Promise<{ filedItemId: number; placeId: string; state: string }[]> {
  return db.query(
    `select filed_item_id as "filedItemId", place_id as "placeId", state from copy
     where filed_item_id = any($1::int[]) and state not in ('waiting', 'copying', 'missing') order by 1, 2`,
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

export async function setEmptied(db: Db, id: number, at: Date): Promise<void> {
  await db.query('update mend set emptied_at = $2 where id = $1', [id, at]);
}
