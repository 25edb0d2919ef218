import type { Db } from '../../db/database.js';

export interface StandingLine {
  readonly id: number;
  readonly name: string;
  readonly question: string;
  readonly tells: boolean;
  readonly seenTo: Date;
  readonly seenId: number;
  readonly madeBy: string;
  readonly revision: number;
}

const LINE = `id, name, question, tells, seen_to as "seenTo", seen_id as "seenId", made_by as "madeBy", revision`;

export async function standingQuestions(db: Db): Promise<StandingLine[]> {
  return db.query<StandingLine[]>(`select ${LINE} from standing_question order by lower(name), id`);
}

export async function holdStanding(tx: Db, id: number): Promise<StandingLine | null> {
  const rows = await tx.query<StandingLine[]>(`select ${LINE} from standing_question where id = $1 for update`, [id]);
  return rows[0] ?? null;
}

export async function standingCalled(db: Db, name: string): Promise<number | null> {
  const rows = await db.query<{ id: number }[]>(
    'select id from standing_question where lower(name) = lower($1) order by id limit 1',
    [name],
  );
  return rows[0]?.id ?? null;
}

export async function insertStanding(
  tx: Db,
  { name, question, tells, seenTo, seenId, madeBy }: Omit<StandingLine, 'id' | 'revision'>,
): Promise<number> {
  const [{ id }] = await tx.query<[{ id: number }]>(
    'insert into standing_question (name, question, tells, seen_to, seen_id, made_by) values ($1, $2, $3, $4, $5, $6) returning id',
    [name, question, tells, seenTo, seenId, madeBy],
  );
  return id;
}

export async function updateStanding(
  tx: Db,
  { id, name, question, tells }: Omit<StandingLine, 'madeBy' | 'seenTo' | 'seenId'>,
): Promise<void> {
  await tx.query('update standing_question set name = $2, question = $3, tells = $4, revision = revision + 1 where id = $1', [
    id,
    name,
    question,
    tells,
  ]);
}

/** Somebody has looked: what was filed up to here is not new any more. */
export async function seenStanding(
  tx: Db,
  id: number,
  { seenTo, seenId }: Pick<StandingLine, 'seenTo' | 'seenId'>,
): Promise<void> {
  await tx.query(
    `update standing_question set seen_to = $2::timestamptz, seen_id = $3::int where id = $1 and (seen_to, seen_id) < ($2::timestamptz, $3::int)`,
    [id, seenTo, seenId],
  );
}

export async function removeStanding(tx: Db, id: number): Promise<void> {
  await tx.query('delete from standing_question where id = $1', [id]);
}
