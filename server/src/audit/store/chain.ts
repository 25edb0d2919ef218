import type { AuditEvent, AuditQuery } from '@tally/contract';
import { AUDITED, type ChainedEvent } from '@tally/core/audit';
import type { Db } from '../../db/database.js';

/** An event as it was told. */
export interface Told extends Omit<ChainedEvent, 'at'> {
  readonly at: Date;
}

/** An event with its place in the order of the chain: by epoch, by transaction in it, then by id. */
export interface OrderedEvent extends Told {
  readonly epoch: number;
  readonly xact: number;
}

const EVENT = `e.id, e.at, e.kind, e.intake_id as "intakeId", e.who, e.text, e.data, e.epoch, e.xact`;

export interface LastLink {
  readonly position: number;
  readonly hash: Buffer;
  readonly epoch: number;
  readonly xact: number;
  readonly id: number;
}

/** Where the chain ends; null before its first link. */
export async function lastLink(db: Db): Promise<LastLink | null> {
  const rows = await db.query<LastLink[]>(
    `select l.position, l.hash, e.epoch, e.xact, e.id from event_link l join event e on e.id = l.event_id order by l.position desc limit 1`,
  );
  return rows[0] ?? null;
}

/**
 * Events that follow in the chain. Only those of transactions before which none is open any more: nothing can come in
 * before them later (PostgreSQL 15 manual, section 9.27.8: pg_snapshot_xmin). Of an earlier epoch none is.
 */
export function eventsAfter(
  db: Db,
  { epoch, xact, id }: Pick<LastLink, 'epoch' | 'xact' | 'id'>,
  limit: number,
): Promise<OrderedEvent[]> {
  return db.query<OrderedEvent[]>(
    `select ${EVENT} from event e
     where (e.epoch, e.xact, e.id) > ($1::int, $2::bigint, $3::bigint)
       and (e.epoch < (select l.epoch from house_life l) or e.xact < pg_snapshot_xmin(pg_current_snapshot())::text::bigint)
     order by e.epoch, e.xact, e.id limit $4`,
    [epoch, xact, id, limit],
  );
}

export interface NewLink {
  readonly eventId: number;
  readonly hash: Buffer;
  readonly digest: Buffer;
  readonly salt: Buffer;
}

export async function addLinks(db: Db, from: number, links: readonly NewLink[]): Promise<void> {
  await db.query(
    `insert into event_link (position, event_id, hash, digest, salt)
     select $1::bigint + n - 1, e, h, d, s
     from unnest($2::bigint[], $3::bytea[], $4::bytea[], $5::bytea[]) with ordinality as t (e, h, d, s, n)`,
    [
      ...[from, links.map(({ eventId }) => eventId), links.map(({ hash }) => hash)],
      ...[links.map(({ digest }) => digest), links.map(({ salt }) => salt)],
    ],
  );
}

/** A link with its event, as far as that is there. */
export interface LinkedEvent {
  readonly position: number;
  readonly eventId: number;
  readonly hash: Buffer;
  readonly digest: Buffer;
  readonly salt: Buffer;
  readonly erasedBy: number | null;
  /** What its digest is since, as the event that erased says. */
  readonly erasedTo: string | null;
  readonly id: number | null;
  readonly at: Date | null;
  readonly kind: string | null;
  readonly intakeId: number | null;
  readonly who: string | null;
  readonly text: string | null;
  readonly data: unknown;
}

export function linksAfter(db: Db, position: number, limit: number): Promise<LinkedEvent[]> {
  return db.query<LinkedEvent[]>(
    `select l.position, l.event_id as "eventId", l.hash, l.digest, l.salt, l.erased_by as "erasedBy",
       case when r.kind = 'erased' then r.data->'events'->>l.event_id::text end as "erasedTo",
       e.id, e.at, e.kind, e.intake_id as "intakeId", e.who, e.text, e.data
     from event_link l left join event e on e.id = l.event_id left join event r on r.id = l.erased_by
     where l.position > $1 order by l.position limit $2`,
    [position, limit],
  );
}

/** How many events there are, and how many of them stand in no link though their time for it is over. Reads the whole log. */
export async function countEvents(db: Db): Promise<{ events: number; passedBy: number }> {
  const [counted] = await db.query<[{ events: number; passedBy: number }]>(
    `select count(*)::int as events,
       count(*) filter (where l.event_id is null and (e.epoch, e.xact, e.id) < (
         select m.epoch, m.xact, m.id from event_link k join event m on m.id = k.event_id order by k.position desc limit 1
       ))::int as "passedBy"
     from event e left join event_link l on l.event_id = e.id`,
  );
  return counted;
}

export async function lastEventAt(db: Db, kind: string): Promise<Date | null> {
  const rows = await db.query<{ at: Date }[]>('select at from event where kind = $1 order by id desc limit 1', [kind]);
  return rows[0]?.at ?? null;
}

/** Events of the kinds that are audited, newest first. @param zone the house's: days are its days */
export async function auditedBefore(db: Db, query: AuditQuery, zone: string): Promise<AuditEvent[]> {
  const kinds = query.kind === undefined ? [...AUDITED] : [query.kind];
  // Each kind is read from its own end, newest first: none of what is not audited is passed over.
  const rows = await db.query<
    { id: number; at: Date; kind: string; who: string | null; text: string; intakeId: number | null }[]
  >(
    `select e.id, e.at, e.kind, e.who, e.text, e.intake_id as "intakeId"
     from unnest($1::text[]) as k (kind) cross join lateral (
       select * from event e where e.kind = k.kind and e.id < $2
         and ($3::text is null or lower(e.who) = lower($3))
         and ($4::date is null or e.at >= $4::date::timestamp at time zone $7)
         and ($5::date is null or e.at < ($5::date + 1)::timestamp at time zone $7)
       order by e.id desc limit $6
     ) e
     order by e.id desc limit $6`,
    [
      kinds,
      query.after ?? Number.MAX_SAFE_INTEGER,
      query.who === '' ? null : (query.who ?? null),
      query.from ?? null,
      query.to ?? null,
      query.limit,
      zone,
    ],
  );
  return rows.map(({ at, ...event }) => ({ ...event, at: at.toISOString() }));
}
