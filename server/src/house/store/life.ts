import type { Db } from '../../db/database.js';

/** Who this house is, and in which epoch its log is. */
export interface Life {
  /** UUID. */
  readonly id: string;
  readonly epoch: number;
}

/** A copy, a restored dump and another PostgreSQL differ in one of these; a restart and a vacuum change none (PostgreSQL 15 manual, 9.27.11). */
const THIS_DATABASE = `(select c.system_identifier || '/' || d.oid || '/' || 'event'::regclass::oid
  from pg_control_system() c, pg_database d where d.datname = current_database())`;

/** null: the house was never opened. `isHere`: this is the database that it was last met in. */
export async function lifeOf(db: Db): Promise<(Life & { isHere: boolean }) | null> {
  const rows = await db.query<(Life & { isHere: boolean })[]>(
    `select id::text as id, epoch, database = ${THIS_DATABASE} as "isHere" from house_life`,
  );
  return rows[0] ?? null;
}

/** A house begins, with an id that nobody else has. Where it has begun already nothing happens. */
export async function beginLife(db: Db): Promise<void> {
  await db.query(
    `insert into house_life (id, epoch, database) values (uuid_v7(), 1, ${THIS_DATABASE}) on conflict (one) do nothing`,
  );
}

/** From now on what is told is of another epoch. Call it in a transaction that holds `epoch`. */
export async function raiseEpoch(tx: Db): Promise<void> {
  await tx.query(`update house_life set epoch = epoch + 1, database = ${THIS_DATABASE}`);
}

/** The id of a house that was opened. */
export async function houseId(db: Db): Promise<string> {
  return (await lifeOf(db))!.id;
}

/** Ids of intakes that nobody else draws. */
export async function uidsOf(db: Db, intakeIds: readonly number[]): Promise<string[]> {
  const rows = await db.query<{ uid: string }[]>('select uid::text as uid from intake where id = any($1::int[])', [intakeIds]);
  return rows.map(({ uid }) => uid);
}

/** Those of these ids that are of intakes of this house, in this life. */
export async function knownUids(db: Db, uids: readonly string[]): Promise<Set<string>> {
  const rows = await db.query<{ uid: string }[]>('select uid::text as uid from intake where uid = any($1::uuid[])', [uids]);
  return new Set(rows.map(({ uid }) => uid));
}

/** Was an intake of this number received at that very moment and station? */
export async function isReceived(
  db: Db,
  { number, at, station }: { readonly number: string; readonly at: Date; readonly station: string },
): Promise<boolean> {
  const [{ is }] = await db.query<[{ is: boolean }]>(
    `select exists (select from intake where number = $1 and date_trunc('milliseconds', received_at) = $2 and station = $3) as is`,
    [number, at, station],
  );
  return is;
}
