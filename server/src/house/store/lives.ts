import type { Tray } from '@tally/contract';
import type { Life } from '@tally/core/life';
import type { CardFacts } from '@tally/core/reader';
import type { Db } from '../../db/database.js';

/** A life as it is kept, with what moving its card depends on. */
export interface KeptLife extends Life {
  readonly cardId: number;
  readonly taken: number;
  readonly comparing: number;
}

/** Reads a life and keeps it against others until the transaction ends: the intake first, then its card, as everybody does. */
export async function holdLife(tx: Db, intakeId: number): Promise<KeptLife | null> {
  const rows: Omit<KeptLife, 'tray'>[] = await tx.query(
    `select state, present, halt as wish, let_go as "letGo", card_id as "cardId", coalesce((totals->>'taken')::int, 0) as taken,
       coalesce((totals->>'comparing')::int, 0) as comparing
     from intake where id = $1 for update`,
    [intakeId],
  );
  const [life] = rows;
  if (!life) return null;
  const [{ tray }] = await tx.query<[{ tray: Tray }]>('select tray from card where id = $1 for update', [life.cardId]);
  return { ...life, tray };
}

/** Where a card lies: the folder, its device, a file that was there. */
export interface Where {
  readonly sourcePath: string;
  readonly station: string;
  readonly device: string | null;
  readonly witness: Buffer | null;
  /** What the system says of the card; absent: as before. */
  readonly reader?: CardFacts;
}

/** Writes a life. @param note what a person must know now; undefined: as before. @param where the card lies now, if that is said. */
export async function writeLife(
  tx: Db,
  intakeId: number,
  life: Life,
  { note, where }: { note?: string | null; where?: Where },
): Promise<void> {
  await tx.query(
    `update intake set state = $2, present = $3, halt = $4, note = case when $5 then $6 else note end,
       source_path = coalesce($7, source_path), station = coalesce($8, station),
       source_device = case when $7 is null then source_device else $9 end,
       witness = case when $7 is null then witness else $10 end,
       reader = coalesce($11::jsonb, reader), let_go = $12
     where id = $1`,
    [
      ...[intakeId, life.state, life.present, life.wish, note !== undefined, note ?? null],
      ...[where?.sourcePath ?? null, where?.station ?? null, where?.device ?? null, where?.witness ?? null],
      ...[where?.reader ? JSON.stringify(where.reader) : null, life.letGo],
    ],
  );
}

/** @param at since when it lies there, if it did not before. */
export async function writeTray(tx: Db, cardId: number, tray: Tray, at: Date): Promise<void> {
  await tx.query('update card set tray = $2, tray_since = $3 where id = $1 and tray <> $2', [cardId, tray, at]);
}

/** Keeps a card and its intakes against others, the intakes first. @returns those of them that tallied and are not closed. */
export async function holdCard(tx: Db, cardId: number): Promise<number[]> {
  const rows = await tx.query<{ id: number; state: string }[]>(
    'select id, state from intake where card_id = $1 order by id for update',
    [cardId],
  );
  await tx.query('select id from card where id = $1 for update', [cardId]);
  return rows.filter(({ state }) => state === 'tallied').map(({ id }) => id);
}

/** Intakes whose card was thought to lie in a folder of a station. */
export async function presentAt(tx: Db, station: string, sourcePath: string): Promise<number[]> {
  const rows = await tx.query<{ id: number }[]>(
    'select id from intake where present and station = $1 and source_path = $2 order by id',
    [station, sourcePath],
  );
  return rows.map(({ id }) => id);
}

/** Has everything of an intake been read, compared and recognised? */
export async function writeReadThrough(tx: Db, intakeId: number, isRead: boolean): Promise<void> {
  await tx.query('update intake set read_through = $2 where id = $1 and read_through <> $2', [intakeId, isRead]);
}
