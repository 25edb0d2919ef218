import type { Kind } from '@tally/core/card';
import type { Properties, Question, Standing, Writing } from '@tally/core/fields';
import type { Db } from '../db/database.js';
import type { PieceKept } from '../db/entities/written.js';

/** What a file can say of an item besides its credit. */
export interface FactsOf {
  readonly itemId: number;
  readonly path: string;
  readonly kind: Kind;
  readonly role: string | null;
  readonly keptWhole: boolean;
  /** It stood on the drive before the house knew it: its bytes are left as they are. */
  readonly adopted: boolean;
  readonly local: string;
  readonly offsetMinutes: number | null;
  readonly corrected: boolean;
  readonly description: string;
  readonly slug: string | null;
  readonly title: string | null;
  readonly lat: number | null;
  readonly lon: number | null;
  /** How the contributor can be reached, and which of it stays inside the house. */
  readonly address: string;
  readonly email: string;
  readonly phone: string;
  readonly web: string;
  readonly inside: readonly string[];
  readonly standing: Standing;
}

export async function factsOf(db: Db, intakeId: number): Promise<FactsOf[]> {
  return db.query(
    `select i.id as "itemId", i.path, i.kind, i.role, coalesce(f.folder <> f.list_folder, false) as "keptWhole", n.adopted_at is not null as adopted, i.captured_local as local,
       i.captured_offset as "offsetMinutes", i.clock_shift_s <> 0 as corrected, i.description, a.slug, a.title,
       coalesce(c.lat, (i.embedded->'position'->>'lat')::float8) as lat, coalesce(c.lon, (i.embedded->'position'->>'lon')::float8) as lon,
       coalesce(k.address, '') as address, coalesce(k.email, '') as email, coalesce(k.phone, '') as phone, coalesce(k.web, '') as web, coalesce(k.inside, '{}') as inside,
       coalesce(c.standing, '{}') as standing
     from item i join intake n on n.id = i.intake_id left join filed_item f on f.item_id = i.id left join item_credit c on c.item_id = i.id
       left join assignment a on a.id = coalesce(i.assignment_id, n.assignment_id)
       left join contributor k on k.id = coalesce(i.contributor_id, n.contributor_id)
     where i.intake_id = $1 and i.set_aside is null`,
    [intakeId],
  );
}

/** Where the house has credit written, by kind. */
export async function writingOfHouse(db: Db): Promise<Writing> {
  const [row] = await db.query<[{ writing: Writing }]>('select writing from house_credit where id = 1');
  return row.writing;
}

/** What was said in a file or beside it. */
export interface Version {
  readonly filedItemId: number;
  readonly version: number;
  readonly how: 'inside' | 'beside' | 'none';
  readonly fingerprint: string;
  readonly bytes: number | null;
  readonly hash: Buffer | null;
  readonly undo: PieceKept[] | null;
  readonly said: Properties | null;
  readonly reason: string | null;
}

export type NewVersion = Omit<Version, 'version'> & {
  readonly quickHash: Buffer | null;
  readonly questions: readonly Question[];
};

/**
 * Keeps what is about to be written. What was kept before, by whoever writes the same at another place, is that.
 * @returns each one's number.
 */
export async function keepVersions(db: Db, versions: readonly NewVersion[]): Promise<Map<number, number>> {
  const kept = new Map<number, number>();
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    const missing = versions.filter(({ filedItemId }) => !kept.has(filedItemId));
    if (!missing.length) return kept;
    // Who was quicker took the number: theirs is seen when it is asked for again.
    for (const [filedItemId, version] of await keepSome(db, missing)) kept.set(filedItemId, version);
  }
  throw new Error('what is written into files could not be kept');
}

const MOST_TRIES = 10;

async function keepSome(db: Db, versions: readonly NewVersion[]): Promise<Map<number, number>> {
  const rows = await db.query<{ filedItemId: number; version: number }[]>(
    `with said as materialized (
       select s.*, (select w.version from credit_written w where w.filed_item_id = s.id and w.fingerprint = s.fingerprint and w.how = s.how
           and w.hash is not distinct from s.hash limit 1) as known,
         coalesce((select max(w.version) from credit_written w where w.filed_item_id = s.id), 0) + 1 as next
       from unnest($1::int[], $2::text[], $3::text[], $4::bigint[], $5::bytea[], $6::bytea[], $7::jsonb[], $8::jsonb[], $9::text[], $10::jsonb[])
         as s(id, how, fingerprint, bytes, hash, quick_hash, undo, said, reason, questions)),
     made as (insert into credit_written (filed_item_id, version, how, fingerprint, bytes, hash, quick_hash, undo, said, reason, questions)
       select id, next, how, fingerprint, bytes, hash, quick_hash, undo, said, reason, questions from said where known is null
       on conflict do nothing returning filed_item_id, version)
     select id as "filedItemId", known as version from said where known is not null union all select filed_item_id, version from made`,
    [
      versions.map((one) => one.filedItemId),
      versions.map((one) => one.how),
      versions.map((one) => one.fingerprint),
      versions.map((one) => one.bytes),
      versions.map((one) => one.hash),
      versions.map((one) => one.quickHash),
      versions.map((one) => one.undo && JSON.stringify(one.undo)),
      versions.map((one) => one.said && JSON.stringify(one.said)),
      versions.map((one) => one.reason),
      versions.map((one) => JSON.stringify(one.questions)),
    ],
  );
  return new Map(rows.map(({ filedItemId, version }) => [filedItemId, version]));
}

/** All that was ever said in these filed items and may still stand somewhere. */
export async function versionsOf(db: Db, filedItemIds: readonly number[]): Promise<Version[]> {
  return db.query(
    `select filed_item_id as "filedItemId", version, how, fingerprint, bytes, hash, undo, said, reason from credit_written
     where filed_item_id = any($1::int[]) order by 1, 2`,
    [filedItemIds],
  );
}

/** Which version stands in a filed item at a place; `hash`, `bytes`, `said`: of a sidecar that others changed. */
export interface StandsAt {
  readonly filedItemId: number;
  readonly placeId: string;
  readonly version: number;
  readonly hash?: Buffer | null;
  readonly bytes?: number | null;
  readonly said?: Properties | null;
  readonly questions?: readonly Question[];
  /** The sidecar's own time, as we left it. */
  readonly modifiedAt?: Date | null;
}

/** Says what stands where; version 0: nothing of ours. What nothing refers to any more is forgotten. */
export async function setStands(db: Db, stands: readonly StandsAt[]): Promise<void> {
  if (!stands.length) return;
  const [plain, written] = [stands.filter(({ version }) => version === 0), stands.filter(({ version }) => version > 0)];
  await db.query(
    `delete from credit_stands s using unnest($1::int[], $2::text[]) as g(id, place_id) where s.filed_item_id = g.id and s.place_id = g.place_id`,
    [plain.map((one) => one.filedItemId), plain.map((one) => one.placeId)],
  );
  await db.query(
    `insert into credit_stands (filed_item_id, place_id, version, hash, bytes, said, questions, modified_at)
     select * from unnest($1::int[], $2::text[], $3::int[], $4::bytea[], $5::bigint[], $6::jsonb[], $7::jsonb[], $8::timestamptz[])
     on conflict (filed_item_id, place_id) do update set version = excluded.version, hash = excluded.hash, bytes = excluded.bytes,
       said = excluded.said, questions = excluded.questions, modified_at = excluded.modified_at`,
    [
      written.map((one) => one.filedItemId),
      written.map((one) => one.placeId),
      written.map((one) => one.version),
      written.map((one) => one.hash ?? null),
      written.map((one) => one.bytes ?? null),
      written.map((one) => (one.said ? JSON.stringify(one.said) : null)),
      written.map((one) => JSON.stringify(one.questions ?? [])),
      written.map((one) => one.modifiedAt ?? null),
    ],
  );
  // Whatever is older than what stands anywhere. A run that died may have given a name before it could say so here.
  await db.query(
    `delete from credit_written w where w.filed_item_id = any($1::int[]) and w.version < (
       select min(coalesce(s.version, 0)) from copy c left join credit_stands s on s.filed_item_id = c.filed_item_id and s.place_id = c.place_id
       where c.filed_item_id = w.filed_item_id)`,
    [[...new Set(stands.map((one) => one.filedItemId))]],
  );
}

/** A filed copy as it stands at a place: what is inside it, beside it, and what it was on the card. */
export interface CopyStands {
  readonly filedItemId: number;
  readonly itemId: number;
  readonly folder: string;
  readonly name: string;
  readonly modifiedAt: Date;
  /** Of the card's bytes. */
  readonly cardBytes: number;
  readonly cardHash: Buffer;
  readonly version: number;
  readonly how: 'inside' | 'beside' | 'none' | null;
  readonly fingerprint: string | null;
  readonly reason: string | null;
  readonly bytes: number | null;
  readonly hash: Buffer | null;
  readonly undo: PieceKept[] | null;
  readonly said: Properties | null;
  readonly questions: readonly Question[];
}

const COPIES = `select f.id as "filedItemId", f.item_id as "itemId", f.folder, f.name, i.modified_at as "modifiedAt", f.bytes as "cardBytes", f.hash as "cardHash",
     coalesce(s.version, 0) as version, w.how, w.fingerprint, w.reason, coalesce(s.bytes, w.bytes) as bytes, coalesce(s.hash, w.hash) as hash, w.undo,
     coalesce(s.said, w.said) as said, coalesce(s.questions, '[]') || coalesce(w.questions, '[]') as questions
   from filed_item f join item i on i.id = f.item_id join copy c on c.filed_item_id = f.id
     left join credit_stands s on s.filed_item_id = f.id and s.place_id = c.place_id
     left join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version`;

/** Copies of an intake in a folder (where its lists stand) that tally at a place, and are not being moved there. */
export async function copiesStanding(db: Db, intakeId: number, listFolder: string, placeId: string): Promise<CopyStands[]> {
  return db.query<CopyStands[]>(
    `${COPIES} where f.intake_id = $1 and f.list_folder = $2 and c.place_id = $3 and c.state = 'tallied' and f.hash is not null
       and not is_moving(f.id, c.place_id) order by f.folder, f.n, f.name`,
    [intakeId, listFolder, placeId],
  );
}

/** One item's copies that tally, the places in their order. */
export async function copiesOfItem(db: Db, itemId: number): Promise<(CopyStands & { placeId: string })[]> {
  return db.query<(CopyStands & { placeId: string })[]>(
    `select o.*, p.id as "placeId" from place p join copy t on t.place_id = p.id and t.state = 'tallied' join filed_item g on g.id = t.filed_item_id
       cross join lateral (${COPIES} where f.id = g.id and c.place_id = p.id) o
     where g.item_id = $1 and g.hash is not null order by p.position`,
    [itemId],
  );
}
