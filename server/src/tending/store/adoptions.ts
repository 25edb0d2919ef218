import type { AdoptedFolder, Adoption } from '../../db/entities/tending.js';
import type { Db } from '../../db/database.js';
import { inAndBelow } from '../../db/paths.js';

export type AdoptionRow = Omit<Adoption, 'place'>;

const ADOPTIONS = `select id, place_id as "placeId", folders, who, state, begun_at as "begunAt", ended_at as "endedAt", files, bytes, adopted,
    adopted_bytes as "adoptedBytes", twins, problem from adoption`;

export async function addAdoption(
  tx: Db,
  adoption: Pick<AdoptionRow, 'placeId' | 'who' | 'begunAt' | 'files' | 'bytes'> & { readonly folders: readonly AdoptedFolder[] },
): Promise<number> {
  const [{ id }] = await tx.query<[{ id: number }]>(
    `insert into adoption (place_id, folders, who, state, begun_at, files, bytes) values ($1, $2, $3, 'going', $4, $5, $6) returning id`,
    [adoption.placeId, JSON.stringify(adoption.folders), adoption.who, adoption.begunAt, adoption.files, adoption.bytes],
  );
  return id;
}

export async function adoptionById(db: Db, id: number): Promise<AdoptionRow | null> {
  const rows = await db.query<AdoptionRow[]>(`${ADOPTIONS} where id = $1`, [id]);
  return rows[0] ?? null;
}

export async function lastAdoption(db: Db, placeId: string): Promise<AdoptionRow | null> {
  const rows = await db.query<AdoptionRow[]>(`${ADOPTIONS} where place_id = $1 order by id desc limit 1`, [placeId]);
  return rows[0] ?? null;
}

export const adoptionsGoing = (db: Db, placeIds: readonly string[]): Promise<AdoptionRow[]> =>
  db.query<AdoptionRow[]>(`${ADOPTIONS} where state = 'going' and place_id = any($1::text[]) order by id`, [placeIds]);

export async function addToAdoption(
  db: Db,
  id: number,
  { adopted, adoptedBytes, twins }: Pick<AdoptionRow, 'adopted' | 'adoptedBytes' | 'twins'>,
): Promise<void> {
  await db.query(
    'update adoption set adopted = adopted + $2, adopted_bytes = adopted_bytes + $3, twins = twins + $4 where id = $1',
    [...[id, adopted, adoptedBytes, twins]],
  );
}

/** @returns false when it had ended before. */
export async function endAdoption(db: Db, id: number, state: 'done' | 'stopped', at: Date): Promise<boolean> {
  const [, count]: [unknown, number] = await db.query(
    `update adoption set state = $2, ended_at = $3 where id = $1 and state = 'going'`,
    [id, state, at],
  );
  return count === 1;
}

/** Keeps what could not be taken in, beside what was told before; twice the same is told once. */
export async function addProblem(db: Db, id: number, problem: string): Promise<void> {
  await db.query(
    `update adoption set problem = concat_ws('; ', problem, $2::text) where id = $1 and strpos(coalesce(problem, ''), $2) = 0`,
    [id, problem],
  );
}

/** Folders of a place that somebody adopted, or the house by itself, and of which something could not be taken in. */
export async function troubledFolders(db: Db, placeId: string, who: string): Promise<Set<string>> {
  const rows = await db.query<{ folder: string }[]>(
    `select distinct f.folder from adoption a, jsonb_to_recordset(a.folders) as f(folder text)
     where a.place_id = $1 and a.who = $2 and a.problem is not null`,
    [placeId, who],
  );
  return new Set(rows.map(({ folder }) => folder));
}

/** What was stopped goes on. @returns false when it was not stopped. */
export async function resumeAdoption(db: Db, id: number): Promise<boolean> {
  const [, count]: [unknown, number] = await db.query(
    `update adoption set state = 'going', ended_at = null, problem = null where id = $1 and state = 'stopped'`,
    [id],
  );
  return count === 1;
}

/** Intakes of an adoption by the folder they came from. */
export async function intakesOfAdoption(
  db: Db,
  id: number,
): Promise<{ id: number; sourcePath: string; folder: string | null; state: string }[]> {
  return db.query(
    'select id, source_path as "sourcePath", adopted_folder as folder, state from intake where adoption_id = $1 order by id',
    [id],
  );
}

/** Items of an intake that are not taken into the logbook yet. */
export async function notAdopted(
  db: Db,
  intakeId: number,
): Promise<
  { id: number; path: string; bytes: number; quickHash: Buffer | null; local: string; source: string; modifiedAt: Date }[]
> {
  return db.query(
    `select i.id, i.path, i.bytes, i.quick_hash as "quickHash", i.captured_local as local, i.capture_source as source, i.modified_at as "modifiedAt" from item i
     where i.intake_id = $1 and i.already_filed_id is null and i.problem is null and not exists (select from filed_item f where f.item_id = i.id)
     order by i.path, i.id`,
    [intakeId],
  );
}

/** Folders that something of an intake is filed in. */
export async function foldersOfIntake(db: Db, intakeId: number): Promise<string[]> {
  const rows = await db.query<{ folder: string }[]>('select distinct folder from filed_item where intake_id = $1', [intakeId]);
  return rows.map(({ folder }) => folder);
}

/** Strays by their folders, in a folder and below: how many, how much, and the names of some of each. */
export async function strayFolders(
  db: Db,
  placeId: string,
  folder: string,
  some: number,
  limit: number,
): Promise<{ folder: string; files: number; bytes: number; twins: number; paths: string[] }[]> {
  return db.query(
    `select s.folder, count(*)::int as files, sum(s.bytes)::bigint as bytes, count(s.twin_of)::int as twins,
       (array_agg(s.path order by s.path))[1:$3::int] as paths
     from stray s where s.place_id = $1 and ($2 = '' or ${inAndBelow('s.folder', '$2')})
     group by s.folder order by s.folder limit $4`,
    [placeId, folder, some, limit],
  );
}

/** Assignments of what is filed in these folders. */
export async function assignmentsIn(
  db: Db,
  foldedFolders: readonly string[],
): Promise<{ folded: string; assignments: number[]; contributors: number[] }[]> {
  return db.query(
    `select f.folded_folder as folded, coalesce(array_agg(distinct coalesce(i.assignment_id, n.assignment_id)) filter (where coalesce(i.assignment_id, n.assignment_id) is not null), '{}') as assignments,
       coalesce(array_agg(distinct coalesce(i.contributor_id, n.contributor_id)) filter (where coalesce(i.contributor_id, n.contributor_id) is not null), '{}') as contributors
     from filed_item f join item i on i.id = f.item_id join intake n on n.id = f.intake_id where f.folded_folder = any($1::text[]) group by 1`,
    [foldedFolders],
  );
}
