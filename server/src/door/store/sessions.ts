import type { SessionView, SignedIn } from '@tally/contract';
import type { Db } from '../../db/database.js';

/** Who a session's token belongs to, and what it still lacks. */
export interface SessionRow extends SignedIn {
  readonly sessionId: string;
  readonly expiresAt: Date;
  readonly endsAt: Date;
  readonly usedAt: Date;
  readonly byCode: boolean;
  readonly seesPersons: boolean;
  readonly hasPassword: boolean;
  readonly secondFactor: boolean;
}

export interface NewSession {
  readonly tokenHash: Buffer;
  readonly id: string;
  readonly personId: number;
  readonly now: Date;
  readonly expiresAt: Date;
  readonly endsAt: Date;
  readonly address: string;
  readonly agent: string;
  readonly byCode: boolean;
}

export async function insertSession(db: Db, one: NewSession): Promise<void> {
  await db.query(
    `insert into session (token_hash, id, person_id, begun_at, used_at, expires_at, ends_at, address, agent, by_code)
     values ($1, $2, $3, $4, $4, $5, $6, $7, $8, $9)`,
    [one.tokenHash, one.id, one.personId, one.now, one.expiresAt, one.endsAt, one.address, one.agent, one.byCode],
  );
}

/** Sessions that have ended are forgotten. */
export async function forgetSessions(db: Db, now: Date): Promise<void> {
  await db.query('delete from session where expires_at < $1', [now]);
}

/** Whose a session is; null when it has ended, or its person may not come any more. */
export async function personOfSession(db: Db, tokenHash: Buffer, now: Date): Promise<SessionRow | null> {
  const rows = await db.query<SessionRow[]>(
    `select p.id, p.name, p.role, s.id as "sessionId", s.expires_at as "expiresAt", s.ends_at as "endsAt", s.used_at as "usedAt",
       s.by_code as "byCode", p.sees_persons as "seesPersons", p.password_hash is not null as "hasPassword",
       p.second_at is not null as "secondFactor"
     from session s join person p on p.id = s.person_id
     where s.token_hash = $1 and s.expires_at > $2 and p.retired_at is null and coalesce(p.until > $2, true)`,
    [tokenHash, now],
  );
  return rows[0] ?? null;
}

export async function prolongSession(db: Db, tokenHash: Buffer, now: Date, until: Date): Promise<void> {
  await db.query('update session set used_at = $2, expires_at = least($3, ends_at) where token_hash = $1', [
    ...[tokenHash, now, until],
  ]);
}

export async function deleteSession(db: Db, tokenHash: Buffer): Promise<void> {
  await db.query('delete from session where token_hash = $1', [tokenHash]);
}

/** The browsers that somebody is signed in with, newest first. */
export async function sessionsOf(db: Db, personId: number, here: string | null, now: Date): Promise<SessionView[]> {
  const rows = await db.query<
    { id: string; begunAt: Date; usedAt: Date; endsAt: Date; address: string; agent: string; here: boolean }[]
  >(
    `select id, begun_at as "begunAt", used_at as "usedAt", least(expires_at, ends_at) as "endsAt", address, agent,
       coalesce(id = $2, false) as here
     from session where person_id = $1 and expires_at > $3 order by begun_at desc limit 200`,
    [personId, here, now],
  );
  return rows.map(({ begunAt, usedAt, endsAt, ...one }) => ({
    ...one,
    ...{ begunAt: begunAt.toISOString(), usedAt: usedAt.toISOString(), endsAt: endsAt.toISOString() },
  }));
}

/** Ends sessions of somebody: one, or all but one. @returns how many. */
export async function endSessionsOf(
  db: Db,
  personId: number,
  which: { readonly one: string } | { readonly allBut: string | null },
): Promise<number> {
  const [rows] =
    'one' in which
      ? await db.query<[{ id: string }[], number]>('delete from session where person_id = $1 and id = $2 returning id', [
          ...[personId, which.one],
        ])
      : await db.query<[{ id: string }[], number]>(
          'delete from session where person_id = $1 and id is distinct from $2 returning id',
          [personId, which.allBut],
        );
  return rows.length;
}

/** Everybody signs in anew. */
export async function endAllSessions(db: Db): Promise<void> {
  await db.query('delete from session');
}
