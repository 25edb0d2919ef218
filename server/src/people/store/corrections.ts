import type { AssignmentChange, AssignmentDetail, ContributorChange, ContributorDetail } from '@tally/contract';
import { FormerCode } from '../../db/entities/credit.js';
import { Assignment as AssignmentRow, Contributor } from '../../db/entities/people.js';
import type { Db } from '../../db/database.js';
import { turnReferences } from '../../db/one-of-two.js';
import { turnAnswers } from './lists.js';
import { nameOfWord } from './words.js';

export type KnownContributor = Omit<Contributor, 'retiredAt' | 'createdAt' | 'terms'> & {
  readonly retired: boolean;
  /** Items that stand on the drive under this code. */
  readonly filed: number;
};

/** A contributor, kept against others until the transaction ends. */
export async function holdContributor(db: Db, id: number): Promise<KnownContributor | null> {
  const row = await db.getRepository(Contributor).findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });
  if (!row) return null;
  const { retiredAt, createdAt: _at, ...person } = row;
  return { ...person, retired: retiredAt !== null, filed: await filedOf(db, 'contributor_id', id) };
}

async function filedOf(db: Db, whose: 'contributor_id' | 'assignment_id', id: number): Promise<number> {
  const [{ filed }] = await db.query<[{ filed: number }]>(
    `select coalesce(sum(p.filed) filter (where $2 = 'contributor_id' and p.contributor_id = $1 or $2 = 'assignment_id' and p.assignment_id = $1), 0)::int as filed
     from intake_part p where $2 = 'contributor_id' and p.contributor_id = $1 or $2 = 'assignment_id' and p.assignment_id = $1`,
    [id, whose],
  );
  return filed;
}

/** @returns false when the code is somebody else's, or was. */
export async function correctContributor(
  db: Db,
  id: number,
  { code, retired, revision: _revision, ...said }: ContributorChange,
  before: KnownContributor,
  at: Date,
): Promise<boolean> {
  if (code !== undefined && code !== before.code && (await isTaken(db, code, id))) return false;
  const retiring = retired === undefined || retired === before.retired ? {} : { retiredAt: retired ? at : null };
  await db
    .getRepository(Contributor)
    .update(id, { ...said, ...(code ? { code } : {}), ...retiring, revision: before.revision + 1 });
  return true;
}

async function isTaken(db: Db, code: string, not: number): Promise<boolean> {
  const [{ taken }] = await db.query<[{ taken: boolean }]>(
    `select exists (select from contributor o where o.code = $1 and o.id <> $2)
       or exists (select from former_code f where f.code = $1 and f.contributor_id <> $2) as taken`,
    [code, not],
  );
  return taken;
}

/** Whatever spoke of one contributor speaks of another; the codes of the one mean the other from now on. */
export async function mergeContributor(db: Db, id: number, into: number): Promise<void> {
  await turnReferences(db, 'contributor', id, into);
  await turnHabits(db, 'contributor', id, into);
  await db.query('insert into former_code (code, contributor_id) select code, $2 from contributor where id = $1', [id, into]);
  await db.query('delete from contributor where id = $1', [id]);
}

/** Habits that belong to the one, or answer with it, belong to the other. */
async function turnHabits(db: Db, belongs: 'contributor' | 'assignment', id: number, into: number): Promise<void> {
  await db.query(`update habit set "of" = $3 where belongs = $1 and "of" = $2`, [belongs, String(id), String(into)]);
  await turnAnswers(db, belongs === 'contributor' ? 'contributorId' : 'assignmentId', id, into);
}

export const formerCodes = async (db: Db, contributorId: number): Promise<string[]> =>
  (await db.getRepository(FormerCode).find({ where: { contributorId }, order: { code: 'ASC' } })).map(({ code }) => code);

export type KnownAssignment = Omit<AssignmentRow, 'retiredAt' | 'terms' | 'location' | 'fromDay' | 'toDay'> & {
  readonly from: string;
  readonly to: string;
  readonly retired: boolean;
  /** Items that stand on the drive under its short name. */
  readonly filed: number;
};

/** An assignment, kept against others until the transaction ends. */
export async function holdAssignment(db: Db, id: number): Promise<KnownAssignment | null> {
  const row = await db.getRepository(AssignmentRow).findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });
  if (!row) return null;
  const { retiredAt, fromDay: from, toDay: to, ...assignment } = row;
  return { ...assignment, from, to, retired: retiredAt !== null, filed: await filedOf(db, 'assignment_id', id) };
}

/** @returns false when the short name is another one's. */
export async function correctAssignment(
  db: Db,
  id: number,
  change: AssignmentChange,
  before: KnownAssignment,
  at: Date,
): Promise<boolean> {
  const { from, to, expectedContributorIds, retired, words: _words, revision: _revision, ...said } = change;
  const repository = db.getRepository(AssignmentRow);
  if (said.slug !== undefined && said.slug !== before.slug && (await repository.existsBy({ slug: said.slug }))) return false;
  const days = { ...(from ? { fromDay: from } : {}), ...(to ? { toDay: to } : {}) };
  const retiring = retired === undefined || retired === before.retired ? {} : { retiredAt: retired ? at : null };
  await repository.update(id, { ...said, ...days, ...retiring, revision: before.revision + 1 });
  if (expectedContributorIds) {
    await db.query('delete from assignment_expected where assignment_id = $1', [id]);
    await db.query(
      'insert into assignment_expected (assignment_id, contributor_id) select $1, id from contributor where id = any($2::int[])',
      [id, expectedContributorIds],
    );
  }
  return true;
}

/** Whatever spoke of one assignment speaks of another. Its short name stays in the names on the drive, and in the log. */
export async function mergeAssignment(db: Db, id: number, into: number): Promise<void> {
  await turnReferences(db, 'assignment', id, into);
  await turnHabits(db, 'assignment', id, into);
  await db.query(
    'update assignment a set expected_cards = a.expected_cards + o.expected_cards, revision = a.revision + 1 from assignment o where a.id = $2 and o.id = $1',
    [id, into],
  );
  await db.query('delete from assignment where id = $1', [id]);
}

/** @returns whether they were other words before. */
export async function setAssignmentWords(db: Db, assignmentId: number, wordIds: readonly number[]): Promise<boolean> {
  const [, gone] = await db.query<[unknown, number]>(
    'delete from assignment_word where assignment_id = $1 and not word_id = any($2::int[])',
    [assignmentId, wordIds],
  );
  const come = await db.query<{ word_id: number }[]>(
    'insert into assignment_word (assignment_id, word_id) select $1, unnest($2::int[]) on conflict do nothing returning word_id',
    [assignmentId, wordIds],
  );
  return gone + come.length > 0;
}

/** Items whose credit comes from a contributor or an assignment. Selects `item_id`. */
export const ITEMS_OF = {
  contributor: `select i.id as item_id from intake_part p join intake n on n.id = p.intake_id join item i on i.intake_id = p.intake_id
    where p.contributor_id = $1 and coalesce(i.contributor_id, n.contributor_id) = $1`,
  assignment: `select i.id as item_id from intake_part p join intake n on n.id = p.intake_id join item i on i.intake_id = p.intake_id
    where p.assignment_id = $1 and coalesce(i.assignment_id, n.assignment_id) = $1`,
} as const;

export async function assignmentDetail(db: Db, id: number): Promise<AssignmentDetail | null> {
  const rows = await db.query<AssignmentDetail[]>(
    `select a.id, a.description, a.contacts, to_char(a.embargo_until, 'YYYY-MM-DD') as "embargoUntil", a.terms_id as "termsId", a.location_id as "locationId", a.revision,
       coalesce((select json_agg(json_build_object('id', w.word_id, 'text', ${nameOfWord('w.word_id')}) order by w.word_id) from assignment_word w where w.assignment_id = a.id), '[]') as words
     from assignment a where a.id = $1`,
    [id],
  );
  return rows[0] ?? null;
}

/** Items that a contributor handed in and that are filed, by month. */
export async function monthsOf(db: Db, contributorId: number, zone: string): Promise<{ month: string; items: number }[]> {
  return db.query(
    `select to_char(n.received_at at time zone $2, 'YYYY-MM') as month, sum(p.filed)::int as items
     from intake_part p join intake n on n.id = p.intake_id where p.contributor_id = $1 and p.filed > 0 group by 1 order by 1`,
    [contributorId, zone],
  );
}

export async function contributorById(
  db: Db,
  id: number,
): Promise<Omit<ContributorDetail, 'formerCodes' | 'agreements' | 'months'> | null> {
  const row = await db.getRepository(Contributor).findOneBy({ id });
  if (!row) return null;
  const { retiredAt, createdAt: _at, ...person } = row;
  return { ...person, retired: retiredAt !== null };
}
