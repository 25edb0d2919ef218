import type { EventView, LiveEvent } from '@tally/contract';
import { LIVE_CHANNEL } from '../../live/channel.js';
import type { Db } from '../../db/database.js';

export interface NewEvent {
  readonly at: Date;
  readonly kind: string;
  readonly intakeId: number | null;
  readonly who: string | null;
  /** One sentence for people. */
  readonly text: string;
  readonly data?: unknown;
}

/** Adds to the log. It cannot be changed or removed afterwards. @returns its number */
export async function record(db: Db, event: NewEvent): Promise<number> {
  const [{ id }] = await db.query<[{ id: number }]>(
    `insert into event (at, kind, intake_id, who, text, data, epoch, xact)
     values ($1, $2, $3, $4, $5, $6, current_epoch(), pg_current_xact_id()::text::bigint) returning id`,
    [
      ...[event.at, event.kind, event.intakeId, event.who, event.text],
      event.data === undefined ? null : JSON.stringify(event.data),
    ],
  );
  return id;
}

export async function eventsOf(db: Db, intakeId: number): Promise<EventView[]> {
  const rows: { id: number; at: Date; kind: string; who: string | null; text: string }[] = await db.query(
    'select id, at, kind, who, text from event where intake_id = $1 order by id',
    [intakeId],
  );
  return rows.map((row) => ({ ...row, at: row.at.toISOString() }));
}

/** Tells every process that listens what to look at again. In a transaction it is told when that commits. */
export async function tell(db: Db, event: LiveEvent): Promise<void> {
  await db.query('select pg_notify($1, $2)', [LIVE_CHANNEL, JSON.stringify(event)]);
}
