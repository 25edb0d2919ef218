import type { HandInStart, HandInView } from '@tally/contract';
import type { Db } from '../../db/database.js';

export interface HandInRow {
  readonly id: number;
  readonly personId: number | null;
  readonly contributorId: number;
  readonly assignmentId: number | null;
  readonly name: string;
  readonly intakeId: number | null;
  readonly done: boolean;
}

export interface HandInFileRow {
  readonly path: string;
  readonly bytes: number;
  readonly modifiedAt: Date;
  readonly state: HandInView['files'][number]['state'];
}

/** The unfinished hand-in of a person with this listing: the same card chosen again. */
export async function handInLike(db: Db, personId: number, listing: Buffer): Promise<number | null> {
  const rows = await db.query<{ id: number }[]>(
    'select id from hand_in where person_id = $1 and listing = $2 and not done order by id desc limit 1',
    [personId, listing],
  );
  return rows[0]?.id ?? null;
}

export async function addHandIn(
  db: Db,
  handIn: HandInStart & { personId: number; listing: Buffer; begunAt: Date },
  filed: ReadonlySet<number>,
): Promise<number> {
  const [{ id }] = await db.query<[{ id: number }]>(
    `insert into hand_in (person_id, contributor_id, assignment_id, name, listing, begun_at, done)
     values ($1, $2, $3, $4, $5, $6, false) returning id`,
    [handIn.personId, handIn.contributorId, handIn.assignmentId, handIn.name, handIn.listing, handIn.begunAt],
  );
  await db.query(
    `insert into hand_in_file (hand_in_id, position, path, bytes, modified_at, state)
     select $1, f.* from unnest($2::int[], $3::text[], $4::bigint[], $5::timestamptz[], $6::text[]) as f`,
    [
      id,
      handIn.files.map((_, position) => position),
      handIn.files.map(({ path }) => path),
      handIn.files.map(({ bytes }) => bytes),
      handIn.files.map(({ modifiedMs }) => new Date(modifiedMs)),
      handIn.files.map((_, position) => (filed.has(position) ? 'filed' : 'wanted')),
    ],
  );
  return id;
}

export async function handInById(db: Db, id: number): Promise<HandInRow | null> {
  const rows = await db.query<HandInRow[]>(
    `select id, person_id as "personId", contributor_id as "contributorId", assignment_id as "assignmentId", name,
       intake_id as "intakeId", done from hand_in where id = $1`,
    [id],
  );
  return rows[0] ?? null;
}

export async function handInView(db: Db, id: number): Promise<HandInView> {
  const files = await db.query<HandInView['files']>(
    'select position, state, problem from hand_in_file where hand_in_id = $1 order by position',
    [id],
  );
  const [row] = await db.query<[{ number: string | null; done: boolean }]>(
    'select n.number, h.done from hand_in h left join intake n on n.id = h.intake_id where h.id = $1',
    [id],
  );
  return { id, files, intakeNumber: row.number, done: row.done };
}

export async function handInFile(db: Db, id: number, position: number): Promise<HandInFileRow | null> {
  const rows = await db.query<HandInFileRow[]>(
    'select path, bytes, modified_at as "modifiedAt", state from hand_in_file where hand_in_id = $1 and position = $2',
    [id, position],
  );
  return rows[0] ?? null;
}

export async function setHandInFile(
  db: Db,
  id: number,
  position: number,
  state: HandInFileRow['state'],
  problem: string | null,
): Promise<void> {
  await db.query('update hand_in_file set state = $3, problem = $4 where hand_in_id = $1 and position = $2', [
    ...[id, position, state, problem],
  ]);
}

/** Closes a hand-in against anybody else. @returns false when it is closed already. Call it in a transaction. */
export async function closeHandIn(db: Db, id: number): Promise<boolean> {
  const [, count]: [unknown, number] = await db.query('update hand_in set done = true where id = $1 and not done', [id]);
  return count === 1;
}

/** Says which intake a hand-in became. @returns false when that was said already. */
export async function setHandInIntake(db: Db, id: number, intakeId: number): Promise<boolean> {
  const [, count]: [unknown, number] = await db.query('update hand_in set intake_id = $2 where id = $1 and intake_id is null', [
    ...[id, intakeId],
  ]);
  return count === 1;
}

/** Hand-ins that were closed with files that arrived, and became no intake yet, with who handed them in. */
export async function unfinishedHandIns(db: Db): Promise<(HandInRow & { who: string })[]> {
  return db.query(
    `select h.id, h.person_id as "personId", h.contributor_id as "contributorId", h.assignment_id as "assignmentId", h.name,
       h.intake_id as "intakeId", h.done, coalesce(p.name, c.name) as who
     from hand_in h join contributor c on c.id = h.contributor_id left join person p on p.id = h.person_id
     where h.done and h.intake_id is null and exists (select from hand_in_file f where f.hand_in_id = h.id and f.state = 'arrived')`,
  );
}
