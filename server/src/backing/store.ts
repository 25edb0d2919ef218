import type { Db } from '../db/database.js';

/** A backup that was made at a destination, or was not. */
export interface MadeRow {
  readonly at: Date;
  /** As the settings name it. */
  readonly to: string;
  /** Is it on a disk of its own? One that lies on the server's disk goes with that. */
  readonly apart: boolean;
  /** Where it stands; null: it could not be made. */
  readonly folder: string | null;
  readonly bytes: number;
  readonly problem: string | null;
}

export async function addMade(db: Db, { at, to, apart, folder, bytes, problem }: MadeRow): Promise<void> {
  await db.query('insert into backup_made (at, destination, apart, folder, bytes, problem) values ($1, $2, $3, $4, $5, $6)', [
    at,
    to,
    apart,
    folder,
    bytes,
    problem,
  ]);
  await db.query(`delete from backup_made where at < $1::timestamptz - interval '400 days'`, [at]);
}

/** The newest of each destination, and whether it was good. */
export async function lastMade(db: Db): Promise<MadeRow[]> {
  return db.query<MadeRow[]>(
    `select distinct on (destination) at, destination as "to", apart, folder, bytes, problem from backup_made
     order by destination, at desc, id desc`,
  );
}

/** Destinations at which one was made since a moment. */
export async function goodSince(db: Db, since: Date): Promise<Set<string>> {
  const rows = await db.query<{ to: string }[]>(
    'select distinct destination as "to" from backup_made where problem is null and at >= $1',
    [since],
  );
  return new Set(rows.map(({ to }) => to));
}

/** When the newest good one was made; null: none was. @param apart only those that are not on the server's own disk */
export async function lastGood(db: Db, apart: boolean): Promise<Date | null> {
  const rows = await db.query<{ at: Date }[]>(
    'select at from backup_made where problem is null and (apart or not $1) order by at desc limit 1',
    [apart],
  );
  return rows[0]?.at ?? null;
}
