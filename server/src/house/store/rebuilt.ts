import type { HouseRecord, IntakeRecord } from '@tally/contract';
import type { Db } from '../../db/database.js';
import { drawNumber, NO_TOTALS } from './intakes.js';

/* The logbook put together again from what stands beside the files. */

/** Places from which the logbook is being rebuilt; null: it is not. */
export async function rebuildingFrom(db: Db): Promise<string[] | null> {
  const rows = await db.query<{ rebuilding: string[] | null }[]>('select rebuilding from house_life');
  return rows[0]?.rebuilding ?? null;
}

/** Does the log hold nothing yet that people and cards put there? */
export async function isEmptyHouse(db: Db): Promise<boolean> {
  const [{ isEmpty }] = await db.query<[{ isEmpty: boolean }]>(
    `select coalesce((select id from intake order by id limit 1), (select id from contributor order by id limit 1),
       (select id from assignment order by id limit 1)) is null as "isEmpty"`,
  );
  return isEmpty;
}

/** From now on the house is the one that a drive was written by. @param placeIds null: it is done */
export async function setRebuilding(tx: Db, placeIds: readonly string[] | null, houseId?: string): Promise<void> {
  await tx.query('update house_life set rebuilding = $1, id = coalesce($2::uuid, id)', [placeIds, houseId ?? null]);
}

/** Cards by their labels, as the house record tells. */
export async function rebuildCards(tx: Db, cards: HouseRecord['cards']): Promise<void> {
  await tx.query(
    `insert into card (label, volume, tray, tray_since, ours) select label, volume, tray, since, ours
     from jsonb_to_recordset($1::jsonb) as r(label text, volume text, tray text, since timestamptz, ours boolean) on conflict do nothing`,
    [JSON.stringify(cards)],
  );
}

export interface RebuiltIntake {
  readonly record: IntakeRecord;
  /** Its own, where nobody has it; else another. */
  readonly number: string;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  readonly ruleRevision: number | null;
  readonly termsId: number | null;
  readonly locationId: number | null;
}

/** Puts an intake back that a record tells of; its card is out unless the house record says otherwise. @returns its id */
export async function rebuildIntake(tx: Db, intake: RebuiltIntake): Promise<number> {
  const { record } = intake;
  const cardId = await cardOf(tx, record);
  const rows = await tx.query<{ id: number }[]>(
    `insert into intake (uid, number, card_id, state, received_at, received_by, station, source_path, present, read_through, totals, words,
       contributor_id, assignment_id, rule_revision, cleared_at, credit_line, copyright_notice, terms_id, location_id, drawn, adopted_at, adopted_folder)
     values (coalesce($1::uuid, uuid_v7($5::timestamptz)), $2, $3, $4, $5, $6, $7, $8, false, true, $9, '', $10, $11, $12, $13, $14, $15, $16, $17, $18,
       $19, $20) returning id`,
    [
      ...[record.intakeId, intake.number, cardId, stateOf(record), record.receivedAt, record.receivedBy, record.station],
      ...[record.source, NO_TOTALS, intake.contributorId, intake.assignmentId, intake.ruleRevision, record.clearedAt],
      ...[record.says.creditLine, record.says.copyrightNotice, intake.termsId, intake.locationId, JSON.stringify(record.drawn)],
      ...[record.adopted?.place ?? null, record.adopted?.folder ?? null],
    ],
  );
  return rows[0]!.id;
}

/** What was going on when that was written goes on no more. */
const stateOf = ({ state }: IntakeRecord) => (state === 'tallied' || state === 'needs attention' ? state : 'closed');

async function cardOf(tx: Db, { card, receivedAt }: IntakeRecord): Promise<number> {
  if (card.label !== null) {
    const known = await tx.query<{ id: number }[]>('select id from card where label = $1', [card.label]);
    if (known[0]) return known[0].id;
  }
  const made = await tx.query<{ id: number }[]>(
    `insert into card (label, volume, tray, tray_since) values ($1, $2, 'out', $3) returning id`,
    [card.label, card.volume, receivedAt],
  );
  return made[0]!.id;
}

/** The number of an intake that comes back: its own, or the year's next where another intake has that by now. */
export async function freeNumber(tx: Db, number: string, year: number): Promise<string> {
  const taken = await tx.query<unknown[]>('select from intake where number = $1', [number]);
  return taken.length ? drawNumber(tx, year) : number;
}

/** Tells again what the log told of an intake, at its times, as of now. */
export async function rebuildEvents(tx: Db, intakeId: number, events: IntakeRecord['events']): Promise<void> {
  await tx.query(
    `insert into event (at, kind, intake_id, who, text, data, epoch, xact)
     select r.at, r.kind, $2, r.who, r.text, case when r.receipt is not null then jsonb_build_object('name', r.receipt) end,
       current_epoch(), pg_current_xact_id()::text::bigint
     from jsonb_to_recordset($1::jsonb) as r(at timestamptz, kind text, who text, text text, receipt text)`,
    [JSON.stringify(events), intakeId],
  );
}
