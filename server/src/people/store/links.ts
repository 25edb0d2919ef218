import type { Db } from '../../db/database.js';

export async function addLink(
  db: Db,
  link: { tokenHash: Buffer; personId: number; madeBy: string; madeAt: Date; expiresAt: Date },
): Promise<void> {
  await db.query('insert into hand_in_link (token_hash, person_id, made_by, made_at, expires_at) values ($1, $2, $3, $4, $5)', [
    link.tokenHash,
    link.personId,
    link.madeBy,
    link.madeAt,
    link.expiresAt,
  ]);
}

/** Until when a person's link is good; null for somebody who signed in with a password. */
export async function linkEnd(db: Db, personId: number): Promise<Date | null> {
  const rows = await db.query<{ expiresAt: Date }[]>(
    'select expires_at as "expiresAt" from hand_in_link where person_id = $1 order by expires_at desc limit 1',
    [personId],
  );
  return rows[0]?.expiresAt ?? null;
}

export async function personOfLink(db: Db, tokenHash: Buffer, now: Date): Promise<number | null> {
  const rows = await db.query<{ personId: number }[]>(
    'select person_id as "personId" from hand_in_link where token_hash = $1 and expires_at > $2',
    [tokenHash, now],
  );
  return rows[0]?.personId ?? null;
}
