import type { IntakeSummary } from '@tally/contract';
import { isDeepStrictEqual } from 'node:util';
import type { CardFacts } from '@tally/core/reader';
import { intakeNumber } from '@tally/core/logbook';
import type { Db } from '../../db/database.js';
import { intakeScope } from './counters.js';
import { type AnsweredBy, Intake, type IntakeTotals } from '../../db/entities/intake.js';

export const NO_TOTALS: IntakeTotals = {
  items: 0,
  bytes: 0,
  byKind: {},
  camera: null,
  taken: 0,
  filed: 0,
  alreadyFiled: 0,
  comparing: 0,
  read: 0,
  first: null,
  last: null,
  stick: [],
};

/** An intake with its names joined in, as the use cases see it. */
export type IntakeRow = Omit<IntakeSummary, 'receivedAt'> & {
  receivedAt: Date;
  /** UUID that nobody else draws. */
  uid: string;
  sourcePath: string;
  /** The device its card lay on, and the path of a file that was there (bytes as on the card). */
  device: string | null;
  witness: Buffer | null;
  ruleRevision: number | null;
};

const SELECT = `
  select i.id, i.uid::text as uid, i.number, i.state, k.tray, json_build_object('id', k.id, 'label', k.label, 'volume', k.volume, 'onInsert', k.on_insert) as card,
    case when c.id is not null then json_build_object('id', c.id, 'code', c.code, 'name', c.name) end as contributor,
    case when a.id is not null then json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) end as assignment,
    i.received_at as "receivedAt", i.received_by as "receivedBy", i.station, i.present, i.note, i.totals,
    exists (select from hand_in h where h.intake_id = i.id) as "handedIn", coalesce(i.halt = 'pause', false) as paused,
    coalesce((select json_agg(json_build_object('items', p.items, 'filed', p.filed,
        'contributor', case when pc.id is not null then json_build_object('id', pc.id, 'code', pc.code, 'name', pc.name) end,
        'assignment', case when pa.id is not null then json_build_object('id', pa.id, 'slug', pa.slug, 'title', pa.title) end) order by p.items desc, p.id)
      from intake_part p left join contributor pc on pc.id = p.contributor_id left join assignment pa on pa.id = p.assignment_id
      where p.intake_id = i.id), '[]') as parts,
    to_char(i.cleared_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "clearedAt",
    i.source_path as "sourcePath", i.source_device as device, i.witness, i.read_through as "readThrough", i.reader, i.let_go as "letGo", i.unshown,
    (select w.kind from card_work w where w.intake_id = i.id and w.state = 'doing' and w.kind in ('clear', 'restore') limit 1) as work, i.rule_revision as "ruleRevision"
  from intake i join card k on k.id = i.card_id
  left join contributor c on c.id = i.contributor_id left join assignment a on a.id = i.assignment_id`;

type Raw = Omit<IntakeRow, keyof IntakeTotals> & { totals: IntakeTotals };
// Totals that were kept before something was counted lack it.
const flatten = ({ totals, ...row }: Raw): IntakeRow => ({ ...row, ...NO_TOTALS, ...totals });

export function summaryOf(row: IntakeRow): IntakeSummary {
  const { uid: _uid, sourcePath: _path, device: _device, witness: _witness, ruleRevision: _rule, receivedAt, ...summary } = row;
  return { ...summary, receivedAt: receivedAt.toISOString() };
}

export async function intakeById(db: Db, id: number): Promise<IntakeRow | null> {
  const rows: Raw[] = await db.query(`${SELECT} where i.id = $1`, [id]);
  return rows[0] ? flatten(rows[0]) : null;
}

export async function intakesWhere(db: Db, condition: string, parameters: unknown[]): Promise<IntakeRow[]> {
  const rows: Raw[] = await db.query(`${SELECT} where ${condition}`, parameters);
  return rows.map(flatten);
}

/** Keeps a row against others until the transaction ends. */
export async function lockIntake(db: Db, id: number): Promise<void> {
  await db.query('select id from intake where id = $1 for update', [id]);
}

export interface NewIntake {
  readonly cardId: number;
  readonly receivedAt: Date;
  readonly year: number;
  readonly receivedBy: string;
  readonly note: string | null;
  readonly station: string;
  readonly sourcePath: string;
  readonly device: string | null;
  readonly witness: Buffer | null;
  readonly reader?: CardFacts;
}

/** The next number of an intake of a year. Call it in a transaction. */
export async function drawNumber(db: Db, year: number): Promise<string> {
  const [{ next }]: [{ next: number }] = await db.query(
    `insert into counter (scope, next) values ($1, 2) on conflict (scope) do update set next = counter.next + 1 returning next`,
    [intakeScope(year)],
  );
  return intakeNumber(year, next - 1);
}

/** Adds an intake with the year's next number. Call it in a transaction. */
export async function addIntake(db: Db, intake: NewIntake): Promise<number> {
  const rows: { id: number }[] = await db.query(
    `insert into intake (number, card_id, state, received_at, received_by, station, source_path, present, totals, words, source_device, witness, note, reader)
     values ($1, $2, 'open', $3, $4, $5, $6, true, $7, '', $8, $9, $10, $11) returning id`,
    [
      await drawNumber(db, intake.year),
      intake.cardId,
      intake.receivedAt,
      intake.receivedBy,
      intake.station,
      intake.sourcePath,
      NO_TOTALS,
      intake.device,
      intake.witness,
      intake.note,
      intake.reader ? JSON.stringify(intake.reader) : null,
    ],
  );
  return rows[0]!.id;
}

/** An intake that no card brought: it is of an adoption, and lies in no reader. */
export async function isAdopted(
  db: Db,
  id: number,
  { id: adoptionId, placeId, folder }: { readonly id: number; readonly placeId: string; readonly folder: string },
): Promise<void> {
  await db.query(
    'update intake set present = false, read_through = true, adoption_id = $2, adopted_at = $3, adopted_folder = $4 where id = $1',
    [id, adoptionId, placeId, folder],
  );
}

/** Did it come by being adopted? Then nothing it lies on is ever cleared. */
export async function adoptedAt(db: Db, id: number): Promise<string | null> {
  const rows = await db.query<{ place: string | null }[]>('select adopted_at as place from intake where id = $1', [id]);
  return rows[0]?.place ?? null;
}

/** What is thought to lie in a reader's folder. */
export interface Lying {
  readonly intakeId: number;
  readonly sourcePath: string;
  readonly present: boolean;
  readonly device: string | null;
  readonly witness: Buffer | null;
}

/** For each of these folders of a station the newest intake that came from there, present ones first. */
export async function lyingAt(db: Db, station: string, paths: readonly string[]): Promise<Lying[]> {
  return db.query(
    `select i.* from unnest($2::text[]) p(path) cross join lateral (
       select id as "intakeId", source_path as "sourcePath", present, source_device as device, witness
       from intake where station = $1 and source_path = p.path order by present desc, id desc limit 1) i`,
    [station, paths],
  );
}

/** Does a station file anything now? Then other work waits. */
export async function anybodyFiling(db: Db, station: string): Promise<boolean> {
  const rows = await db.query<{ id: number }[]>(
    `select id from intake where state = 'filing' and halt is distinct from 'pause' and present and station = $1 limit 1`,
    [station],
  );
  return rows.length > 0;
}

/** What somebody wants of a filing: that it pauses or stops; null: that it goes on. */
export async function haltOf(db: Db, id: number): Promise<'pause' | 'stop' | null> {
  const rows: { halt: 'pause' | 'stop' | null }[] = await db.query('select halt from intake where id = $1', [id]);
  return rows[0]?.halt ?? null;
}

export async function setSlip(
  db: Db,
  id: number,
  slip: { contributorId?: number | null; assignmentId?: number | null },
): Promise<void> {
  if (slip.contributorId !== undefined)
    await db.query('update intake set contributor_id = $2 where id = $1', [id, slip.contributorId]);
  if (slip.assignmentId !== undefined)
    await db.query('update intake set assignment_id = $2 where id = $1', [id, slip.assignmentId]);
}

export async function setRule(db: Db, id: number, revision: number): Promise<void> {
  await db.query('update intake set rule_revision = $2 where id = $1', [id, revision]);
}

/** Keeps the totals of an intake, and the words by which the logbook finds it. @param said words that its items add. */
export async function keepTotals(db: Db, intakeId: number, totals: IntakeTotals, said: string): Promise<void> {
  await db.query(
    `update intake i set totals = $2, words = lower(concat_ws(' ', i.number, k.label, k.volume, c.code, c.name, a.title, a.slug, a.place, $3::text))
     from card k, (select n.id, n.contributor_id, n.assignment_id from intake n where n.id = $1) n
     left join contributor c on c.id = n.contributor_id left join assignment a on a.id = n.assignment_id
     where i.id = $1 and k.id = i.card_id`,
    [intakeId, JSON.stringify(totals), said],
  );
}

/** Names of contributors, then titles and short names of assignments, for the words of an intake whose items differ from its slip. */
export async function namesOfParts(
  db: Db,
  contributorIds: readonly number[],
  assignmentIds: readonly number[],
): Promise<string[]> {
  if (!contributorIds.length && !assignmentIds.length) return [];
  const rows = await db.query<{ name: string }[]>(
    `select a.title || ' ' || a.slug as name from assignment a where a.id = any($2::int[])
     union all select c.name from contributor c where c.id = any($1::int[])`,
    [contributorIds, assignmentIds],
  );
  return rows.map(({ name }) => name);
}

/** Ids of intakes after one, in their order. */
export async function intakesAfter(db: Db, after: number, limit: number): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>('select id from intake where id > $1 order by id limit $2', [after, limit]);
  return rows.map(({ id }) => id);
}

/** The totals of an intake as they are kept, and what the logbook is ordered by beside them. */
export async function keptTotals(
  db: Db,
  intakeId: number,
): Promise<{ totals: IntakeTotals; ordered: { items: number; filed: number; bytes: number } } | null> {
  const [row] = await db.query<{ totals: IntakeTotals; items: number; filed: number; bytes: number }[]>(
    'select totals, items, filed, bytes from intake where id = $1',
    [intakeId],
  );
  return row ? { totals: row.totals, ordered: { items: row.items, filed: row.filed, bytes: row.bytes } } : null;
}

/** What a person must know of an intake now; null: nothing. */
export async function setNote(db: Db, intakeId: number, note: string | null): Promise<void> {
  await db.query('update intake set note = $2 where id = $1', [intakeId, note]);
}

export async function setCleared(db: Db, intakeId: number, at: Date): Promise<void> {
  await db.query('update intake set cleared_at = $2 where id = $1', [intakeId, at]);
}

/** A part of an intake: items of one contributor and one assignment, whatever the slip or the items themselves say. */
export interface PartOfIntake {
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  readonly items: number;
  /** Those that are taken, filed, or were filed already. */
  readonly given: number;
  readonly filed: number;
  readonly bytes: number;
}

/** What of an intake is whose, as it is kept. */
export async function partsKept(db: Db, intakeId: number): Promise<PartOfIntake[]> {
  const rows = await db.query<PartOfIntake[]>(
    `select contributor_id as "contributorId", assignment_id as "assignmentId", items, given, filed, bytes from intake_part where intake_id = $1`,
    [intakeId],
  );
  return rows.sort(byWhose);
}

/** An order for comparing. */
export const byWhose = (a: PartOfIntake, b: PartOfIntake): number =>
  (a.contributorId ?? 0) - (b.contributorId ?? 0) || (a.assignmentId ?? 0) - (b.assignmentId ?? 0);

/** Keeps what of an intake is whose. Call it in a transaction that holds the intake. */
export async function keepParts(db: Db, intakeId: number, parts: readonly PartOfIntake[]): Promise<void> {
  if (isDeepStrictEqual(await partsKept(db, intakeId), [...parts].sort(byWhose))) return;
  await db.query('delete from intake_part where intake_id = $1', [intakeId]);
  await db.query(
    `insert into intake_part (intake_id, contributor_id, assignment_id, items, given, filed, bytes)
     select $1, p.* from unnest($2::int[], $3::int[], $4::int[], $5::int[], $6::int[], $7::bigint[]) as p`,
    [
      intakeId,
      parts.map(({ contributorId }) => contributorId),
      parts.map(({ assignmentId }) => assignmentId),
      parts.map(({ items }) => items),
      parts.map(({ given }) => given),
      parts.map(({ filed }) => filed),
      parts.map(({ bytes }) => bytes),
    ],
  );
}

/**
 * A contributor or an assignment is called something else: the words by which the logbook finds their intakes follow.
 * The old name stays findable.
 */
export async function sayAnew(db: Db, what: 'contributor' | 'assignment', id: number): Promise<void> {
  await db.query(
    `update intake i set words = lower(concat_ws(' ', i.words, c.name, c.code, a.title, a.slug, a.place))
     from (select 1) one left join contributor c on $1 = 'contributor' and c.id = $2 left join assignment a on $1 = 'assignment' and a.id = $2
     where i.id in (select p.intake_id from intake_part p where $1 = 'contributor' and p.contributor_id = $2
         union select p.intake_id from intake_part p where $1 = 'assignment' and p.assignment_id = $2)
       and not (i.words like '%' || replace(lower(coalesce(c.name, a.title)), '%', E'\\\\%') || '%')`,
    [what, id],
  );
}

/** A name by which intakes were found is not one any more: of a contributor who is forgotten. */
export async function unsay(db: Db, contributorId: number, name: string): Promise<void> {
  await db.query(
    `update intake i set words = replace(i.words, lower($2), '')
     where i.id in (select p.intake_id from intake_part p where p.contributor_id = $1)`,
    [contributorId, name],
  );
}

/** How many items of intakes show somebody who must not be shown. */
export async function keepUnshown(db: Db, intakeIds: readonly number[]): Promise<void> {
  await db.query(
    `update intake n set unshown = c.unshown from (
       select i.intake_id, count(distinct i.id) filter (where q.consent = 'no')::int as unshown
       from item i left join item_pictured p on p.item_id = i.id left join pictured q on q.id = p.pictured_id
       where i.intake_id = any($1::int[]) group by 1) c
     where n.id = c.intake_id and n.unshown <> c.unshown`,
    [intakeIds],
  );
}

/** Records were merged: what of an intake is the same person's, for the same assignment, is one part. */
export async function joinParts(db: Db, what: 'contributor' | 'assignment', id: number): Promise<void> {
  await db.query(
    `with moved as (delete from intake_part where case when $1 = 'contributor' then contributor_id else assignment_id end = $2 returning *)
     insert into intake_part (intake_id, contributor_id, assignment_id, items, given, filed, bytes)
     select intake_id, contributor_id, assignment_id, sum(items), sum(given), sum(filed), sum(bytes) from moved group by 1, 2, 3`,
    [what, id],
  );
}

export async function setAnsweredBy(db: Db, intakeId: number, answeredBy: AnsweredBy): Promise<void> {
  await db.query('update intake set answered_by = $2 where id = $1', [intakeId, JSON.stringify(answeredBy)]);
}

/** What a slip says of credit: not named stays, null takes it back. */
export interface SlipCredit {
  readonly creditLine?: string | null;
  readonly copyrightNotice?: string | null;
  readonly termsId?: number | null;
  readonly locationId?: number | null;
}

export async function setSlipCredit(db: Db, intakeId: number, change: SlipCredit): Promise<void> {
  const { creditLine, copyrightNotice, termsId, locationId } = change;
  const named = Object.entries({ creditLine, copyrightNotice, termsId, locationId }).filter(([, value]) => value !== undefined);
  if (named.length) await db.getRepository(Intake).update(intakeId, Object.fromEntries(named));
}
