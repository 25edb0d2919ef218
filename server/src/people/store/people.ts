import type { Contributor as ContributorView, NewAssignment, NewContributor } from '@tally/contract';
import { Assignment as AssignmentRow, Contributor } from '../../db/entities/people.js';
import type { Db } from '../../db/database.js';
import { Refusal } from '../../house/index.js';

/** @returns the id; null when the code is somebody's, or was. */
export async function addContributor(db: Db, { code, name, ...more }: NewContributor, at: Date): Promise<number | null> {
  const rows: { id: number }[] = await db.query(
    `insert into contributor (code, name, created_at) select $1, $2, $3 where not exists (select from former_code f where f.code = $1)
     on conflict (code) do nothing returning id`,
    [code, name, at],
  );
  const id = rows[0]?.id;
  if (id === undefined) return null;
  if (Object.keys(more).length) await db.getRepository(Contributor).update(id, more);
  return id;
}

/** Whose a code is: a code of a record that was merged means the one that is left. */
export async function contributorByCode(db: Db, code: string): Promise<{ id: number; code: string; name: string } | null> {
  const rows: { id: number; code: string; name: string }[] = await db.query(
    'select id, code, name from contributor where code = $1 or id = (select f.contributor_id from former_code f where f.code = $1)',
    [code.toUpperCase()],
  );
  return rows[0] ?? null;
}

/** @param today `yyyy-MM-dd` */
export async function listContributors(db: Db, today: string): Promise<ContributorView[]> {
  return db.query(
    `
    select c.id, c.code, c.name, c.retired_at is not null as retired,
      coalesce((select json_agg(concat_ws(' ', nullif(k.make, ''), k.model, 'no.', k.serial) order by k.model) from camera k where k.contributor_id = c.id), '[]') as cameras,
      coalesce(p.intakes, 0)::int as intakes, coalesce(p.items, 0)::int as items, c.kind,
      exists (select from agreement g where g.contributor_id = c.id and g.until < $1::date
        and not exists (select from agreement o where o.contributor_id = c.id and (o.until is null or o.until >= $1::date))) as "agreementEnded"
    from contributor c left join (
      select contributor_id, count(distinct intake_id) as intakes, sum(filed) as items from intake_part group by 1) p on p.contributor_id = c.id
    order by c.name, c.id`,
    [today],
  );
}

export async function addAssignment(db: Db, assignment: NewAssignment): Promise<number | null> {
  const rows: { id: number }[] = await db.query(
    `insert into assignment (slug, title, from_day, to_day, place, expected_cards, code) values ($1, $2, $3, $4, $5, $6, $7)
     on conflict (slug) do nothing returning id`,
    [
      assignment.slug,
      assignment.title,
      assignment.from,
      assignment.to,
      assignment.place,
      assignment.expectedCards,
      assignment.code,
    ],
  );
  const id = rows[0]?.id;
  if (id === undefined) return null;
  await db.query(
    `insert into assignment_expected (assignment_id, contributor_id)
     select $1, id from contributor where id = any($2::int[])`,
    [id, assignment.expectedContributorIds],
  );
  const { description, contacts, embargoUntil, termsId, locationId } = assignment;
  const more = Object.fromEntries(
    Object.entries({ description, contacts, embargoUntil, termsId, locationId }).filter(([, value]) => value !== undefined),
  );
  if (Object.keys(more).length) await db.getRepository(AssignmentRow).update(id, more);
  return id;
}

/** An assignment as far as names go. */
export interface NamedAssignment {
  readonly id: number;
  readonly slug: string;
  readonly title: string;
  readonly code: string | null;
  readonly from: string;
  readonly to: string;
  readonly place: string | null;
}

const NAMED = `id, slug, title, nullif(code, '') as code, to_char(from_day, 'YYYY-MM-DD') as "from", to_char(to_day, 'YYYY-MM-DD') as "to",
  nullif(place, '') as place`;

export async function assignmentBySlug(db: Db, slug: string): Promise<NamedAssignment | null> {
  const rows = await db.query<NamedAssignment[]>(`select ${NAMED} from assignment where slug = $1`, [slug]);
  return rows[0] ?? null;
}

/** Remembers a camera body; the first contributor it is seen with is taken for its owner. */
export async function rememberCamera(
  db: Db,
  body: { make: string; model: string; serial: string },
  contributorId: number | null,
): Promise<void> {
  await db.query(
    `insert into camera (make, model, serial, contributor_id) values ($1, $2, $3, $4)
     on conflict (make, model, serial) do update set contributor_id = coalesce(camera.contributor_id, excluded.contributor_id)`,
    [body.make, body.model, body.serial, contributorId],
  );
}

/** What a contributor or an assignment is called; null when there is none. */
export async function nameOf(db: Db, table: 'contributor' | 'assignment', id: number): Promise<string | null> {
  if (table === 'contributor') return (await db.getRepository(Contributor).findOneBy({ id }))?.name ?? null;
  return (await db.getRepository(AssignmentRow).findOneBy({ id }))?.title ?? null;
}

/** @throws Refusal when there is no such one. */
export async function mustExist(db: Db, table: 'contributor' | 'assignment', id: number | null | undefined): Promise<void> {
  if (id === undefined || id === null) return;
  if ((await nameOf(db, table, id)) === null) throw new Refusal('not found', `There is no such ${table}.`);
}

/** Assignments with their days and places, for names. */
export async function assignmentsOf(db: Db, ids: readonly number[]): Promise<Map<number, NamedAssignment>> {
  const rows = await db.query<NamedAssignment[]>(`select ${NAMED} from assignment where id = any($1::int[])`, [ids]);
  return new Map(rows.map((row) => [row.id, row]));
}

export async function contributorsOf(
  db: Db,
  ids: readonly number[],
): Promise<Map<number, { id: number; code: string; name: string }>> {
  const rows = await db.query<{ id: number; code: string; name: string }[]>(
    'select id, code, name from contributor where id = any($1::int[])',
    [ids],
  );
  return new Map(rows.map((row) => [row.id, row]));
}

/** Is a contributor of a kind, in the house's words? */
export async function isOfKind(db: Db, contributorId: number, kind: string): Promise<boolean> {
  const [{ is }] = await db.query<[{ is: boolean }]>(
    'select exists (select from contributor where id = $1 and lower(kind) = lower($2)) as is',
    [contributorId, kind],
  );
  return is;
}
