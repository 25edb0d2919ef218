import type { OnInsert, Tray } from '@tally/contract';
import type { IntakeState } from '@tally/core/copies';
import type { Db } from '../../db/database.js';

/** A card with its tray, and its newest intake since it was last handed in. */
export interface CardRow {
  readonly id: number;
  readonly label: string | null;
  readonly volume: string;
  readonly tray: Tray;
  readonly traySince: Date;
  readonly ours: boolean;
  readonly intake: {
    readonly id: number;
    readonly state: IntakeState;
    readonly taken: number;
    readonly comparing: number;
    readonly present: boolean;
  } | null;
}

// An intake belongs to this hand-in unless the card went out after it: out, or handed in again and not read yet.
const CARD = `
  select k.id, k.label, k.volume, k.tray, k.tray_since as "traySince", k.ours,
    case when i.id is not null and (k.tray <> 'in' or i.received_at >= k.tray_since or i.state <> 'closed')
      then json_build_object('id', i.id, 'state', i.state, 'taken', coalesce((i.totals->>'taken')::int, 0),
        'comparing', coalesce((i.totals->>'comparing')::int, 0), 'present', i.present) end as intake
  from card k left join lateral (select * from intake n where n.card_id = k.id order by n.id desc limit 1) i on true`;

export async function cardById(db: Db, id: number): Promise<CardRow | null> {
  const rows: CardRow[] = await db.query(`${CARD} where k.id = $1`, [id]);
  return rows[0] ?? null;
}

/** The card with a label, however its letters are cased. */
export async function cardOfLabel(db: Db, label: string): Promise<CardRow | null> {
  const rows: CardRow[] = await db.query(`${CARD} where lower(k.label) = lower($1)`, [label]);
  return rows[0] ?? null;
}

export async function setOurs(db: Db, cardId: number): Promise<void> {
  await db.query('update card set ours = true where id = $1', [cardId]);
}

/** A card that was taken for a new one is this known one: its intakes go over, and the new row goes. */
export async function mergeCards(db: Db, fresh: number, known: number): Promise<void> {
  await db.query('update intake set card_id = $2 where card_id = $1', [fresh, known]);
  await db.query(
    `update card set tray = f.tray, tray_since = f.tray_since, volume = f.volume from card f where card.id = $2 and f.id = $1`,
    [fresh, known],
  );
  await db.query('delete from card where id = $1', [fresh]);
}

export async function addCard(db: Db, volume: string, at: Date): Promise<number> {
  const rows: { id: number }[] = await db.query(
    `insert into card (volume, tray, tray_since) values ($1, 'in', $2) returning id`,
    [...[volume, at]],
  );
  return rows[0]!.id;
}

export async function setLabel(db: Db, cardId: number, label: string | null): Promise<void> {
  await db.query('update card set label = $2 where id = $1', [cardId, label]);
}

export async function setOnInsert(db: Db, cardId: number, onInsert: OnInsert): Promise<void> {
  await db.query('update card set on_insert = $2 where id = $1', [cardId, onInsert]);
}

/** The next free label of the form C-014. */
export async function nextLabel(db: Db): Promise<string> {
  const [{ n }]: [{ n: number }] = await db.query(
    `select coalesce(max(substring(label from '^C-([0-9]{1,6})$')::int), 0) + 1 as n from (select label from card union all select label from kit) x`,
  );
  return `C-${String(n).padStart(3, '0')}`;
}

/** Adds a card of the house's own, to be lent. @returns its id. */
export async function addOwnCard(db: Db, label: string, volume: string, at: Date): Promise<number> {
  const rows: { id: number }[] = await db.query(
    `insert into card (label, volume, tray, tray_since, ours) values ($1, $2, 'out', $3, true) returning id`,
    [label, volume, at],
  );
  return rows[0]!.id;
}

/** What adopted folders of a place lay on: the place itself, which is out for good. */
export async function addPlaceCard(db: Db, volume: string, at: Date): Promise<number> {
  const rows: { id: number }[] = await db.query(
    `insert into card (volume, tray, tray_since) values ($1, 'out', $2) returning id`,
    [...[volume, at]],
  );
  return rows[0]!.id;
}

export async function cardOfPlace(db: Db, placeId: string): Promise<number | null> {
  const rows = await db.query<{ id: number }[]>(
    'select card_id as id from intake where adoption_id is not null and adopted_at = $1 order by id limit 1',
    [placeId],
  );
  return rows[0]?.id ?? null;
}
