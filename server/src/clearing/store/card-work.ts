import type { Db } from '../../db/database.js';
import { tell } from '../../house/index.js';

export type WorkKind = 'look' | 'clear' | 'restore' | 'let go';

/** Something that a person wants of a card in a reader. */
export interface NewWork {
  readonly kind: WorkKind;
  /** The intake whose card it is, and the one whose files it is about. */
  readonly intakeId: number;
  readonly ofIntakeId: number;
  readonly station: string;
  readonly ask: unknown;
  readonly who: string;
}

export interface WorkRow extends NewWork {
  readonly id: number;
  readonly state: 'waiting' | 'doing' | 'done' | 'refused';
  readonly answer: unknown;
  readonly problem: string | null;
  readonly problemKind: string | null;
}

/** What is held (lock kind `card`) while a work is being done: a card, or for a look, which keeps nobody away, the look itself. */
export const heldAs = ({ kind, id, intakeId }: Pick<WorkRow, 'kind' | 'id' | 'intakeId'>): number | string =>
  kind === 'look' ? `look ${id}` : intakeId;

const COLUMNS = `id, kind, intake_id as "intakeId", of_intake_id as "ofIntakeId", station, ask, who, state, answer, problem, problem_kind as "problemKind"`;

/** @returns its id. When it was asked is the database's time: stations' clocks differ. */
export async function addWork(db: Db, work: NewWork, state: 'waiting' | 'doing'): Promise<number> {
  const [{ id }] = await db.query<[{ id: number }]>(
    `insert into card_work (kind, intake_id, of_intake_id, station, ask, who, state, asked_at)
     values ($1, $2, $3, $4, $5, $6, $7, now()) returning id`,
    [work.kind, work.intakeId, work.ofIntakeId, work.station, JSON.stringify(work.ask), work.who, state],
  );
  return id;
}

/**
 * Says that it is being done: a request that waited, or goes on after an interruption, or one that nobody asked of a station.
 * @returns its id; null when whoever asked has taken it back.
 */
export async function beginWork(db: Db, work: NewWork, id: number | undefined): Promise<number | null> {
  await tellOf(db, work);
  if (id === undefined) return addWork(db, work, 'doing');
  const [, count]: [unknown, number] = await db.query(
    `update card_work set state = 'doing' where id = $1 and state in ('waiting', 'doing')`,
    [id],
  );
  return count === 1 ? id : null;
}

/** Says what came of it. */
export async function endWork(
  db: Db,
  id: number,
  answer: unknown,
  problem: { readonly kind: string; readonly message: string } | null = null,
): Promise<void> {
  const [[ended]] = await db.query<[Pick<WorkRow, 'kind' | 'intakeId'>[], number]>(
    `update card_work set state = $2, answer = $3, problem = $4, problem_kind = $5 where id = $1
     returning kind, intake_id as "intakeId"`,
    [
      ...[id, problem ? 'refused' : 'done', answer === null ? null : JSON.stringify(answer)],
      ...[problem?.message ?? null, problem?.kind ?? null],
    ],
  );
  if (ended) await tellOf(db, ended);
}

/** Whoever looks at the card learns that something is done to it, or not any more: whether it may be pulled hangs on it. */
async function tellOf(db: Db, { kind, intakeId }: Pick<NewWork, 'kind' | 'intakeId'>): Promise<void> {
  if (kind === 'look') return;
  await tell(db, { type: 'intake', intakeId });
  await tell(db, { type: 'desk' });
}

export async function workById(db: Db, id: number): Promise<WorkRow | null> {
  const rows = await db.query<WorkRow[]>(`select ${COLUMNS} from card_work where id = $1`, [id]);
  return rows[0] ?? null;
}

/** What waits or is being done at a station. */
export async function openWork(db: Db, station: string): Promise<WorkRow[]> {
  return db.query<WorkRow[]>(
    `select ${COLUMNS} from card_work where station = $1 and state in ('waiting', 'doing') order by id`,
    [station],
  );
}

/** Is something begun with the card of an intake, also by somebody who was killed at it? */
export async function isWorkBegun(db: Db, intakeId: number): Promise<boolean> {
  const rows = await db.query<{ id: number }[]>(
    `select id from card_work where intake_id = $1 and state = 'doing' and kind <> 'look' limit 1`,
    [intakeId],
  );
  return rows.length > 0;
}

/** Takes back a request that nobody began. @returns false when somebody did. */
export async function takeBackWork(db: Db, id: number): Promise<boolean> {
  const [, count]: [unknown, number] = await db.query(`delete from card_work where id = $1 and state = 'waiting'`, [id]);
  return count === 1;
}

/**
 * Forgets what nobody waits for any more: what is over for a day, what was asked while the station was off, and what was
 * begun at a station that has been away for a week.
 */
export async function forgetWork(db: Db, station: string): Promise<void> {
  await db.query(
    `delete from card_work where (state in ('done', 'refused') and asked_at < now() - interval '1 day')
       or (state = 'doing' and station <> $1 and asked_at < now() - interval '7 days')
       or (station = $1 and state = 'waiting' and asked_at < now() - interval '30 seconds')`,
    [station],
  );
}
