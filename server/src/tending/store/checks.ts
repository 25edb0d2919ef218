import type { DriveCheck } from '../../db/entities/tending.js';
import type { Db } from '../../db/database.js';

export type CheckRow = Omit<DriveCheck, 'place'>;
export type CheckHow = DriveCheck['how'];

const CHECKS = `select id, place_id as "placeId", how, names, strict, who, station, state, begun_at as "begunAt", ended_at as "endedAt",
    files, bytes, folders, problem from drive_check`;

/** Begins a check. @returns null when one is going on at that place. */
export async function beginCheck(
  db: Db,
  check: Pick<CheckRow, 'placeId' | 'how' | 'names' | 'strict' | 'who' | 'station' | 'begunAt'>,
): Promise<number | null> {
  const rows = await db.query<{ id: number }[]>(
    `insert into drive_check (place_id, how, names, strict, who, station, state, begun_at) values ($1, $2, $3, $4, $5, $6, 'going', $7)
     on conflict do nothing returning id`,
    [check.placeId, check.how, check.names, check.strict, check.who, check.station, check.begunAt],
  );
  return rows[0]?.id ?? null;
}

export async function checkById(db: Db, id: number): Promise<CheckRow | null> {
  const rows = await db.query<CheckRow[]>(`${CHECKS} where id = $1`, [id]);
  return rows[0] ?? null;
}

/** The newest check of a place. */
export async function lastCheck(db: Db, placeId: string): Promise<CheckRow | null> {
  const rows = await db.query<CheckRow[]>(`${CHECKS} where place_id = $1 order by id desc limit 1`, [placeId]);
  return rows[0] ?? null;
}

/** Checks that go on at these places, whoever began them. */
export const checksGoing = (db: Db, placeIds: readonly string[]): Promise<CheckRow[]> =>
  db.query<CheckRow[]>(`${CHECKS} where state = 'going' and place_id = any($1::text[]) order by id`, [placeIds]);

export async function checkProgress(
  db: Db,
  id: number,
  { files, bytes, folders }: Pick<CheckRow, 'files' | 'bytes' | 'folders'>,
): Promise<void> {
  await db.query('update drive_check set files = $2, bytes = $3, folders = $4 where id = $1', [id, files, bytes, folders]);
}

/** @returns false when it had ended before. */
export async function endCheck(
  db: Db,
  id: number,
  state: 'done' | 'stopped' | 'failed',
  at: Date,
  problem: string | null = null,
): Promise<boolean> {
  const [, count]: [unknown, number] = await db.query(
    `update drive_check set state = $2, ended_at = $3, problem = $4 where id = $1 and state = 'going'`,
    [id, state, at, problem],
  );
  return count === 1;
}
