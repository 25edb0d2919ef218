import type { AssignmentChange, ContributorChange } from '@tally/contract';
import type { Db } from '../../db/database.js';

export interface KnownContributor {
  readonly id: number;
  readonly code: string;
  readonly name: string;
  readonly retired: boolean;
  /** Items that stand on the drive under this code. */
  readonly filed: number;
}

/** A contributor, kept against others until the transaction ends. */
export async function holdContributor(db: Db, id: number): Promise<KnownContributor | null> {
  const rows = await db.query<KnownContributor[]>(
    `select c.id, c.code, c.name, c.retired_at is not null as retired,
       coalesce((select sum(p.filed) from intake_part p where p.contributor_id = c.id), 0)::int as filed
     from contributor c where c.id = $1 for update of c`,
    [id],
  );
  return rows[0] ?? null;
}

/** @returns false when the code is somebody else's. */
export async function correctContributor(
  db: Db,
  id: number,
  { name, code, retired }: ContributorChange,
  at: Date,
): Promise<boolean> {
  const [, count]: [unknown, number] = await db.query(
    `update contributor c set name = coalesce($2, name), code = coalesce($3, code),
       retired_at = case when $4::boolean is null then retired_at when $4 then coalesce(retired_at, $5) end
     where id = $1 and not exists (select from contributor o where o.code = $3 and o.id <> $1)`,
    [id, name ?? null, code ?? null, retired ?? null, at],
  );
  return count === 1;
}

export interface KnownAssignment {
  readonly id: number;
  readonly slug: string;
  readonly code: string;
  readonly title: string;
  readonly from: string;
  readonly to: string;
  readonly place: string;
  readonly retired: boolean;
  /** Items that stand on the drive under its short name. */
  readonly filed: number;
}

/** An assignment, kept against others until the transaction ends. */
export async function holdAssignment(db: Db, id: number): Promise<KnownAssignment | null> {
  const rows = await db.query<KnownAssignment[]>(
    `select a.id, a.slug, a.code, a.title, to_char(a.from_day, 'YYYY-MM-DD') as "from", to_char(a.to_day, 'YYYY-MM-DD') as "to", a.place,
       a.retired_at is not null as retired, coalesce((select sum(p.filed) from intake_part p where p.assignment_id = a.id), 0)::int as filed
     from assignment a where a.id = $1 for update of a`,
    [id],
  );
  return rows[0] ?? null;
}

/** @returns false when the short name is another one's. */
export async function correctAssignment(db: Db, id: number, change: AssignmentChange, at: Date): Promise<boolean> {
  const { title, slug, code, from, to, place, expectedCards, expectedContributorIds, retired } = change;
  const [, count]: [unknown, number] = await db.query(
    `update assignment a set title = coalesce($2, title), slug = coalesce($3, slug), code = coalesce($4, code),
       from_day = coalesce($5::date, from_day), to_day = coalesce($6::date, to_day), place = coalesce($7, place),
       expected_cards = coalesce($8::int, expected_cards),
       retired_at = case when $9::boolean is null then retired_at when $9 then coalesce(retired_at, $10) end
     where id = $1 and not exists (select from assignment o where o.slug = $3 and o.id <> $1)`,
    [
      ...[id, title ?? null, slug ?? null, code ?? null, from ?? null, to ?? null, place ?? null],
      ...[expectedCards ?? null, retired ?? null, at],
    ],
  );
  if (count === 1 && expectedContributorIds) {
    await db.query('delete from assignment_expected where assignment_id = $1', [id]);
    await db.query(
      'insert into assignment_expected (assignment_id, contributor_id) select $1, id from contributor where id = any($2::int[])',
      [id, expectedContributorIds],
    );
  }
  return count === 1;
}
