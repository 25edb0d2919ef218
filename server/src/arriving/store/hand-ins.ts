import type { HandInStart, HandInView } from '@tally/contract';
import type { Db } from '../../db/database.js';

export interface HandInRow {
  readonly id: number;
  /** Name of the folder that its files lie in. */
  readonly folder: string;
  readonly personId: number | null;
  readonly contributorId: number | null;
  /** Who it is by their own word, when the list does not know them. */
  readonly saysName: string;
  readonly assignmentId: number | null;
  readonly name: string;
  readonly intakeId: number | null;
  readonly done: boolean;
}

export type OverHandIn = Pick<HandInRow, 'id' | 'folder' | 'done'>;

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
  handIn: HandInStart & { personId: number; listing: Buffer; begunAt: Date; wanted: { files: number; bytes: number } },
  filed: ReadonlySet<number>,
): Promise<number> {
  const [{ id }] = await db.query<[{ id: number }]>(
    `insert into hand_in (person_id, contributor_id, says_name, assignment_id, name, listing, begun_at, done, files, bytes)
     values ($1, $2, $3, $4, $5, $6, $7, false, $8, $9) returning id`,
    [
      ...[handIn.personId, handIn.contributorId, handIn.saysName, handIn.assignmentId],
      ...[handIn.name, handIn.listing, handIn.begunAt, handIn.wanted.files, handIn.wanted.bytes],
    ],
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
    `select id, folder, person_id as "personId", contributor_id as "contributorId", says_name as "saysName", assignment_id as "assignmentId", name,
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
  const [{ begunAt, onDrive, ...row }] = await db.query<
    [{ intakeNumber: string | null; done: boolean; name: string; begunAt: Date; onDrive: number }]
  >(
    `select n.number as "intakeNumber", h.done, h.name, h.begun_at as "begunAt",
       (select count(*)::int from item i left join filed_item own on own.item_id = i.id
          join filed_item f on f.id = coalesce(own.id, case when i.already_confirmed then i.already_filed_id end)
        where i.intake_id = h.intake_id and i.set_aside is null
          and exists (select from copy c where c.filed_item_id = f.id and c.state = 'tallied')
          and not exists (select from copy c join place p on p.id = c.place_id
            where c.filed_item_id = f.id and p.required and c.state <> 'tallied')) as "onDrive"
     from hand_in h left join intake n on n.id = h.intake_id where h.id = $1`,
    [id],
  );
  // What stood there before it was sent need not be sent, and is as safe.
  const before = files.filter(({ state }) => state === 'filed').length;
  return { id, files, ...row, begunAt: begunAt.toISOString(), safe: onDrive + before };
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
    `select h.id, h.folder, h.person_id as "personId", h.contributor_id as "contributorId", h.says_name as "saysName", h.assignment_id as "assignmentId", h.name,
       h.intake_id as "intakeId", h.done, coalesce(p.name, c.name, h.says_name) as who
     from hand_in h left join contributor c on c.id = h.contributor_id left join person p on p.id = h.person_id
     where h.done and h.intake_id is null and exists (select from hand_in_file f where f.hand_in_id = h.id and f.state = 'arrived')`,
  );
}

/** What somebody has announced until now and was not here already: files and bytes. */
export async function handedInBy(db: Db, personId: number): Promise<{ files: number; bytes: number }> {
  const [sums] = await db.query<[{ files: number; bytes: number }]>(
    'select coalesce(sum(files), 0)::int as files, coalesce(sum(bytes), 0)::bigint as bytes from hand_in where person_id = $1',
    [personId],
  );
  return sums;
}

/** Bytes that were announced by anybody and have not come yet. */
export async function wantedBytes(db: Db): Promise<number> {
  const [{ bytes }] = await db.query<[{ bytes: number }]>(
    `select coalesce(sum(f.bytes), 0)::bigint as bytes from hand_in h join hand_in_file f on f.hand_in_id = h.id
     where not h.done and f.state = 'wanted'`,
  );
  return bytes;
}

/** Hand-ins whose days are over: those that were taken in, and those that nobody went on with. A few at a time. */
export function overHandIns(db: Db, doneBefore: Date, unfinishedBefore: Date): Promise<OverHandIn[]> {
  return db.query<OverHandIn[]>(
    `select id, folder, done from hand_in where begun_at < $1 and (done and intake_id is not null or done and files = 0)
     union all select id, folder, done from hand_in where not done and begun_at < $2 order by id limit 200`,
    [doneBefore, unfinishedBefore],
  );
}

export async function deleteHandIn(db: Db, id: number): Promise<void> {
  await db.query('delete from hand_in where id = $1', [id]);
}
