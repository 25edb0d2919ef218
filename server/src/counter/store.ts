import type { HandedIn, Loan, LoanHistory, NewThing, Thing, ThingKey } from '@tally/contract';
import { loanStanding } from '@tally/core/trays';
import { Card } from '../db/entities/intake.js';
import { Kit } from '../db/entities/lending.js';
import { holdUntilEnd } from '../db/locks.js';
import type { Db } from '../db/database.js';
import { addOwnCard, cardOfLabel } from '../house/index.js';

export async function kitOfLabel(db: Db, label: string): Promise<{ id: number; kind: ThingKey['kind'] } | null> {
  const rows: { id: number; kind: ThingKey['kind'] }[] = await db.query(
    'select id, kind from kit where lower(label) = lower($1)',
    [label],
  );
  return rows[0] ?? null;
}

/** Cards and other things share their labels, and a scan must mean one thing: one at a time gives a label away. */
export async function lockLabels(db: Db): Promise<void> {
  await holdUntilEnd(db, 'labels', 0);
}

/** Adds a card of the house, or another thing that is lent. @returns null when something carries that label already. */
export async function addThing(db: Db, thing: NewThing, at: Date): Promise<ThingKey | null> {
  const { kind, label, name } = thing;
  await lockLabels(db);
  if ((await cardOfLabel(db, label)) ?? (await kitOfLabel(db, label))) return null;
  if (kind === 'card') return { kind, id: await addOwnCard(db, label, name, at) };
  const rows = await db.query<{ id: number }[]>('insert into kit (kind, label, name) values ($1, $2, $3) returning id', [
    ...[kind, label, name],
  ]);
  return { kind, id: rows[0]!.id };
}

const column = (key: ThingKey) => (key.kind === 'card' ? 'card_id' : 'kit_id');

/** @returns false when it is lent already. */
export async function addLoan(
  db: Db,
  key: ThingKey,
  loan: { contributorId: number; at: Date; by: string; due: string | null; note: string },
): Promise<boolean> {
  const rows: { id: number }[] = await db.query(
    `insert into loan (${column(key)}, contributor_id, lent_at, lent_by, due, note) values ($1, $2, $3, $4, $5, $6)
     on conflict (${column(key)}) where back_at is null do nothing returning id`,
    [key.id, loan.contributorId, loan.at, loan.by, loan.due, loan.note],
  );
  return rows.length > 0;
}

/** Ends the open loan of a thing. @returns whom it was lent to; null when it was not lent. */
export async function endLoan(
  db: Db,
  key: ThingKey,
  at: Date,
  by: string,
): Promise<{ contributorId: number; name: string } | null> {
  const [rows]: [{ contributorId: number; name: string }[], number] = await db.query(
    `update loan l set back_at = $2, back_by = $3 from contributor c
     where l.${column(key)} = $1 and l.back_at is null and c.id = l.contributor_id
     returning c.id as "contributorId", c.name`,
    [key.id, at, by],
  );
  return rows[0] ?? null;
}

interface ThingRow extends Omit<Thing, 'loan'> {
  readonly loan: Omit<Loan, 'standing' | 'daysLate'> | null;
}

const LOAN = `case when l.id is not null then json_build_object('id', l.id, 'by', l.lent_by, 'note', l.note,
    'to', json_build_object('id', c.id, 'code', c.code, 'name', c.name), 'due', l.due,
    'since', to_char(l.lent_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"')) end as loan`;

/** The house's cards and other things, those that are out first, the longest overdue on top. @param today yyyy-MM-dd. */
export async function listThings(db: Db, today: string, outOnly = false): Promise<Thing[]> {
  const rows: ThingRow[] = await db.query(
    `select kind, id, label, name, tray, loan, times from (
       select 'card' as kind, k.id, k.label, k.volume as name, k.tray, ${LOAN}, l.due,
         (select count(*)::int from loan b where b.card_id = k.id and b.back_at is not null) as times
       from card k left join loan l on l.card_id = k.id and l.back_at is null left join contributor c on c.id = l.contributor_id
       where k.ours or l.id is not null
       union all
       select t.kind, t.id, t.label, t.name, null, ${LOAN}, l.due,
         (select count(*)::int from loan b where b.kit_id = t.id and b.back_at is not null)
       from kit t left join loan l on l.kit_id = t.id and l.back_at is null left join contributor c on c.id = l.contributor_id
     ) x where not $1 or loan is not null order by loan is null, due nulls last, label`,
    [outOnly],
  );
  return rows.map(({ loan, kind, id, label, name, tray, times }) => ({
    ...{ kind, id, label, name, tray, times },
    loan: loan && { ...loan, ...loanStanding(loan.due, today) },
  }));
}

/** Who had a thing before, newest first. */
export async function loansOf(db: Db, key: ThingKey): Promise<LoanHistory> {
  const rows: { to: string; since: Date; by: string; due: string | null; back: Date | null; note: string }[] = await db.query(
    `select c.name as "to", l.lent_at as since, l.lent_by as by, to_char(l.due, 'YYYY-MM-DD') as due, l.back_at as back, l.note
     from loan l join contributor c on c.id = l.contributor_id where l.${column(key)} = $1 order by l.id desc limit 100`,
    [key.id],
  );
  return rows.map((row) => ({ ...row, since: row.since.toISOString(), back: row.back?.toISOString() ?? null }));
}

/** Cards handed in that no intake was opened for yet, the oldest first, with who had them last. */
export async function handedInCards(db: Db): Promise<Omit<HandedIn, 'days'>[]> {
  const rows: (Omit<HandedIn, 'days' | 'since'> & { since: Date })[] = await db.query(
    `select k.id as "cardId", k.label, k.tray_since as since,
       case when c.id is not null then json_build_object('id', c.id, 'code', c.code, 'name', c.name) end as from
     from card k
     left join lateral (select contributor_id from loan l where l.card_id = k.id and l.back_at = k.tray_since order by l.id desc limit 1) l on true
     left join contributor c on c.id = l.contributor_id
     where k.tray = 'in' and not exists (
       select 1 from intake i where i.card_id = k.id and (i.received_at >= k.tray_since or i.state <> 'closed'))
     order by k.tray_since`,
  );
  return rows.map((row) => ({ ...row, since: row.since.toISOString() }));
}

/** What stands on the tape of a thing, else what a card is called; null when there is none. */
export async function labelOfThing(db: Db, key: ThingKey): Promise<string | null> {
  if (key.kind === 'card') {
    const card = await db.getRepository(Card).findOneBy({ id: key.id });
    return card && (card.label ?? card.volume);
  }
  return (await db.getRepository(Kit).findOneBy({ id: key.id, kind: key.kind }))?.label ?? null;
}
