import type { AccountView, Role } from '@tally/contract';
import type { Db } from '../../db/database.js';
import { Person } from '../../db/entities/people.js';

/** What somebody who hands in is bound to, where that was said. */
export interface Bounds {
  readonly contributorId: number | null;
  readonly ofKind: string | null;
  readonly assignmentId: number | null;
  readonly quotaBytes: number | null;
  readonly quotaFiles: number | null;
}

const BOUNDS = `p.contributor_id as "contributorId", p.of_kind as "ofKind", p.assignment_id as "assignmentId",
  p.quota_bytes as "quotaBytes", p.quota_files as "quotaFiles"`;

export async function boundsOf(db: Db, personId: number): Promise<Bounds & { readonly until: Date | null }> {
  const rows = await db.query<(Bounds & { until: Date | null })[]>(`select ${BOUNDS}, p.until from person p where p.id = $1`, [
    personId,
  ]);
  return rows[0]!;
}

/** What signing in looks at. */
export interface SignInRow {
  readonly id: number;
  readonly name: string;
  readonly role: Role;
  readonly passwordHash: string | null;
  readonly codeHash: Buffer | null;
  readonly codeUntil: Date | null;
  readonly secondFactor: boolean;
}

/** Somebody by the name they sign in with, however its letters are cased; nobody who may not come. */
export async function signInRow(db: Db, name: string, now: Date): Promise<SignInRow | null> {
  const rows = await db.query<SignInRow[]>(
    `select id, name, role, password_hash as "passwordHash", code_hash as "codeHash", code_until as "codeUntil",
       second_at is not null as "secondFactor"
     from person where lower(name) = lower($1) and retired_at is null and coalesce(until > $2, true)`,
    [name, now],
  );
  return rows[0] ?? null;
}

export interface NewPerson extends Bounds {
  readonly name: string;
  readonly passwordHash: string | null;
  readonly role: Role;
  readonly at: Date;
  readonly until: Date | null;
  readonly seesPersons: boolean;
}

/** Adds somebody who may sign in. @returns the id; null when the name is taken. */
export async function insertPerson(db: Db, one: NewPerson): Promise<number | null> {
  const rows = await db.query<{ id: number }[]>(
    `insert into person (name, password_hash, role, created_at, until, sees_persons,
       contributor_id, of_kind, assignment_id, quota_bytes, quota_files)
     select $1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11
     where not exists (select from person where lower(name) = lower($1)) returning id`,
    [
      ...[one.name, one.passwordHash, one.role, one.at, one.until, one.seesPersons],
      ...[one.contributorId, one.ofKind, one.assignmentId, one.quotaBytes, one.quotaFiles],
    ],
  );
  return rows[0]?.id ?? null;
}

export async function anybodySignsIn(db: Db): Promise<boolean> {
  const [{ any }] = await db.query<[{ any: boolean }]>('select exists (select from person) as any');
  return any;
}

interface AccountRow extends Bounds {
  readonly id: number;
  readonly name: string;
  readonly role: Role;
  readonly retired: boolean;
  readonly createdAt: Date;
  readonly hasPassword: boolean;
  readonly codeUntil: Date | null;
  readonly until: Date | null;
  readonly contributorName: string | null;
  readonly assignmentTitle: string | null;
  readonly seesPersons: boolean;
  readonly secondFactor: boolean;
  readonly byDirectory: boolean;
  readonly sessions: number;
  readonly lastSeen: Date | null;
}

/** Everybody who signs in (not those who come by a link), or one of them; those who still may first. */
export async function accountsOf(db: Db, now: Date, id: number | null = null): Promise<AccountView[]> {
  const rows = await db.query<AccountRow[]>(
    `select p.id, p.name, p.role, p.retired_at is not null as retired, p.created_at as "createdAt",
       p.password_hash is not null as "hasPassword", case when p.code_until > $1 then p.code_until end as "codeUntil", p.until,
       ${BOUNDS}, c.name as "contributorName", a.title as "assignmentTitle", p.sees_persons as "seesPersons",
       p.second_at is not null as "secondFactor", p.subject is not null as "byDirectory",
       coalesce(s.n, 0)::int as sessions, s.seen as "lastSeen"
     from person p
       left join contributor c on c.id = p.contributor_id
       left join assignment a on a.id = p.assignment_id
       left join lateral (
         select count(*) as n, max(used_at) as seen from session where person_id = p.id and expires_at > $1
       ) s on true
     where not exists (select from hand_in_link l where l.person_id = p.id) and ($2::int is null or p.id = $2)
     order by p.retired_at is not null, lower(p.name) limit 1000`,
    [now, id],
  );
  return rows.map(accountView);
}

function accountView(row: AccountRow): AccountView {
  const { contributorId, contributorName, assignmentId, assignmentTitle, createdAt, codeUntil, until, lastSeen, ...one } = row;
  return {
    ...one,
    createdAt: createdAt.toISOString(),
    codeUntil: codeUntil?.toISOString() ?? null,
    until: until?.toISOString() ?? null,
    lastSeen: lastSeen?.toISOString() ?? null,
    contributor: contributorId === null ? null : { id: contributorId, name: contributorName ?? '' },
    assignment: assignmentId === null ? null : { id: assignmentId, name: assignmentTitle ?? '' },
  };
}

/** Locks those who are administrators now, so that two acts on them come one after the other. @returns their ids. */
export async function lockAdministrators(tx: Db): Promise<number[]> {
  const rows = await tx.query<{ id: number }[]>(
    `select id from person where role = 'administrator' and retired_at is null order by id for update`,
  );
  return rows.map(({ id }) => id);
}

/** What of an account can be said anew; what is not said stays. */
export type AccountSets = Partial<
  Pick<
    Person,
    'name' | 'role' | 'until' | 'contributorId' | 'ofKind' | 'assignmentId' | 'quotaBytes' | 'quotaFiles' | 'seesPersons'
  >
>;

export async function setAccount(tx: Db, id: number, sets: AccountSets): Promise<void> {
  const said = Object.fromEntries((Object.entries(sets) as [string, unknown][]).filter(([, value]) => value !== undefined));
  if (Object.keys(said).length) await tx.update(Person, id, said);
}

export async function nameTaken(db: Db, name: string, by: number): Promise<boolean> {
  const [{ taken }] = await db.query<[{ taken: boolean }]>(
    'select exists (select from person where lower(name) = lower($1) and id <> $2) as taken',
    [name, by],
  );
  return taken;
}

export async function retirePerson(tx: Db, id: number, at: Date | null): Promise<void> {
  await tx.query('update person set retired_at = $2, code_hash = null, code_until = null where id = $1', [id, at]);
}

/** A code by which a password is chosen; the old password is good for nothing any more. */
export async function setCode(tx: Db, id: number, hash: Buffer, until: Date): Promise<void> {
  await tx.query('update person set code_hash = $2, code_until = $3, password_hash = null where id = $1', [id, hash, until]);
}

/** A password was chosen: no code is good any more, and this session may go on. */
export async function setPassword(tx: Db, id: number, passwordHash: string, sessionId: string | null): Promise<void> {
  await tx.query('update person set password_hash = $2, code_hash = null, code_until = null where id = $1', [id, passwordHash]);
  await tx.query('update session set by_code = false where person_id = $1 and id = $2', [id, sessionId]);
}

export async function passwordHashOf(db: Db, id: number): Promise<string | null> {
  const rows = await db.query<{ passwordHash: string | null }[]>(
    'select password_hash as "passwordHash" from person where id = $1',
    [id],
  );
  return rows[0]?.passwordHash ?? null;
}

/** Somebody whom the house's directory knows. @param subject issuer and subject */
export async function personBySubject(
  db: Db,
  subject: string,
): Promise<{ id: number; name: string; role: Role; retired: boolean } | null> {
  const rows = await db.query<{ id: number; name: string; role: Role; retired: boolean }[]>(
    'select id, name, role, retired_at is not null as retired from person where subject = $1',
    [subject],
  );
  return rows[0] ?? null;
}

export async function setSubject(tx: Db, id: number, subject: string): Promise<void> {
  await tx.query('update person set subject = $2 where id = $1', [id, subject]);
}
