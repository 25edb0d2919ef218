import type { Db } from '../../db/database.js';
import type { Told } from './chain.js';

/** A name that is being erased, and up to which event that is done. */
export interface ErasingRow {
  readonly contributorId: number;
  readonly names: string[];
  readonly lines: string[];
  readonly who: string;
  readonly upto: number;
}

/** Events looked at in one go, and at most changed in one. */
const SPAN = 20_000;
const MOST = 500;

export async function addErasing(
  tx: Db,
  contributorId: number,
  names: readonly string[],
  lines: readonly string[],
  who: string,
): Promise<void> {
  await tx.query(
    `insert into erasing (contributor_id, names, lines, who, xact)
     values ($1, $2, $3, $4, pg_current_xact_id()::text::bigint)
     on conflict (contributor_id) do update set upto = 0, xact = excluded.xact,
       names = array(select distinct unnest(erasing.names || excluded.names)),
       lines = array(select distinct unnest(erasing.lines || excluded.lines))`,
    [contributorId, names, lines, who],
  );
}

/** One whose wish lies before everything that is still going on; null: there is none. */
export async function nextErasing(db: Db): Promise<ErasingRow | null> {
  const rows = await db.query<ErasingRow[]>(
    `select contributor_id as "contributorId", names, lines, who, upto from erasing
     where xact < pg_snapshot_xmin(pg_current_snapshot())::text::bigint order by xact limit 1`,
  );
  return rows[0] ?? null;
}

/** What a contributor was called before, by what was told of the record and of those that became one with it. */
export async function formerNames(db: Db, contributorId: number): Promise<string[]> {
  const rows = await db.query<{ name: string }[]>(
    `select distinct e.data->'before'->>'name' as name from event e
     where e.kind = 'contributor' and (e.data->'id' = to_jsonb($1::int) or e.data->'into' = to_jsonb($1::int))
       and e.data->'before'->>'name' is not null`,
    [contributorId],
  );
  return rows.map(({ name }) => name);
}

/** Events after one that may name somebody, as far as one goes at once. @param words any of which an event has to hold */
export async function toldOf(
  tx: Db,
  contributorId: number,
  words: readonly string[],
  after: number,
): Promise<{ events: Told[]; upto: number; isEnd: boolean }> {
  const [{ last }] = await tx.query<[{ last: number }]>('select coalesce(max(id), 0)::bigint as last from event');
  const end = Math.min(after + SPAN, last);
  const events = await tx.query<Told[]>(
    `select e.id, e.at, e.kind, e.intake_id as "intakeId", e.who, e.text, e.data from event e
     where e.id > $1 and e.id <= $2 and (
       e.kind = 'contributor' and (e.data->'id' = to_jsonb($3::int) or e.data->'into' = to_jsonb($3::int))
       or exists (select from unnest($4::text[]) as w (word)
         where strpos(concat_ws(' ', e.who, e.text, e.data::text), w.word) > 0
           or strpos(lower(concat_ws(' ', e.who, e.text, e.data::text)), w.word) > 0))
     order by e.id limit ${MOST}`,
    [after, end, contributorId, [...new Set(words.flatMap(soughtAs))]],
  );
  const upto = events.length === MOST ? events.at(-1)!.id : end;
  return { events, upto, isEnd: upto >= last };
}

/**
 * The first word of a name, in each way that it may be written: what it is about is looked at by whoever erases. A database
 * may know of small and large letters in ASCII only.
 */
function soughtAs(words: string): string[] {
  const first = /[\p{L}\p{M}\p{N}]+/u.exec(words)?.[0] ?? '';
  const cased = first ? [first, first.toLowerCase(), first.toUpperCase()] : [];
  return cased.flatMap((word) => [word.normalize('NFC'), word.normalize('NFD')]);
}

/** An event as it is to stand from now on. */
export interface ToStand {
  readonly event: Told;
  readonly salt: Buffer;
}

/** Puts events in the place of what was told. @param by the event that says so, of the same transaction */
export async function eraseTold(tx: Db, changed: readonly ToStand[], by: number): Promise<void> {
  await tx.query('select erase_told($1::bigint[], $2::text[], $3::text[], $4::text[], $5::bytea[], $6::bigint)', [
    changed.map(({ event }) => event.id),
    changed.map(({ event }) => event.who),
    changed.map(({ event }) => event.text),
    changed.map(({ event }) => (event.data === null ? null : JSON.stringify(event.data))),
    changed.map(({ salt }) => salt),
    by,
  ]);
  // What the log tells stands in the records beside the files, too.
  await tx.query('select explain_intakes($1::int[])', [[...new Set(changed.flatMap(({ event }) => event.intakeId ?? []))]]);
}

/** @param upto null: to the end, and nothing of it is kept */
export async function lookedAt(tx: Db, contributorId: number, names: readonly string[], upto: number | null): Promise<void> {
  if (upto === null) await tx.query('delete from erasing where contributor_id = $1', [contributorId]);
  else await tx.query('update erasing set upto = $2, names = $3 where contributor_id = $1', [contributorId, upto, names]);
}

/** Where transactions are numbered anew: what is being erased is looked for from the start, as every one of before is over. */
export async function eraseFromTheStart(tx: Db): Promise<void> {
  await tx.query('update erasing set xact = 0, upto = 0');
}
