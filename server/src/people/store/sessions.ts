import type { Role, SignedIn } from '@tally/contract';
import type { Db } from '../../db/database.js';
import { Person } from '../../db/entities/people.js';

/** Somebody by the name they sign in with, however its letters are cased. */
export async function personByName(db: Db, name: string): Promise<(SignedIn & { passwordHash: string }) | null> {
  const rows = await db.query<(SignedIn & { passwordHash: string })[]>(
    'select id, name, role, password_hash as "passwordHash" from person where lower(name) = lower($1)',
    [name],
  );
  return rows[0] ?? null;
}

/** Adds somebody who may sign in. @returns the id; null when the name is taken. */
export async function insertPerson(db: Db, name: string, passwordHash: string, role: Role, at: Date): Promise<number | null> {
  const rows = await db.query<{ id: number }[]>(
    `insert into person (name, password_hash, role, created_at) select $1, $2, $3, $4
     where not exists (select from person where lower(name) = lower($1)) returning id`,
    [name, passwordHash, role, at],
  );
  return rows[0]?.id ?? null;
}

export const countPeople = (db: Db): Promise<number> => db.getRepository(Person).count();

/** Opens a session, and forgets those that have ended. */
export async function insertSession(db: Db, tokenHash: Buffer, personId: number, expiresAt: Date, now: Date): Promise<void> {
  await db.query('delete from session where expires_at < $1', [now]);
  await db.query('insert into session (token_hash, person_id, expires_at) values ($1, $2, $3)', [tokenHash, personId, expiresAt]);
}

/** Who a session belongs to, and when it ends. */
export async function personOfSession(db: Db, tokenHash: Buffer, now: Date): Promise<(SignedIn & { expiresAt: Date }) | null> {
  const rows = await db.query<(SignedIn & { expiresAt: Date })[]>(
    `select p.id, p.name, p.role, s.expires_at as "expiresAt" from session s join person p on p.id = s.person_id
     where s.token_hash = $1 and s.expires_at > $2`,
    [tokenHash, now],
  );
  return rows[0] ?? null;
}

/** Prolongs a session; one that came by a hand-in link ends with the link. */
export async function prolongSession(db: Db, tokenHash: Buffer, until: Date): Promise<void> {
  await db.query(
    `update session s set expires_at = least($2, (select max(l.expires_at) from hand_in_link l where l.person_id = s.person_id))
     where s.token_hash = $1`,
    [tokenHash, until],
  );
}

export async function deleteSession(db: Db, tokenHash: Buffer): Promise<void> {
  await db.query('delete from session where token_hash = $1', [tokenHash]);
}
