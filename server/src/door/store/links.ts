import type { LinkView } from '@tally/contract';
import type { Db } from '../../db/database.js';
import type { Bounds } from './accounts.js';

export async function addLink(
  db: Db,
  link: { tokenHash: Buffer; personId: number; name: string; madeBy: string; madeAt: Date; expiresAt: Date },
): Promise<void> {
  await db.query(
    'insert into hand_in_link (token_hash, person_id, name, made_by, made_at, expires_at) values ($1, $2, $3, $4, $5, $6)',
    [link.tokenHash, link.personId, link.name, link.madeBy, link.madeAt, link.expiresAt],
  );
}

/** Who a link's secret lets in, and until when; null when it is none, or good for nothing any more. */
export async function personOfLink(
  db: Db,
  tokenHash: Buffer,
  now: Date,
): Promise<{ id: number; name: string; expiresAt: Date } | null> {
  const rows = await db.query<{ id: number; name: string; expiresAt: Date }[]>(
    `select p.id, p.name, l.expires_at as "expiresAt" from hand_in_link l join person p on p.id = l.person_id
     where l.token_hash = $1 and l.expires_at > $2 and l.revoked_at is null and p.retired_at is null`,
    [tokenHash, now],
  );
  return rows[0] ?? null;
}

/** Is this somebody who comes by a link? */
export async function isOfLink(db: Db, personId: number): Promise<boolean> {
  const [{ is }] = await db.query<[{ is: boolean }]>('select exists (select from hand_in_link where person_id = $1) as is', [
    personId,
  ]);
  return is;
}

interface LinkRow extends Bounds {
  readonly id: number;
  readonly name: string;
  readonly madeBy: string;
  readonly madeAt: Date;
  readonly expiresAt: Date;
  readonly revokedAt: Date | null;
  readonly contributorName: string | null;
  readonly assignmentTitle: string | null;
  readonly handIns: number;
  readonly files: number;
  readonly bytes: number;
  readonly sessions: number;
}

/** Links, newest first, with what came in by each. @param before the id that the page before ended with */
export async function linksBefore(db: Db, now: Date, before: number | null, limit: number): Promise<LinkView[]> {
  const rows = await db.query<LinkRow[]>(
    `select p.id, l.name, l.made_by as "madeBy", l.made_at as "madeAt", l.expires_at as "expiresAt", l.revoked_at as "revokedAt",
       p.contributor_id as "contributorId", p.of_kind as "ofKind", p.assignment_id as "assignmentId",
       p.quota_bytes as "quotaBytes", p.quota_files as "quotaFiles", c.name as "contributorName", a.title as "assignmentTitle",
       coalesce(h.n, 0)::int as "handIns", coalesce(h.files, 0)::int as files, coalesce(h.bytes, 0)::bigint as bytes,
       coalesce(s.n, 0)::int as sessions
     from hand_in_link l join person p on p.id = l.person_id
       left join contributor c on c.id = p.contributor_id
       left join assignment a on a.id = p.assignment_id
       left join lateral (
         select count(*) as n, sum(files) as files, sum(bytes) as bytes from hand_in where person_id = p.id
       ) h on true
       left join lateral (select count(*) as n from session where person_id = p.id and expires_at > $1) s on true
     where ($2::int is null or l.person_id < $2)
     order by l.person_id desc limit $3`,
    [now, before, limit],
  );
  return rows.map(linkView);
}

function linkView({ contributorId, contributorName, assignmentId, assignmentTitle, ...row }: LinkRow): LinkView {
  return {
    ...row,
    madeAt: row.madeAt.toISOString(),
    expiresAt: row.expiresAt.toISOString(),
    revokedAt: row.revokedAt?.toISOString() ?? null,
    contributor: contributorId === null ? null : { id: contributorId, name: contributorName ?? '' },
    assignment: assignmentId === null ? null : { id: assignmentId, name: assignmentTitle ?? '' },
  };
}

/** A link is good for nothing from now on. @returns its name; null: there is none, or it was ended before. */
export async function revokeLink(tx: Db, id: number, at: Date): Promise<string | null> {
  const [rows] = await tx.query<[{ name: string }[], number]>(
    'update hand_in_link set revoked_at = $2 where person_id = $1 and revoked_at is null returning name',
    [id, at],
  );
  return rows[0]?.name ?? null;
}

/** Links that ended before a day are forgotten, with whom they let in; what came in by them stays. @returns how many */
export async function forgetLinks(db: Db, before: Date): Promise<number> {
  const rows = await db.query<[{ id: number }[], number]>(
    `delete from person p using hand_in_link l
     where l.person_id = p.id and least(coalesce(l.revoked_at, l.expires_at), l.expires_at) < $1 returning p.id`,
    [before],
  );
  return rows[0].length;
}
