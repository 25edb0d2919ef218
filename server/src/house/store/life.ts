import type { IntakeRecord } from '@tally/contract';
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
  const rows = await db.query<{ id: string }[]>('select id::text as id from house_life');
  return rows[0]!.id;
}

/** Ids of intakes that nobody else draws. */
export async function uidsOf(db: Db, intakeIds: readonly number[]): Promise<string[]> {
  const rows = await db.query<{ uid: string }[]>('select uid::text as uid from intake where id = any($1::int[])', [intakeIds]);
  return rows.map(({ uid }) => uid);
}

/** What a record says of the intake that it is of. */
export type RecordedIntake = Pick<IntakeRecord, 'houseId' | 'intakeId' | 'intake' | 'receivedAt' | 'station'>;

/**
 * Are these records of intakes that this house knows, in this life? Not those of another house, nor of an earlier life of this
 * one. Of before records had ids the moment and the station tell: a number may be drawn twice.
 */
export async function areKnown(db: Db, records: readonly RecordedIntake[]): Promise<boolean[]> {
  const rows = await db.query<{ is: boolean }[]>(
    `select case when q.uid is null
         then exists (select from intake i where i.number = q.number and date_trunc('milliseconds', i.received_at) = q.at and i.station = q.station)
         else q.house = l.id and exists (select from intake i where i.uid = q.uid) end as is
     from unnest($1::uuid[], $2::uuid[], $3::text[], $4::timestamptz[], $5::text[]) with ordinality as q (house, uid, number, at, station, n)
       cross join house_life l order by q.n`,
    [
      ...[records.map((one) => one.houseId), records.map((one) => one.intakeId), records.map((one) => one.intake)],
      ...[records.map((one) => one.receivedAt), records.map((one) => one.station)],
    ],
  );
  return rows.map(({ is }) => is);
}
