import type { Db } from '../../db/database.js';

/** Somebody's second factor: its secret, and since when it is asked for (null: it waits for its first code). */
export async function secondOf(db: Db, personId: number): Promise<{ secret: string | null; at: Date | null } | null> {
  const rows = await db.query<{ secret: string | null; at: Date | null }[]>(
    'select second_secret as secret, second_at as at from person where id = $1',
    [personId],
  );
  return rows[0] ?? null;
}

/** Keeps a secret that is not asked for yet. @returns false when there is one that is. */
export async function offerSecond(db: Db, personId: number, secret: string): Promise<boolean> {
  const [rows] = await db.query<[{ id: number }[], number]>(
    'update person set second_secret = $2 where id = $1 and second_at is null returning id',
    [personId, secret],
  );
  return rows.length > 0;
}

export async function confirmSecond(db: Db, personId: number, secret: string, step: number, at: Date): Promise<boolean> {
  const [rows] = await db.query<[{ id: number }[], number]>(
    `update person set second_at = $4, second_step = $3
     where id = $1 and second_secret = $2 and second_at is null returning id`,
    [personId, secret, step, at],
  );
  return rows.length > 0;
}

/** A step is used once, and none before it again. */
export async function useStep(db: Db, personId: number, step: number): Promise<boolean> {
  const [rows] = await db.query<[{ id: number }[], number]>(
    'update person set second_step = $2 where id = $1 and second_step < $2 returning id',
    [personId, step],
  );
  return rows.length > 0;
}

export async function dropSecond(db: Db, personId: number): Promise<boolean> {
  await db.query('delete from recovery_code where person_id = $1', [personId]);
  const [rows] = await db.query<[{ id: number }[], number]>(
    `update person set second_secret = null, second_at = null, second_step = 0
     where id = $1 and second_secret is not null returning id`,
    [personId],
  );
  return rows.length > 0;
}

export async function keepRecoveryCodes(db: Db, personId: number, hashes: readonly Buffer[]): Promise<void> {
  await db.query('delete from recovery_code where person_id = $1', [personId]);
  await db.query('insert into recovery_code (code_hash, person_id) select unnest($2::bytea[]), $1', [personId, hashes]);
}

/** Each signs in once. */
export async function useRecoveryCode(db: Db, personId: number, hash: Buffer): Promise<boolean> {
  const [rows] = await db.query<[{ id: number }[], number]>(
    'delete from recovery_code where person_id = $1 and code_hash = $2 returning person_id as id',
    [personId, hash],
  );
  return rows.length > 0;
}
