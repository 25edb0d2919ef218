import { type Assignment, type AssignmentPage, type AssignmentQuery, UNSORTED } from '@tally/contract';
import type { Db } from '../../db/database.js';
import { Refusal } from '../../house/index.js';

/** What the search looks at: as it stands in an index. */
const SOUGHT = `lower(a.title || ' ' || a.slug || ' ' || a.code || ' ' || a.place)`;

/** A hand-in for an assignment counts once filing has begun. */
const HANDED = `from intake_part p join intake n on n.id = p.intake_id where p.assignment_id = a.id and p.given > 0 and n.state <> 'open'`;

const COLUMNS = `a.id, a.slug, a.code, a.title, to_char(a.from_day, 'YYYY-MM-DD') as "from", to_char(a.to_day, 'YYYY-MM-DD') as "to", a.place,
  a.retired_at is not null as retired, a.expected_cards as "expectedCards", (select count(distinct p.intake_id)::int ${HANDED}) as "receivedCards",
  coalesce((select json_agg(json_build_object('id', c.id, 'name', c.name, 'handedIn', exists (select ${HANDED} and p.contributor_id = c.id)) order by c.name)
    from assignment_expected e join contributor c on c.id = e.contributor_id where e.assignment_id = a.id), '[]') as expected`;

const ORDERS: Readonly<Record<AssignmentQuery['order'], string>> = {
  days: 'a.from_day',
  title: 'a.title',
  slug: 'a.slug',
  place: 'a.place',
};

/** What of a query narrows, as a condition on `assignment a`. */
function conditionOf(query: AssignmentQuery, given: (value: unknown) => string): string {
  const all: string[] = [];
  for (const word of query.typed.toLowerCase().split(/\s+/).filter(Boolean))
    all.push(`${SOUGHT} like ${given(`%${word.replace(/[\\%_]/g, '\\$&')}%`)}`);
  // What is sorted later belongs to no day: nobody is offered it for that of its making.
  if (query.from ?? query.to) all.push(`a.slug <> ${given(UNSORTED)}`);
  if (query.from) all.push(`a.to_day >= ${given(query.from)}::date`);
  if (query.to) all.push(`a.from_day <= ${given(query.to)}::date`);
  if (query.missing !== undefined) {
    const who = given(query.missing);
    all.push(`exists (select from assignment_expected e where e.assignment_id = a.id and e.contributor_id = ${who}::int)
      and not exists (select ${HANDED} and p.contributor_id = ${who}::int)`);
  }
  if (query.retired !== undefined) all.push(`a.retired_at is ${query.retired ? 'not null' : 'null'}`);
  const narrowed = all.join(' and ') || 'true';
  if (!query.ids) return narrowed;
  const these = `a.id = any(${given(query.ids)}::int[])`;
  return all.length ? `(${narrowed} or ${these})` : these;
}

/**
 * Assignments with what came in for them, a page.
 * @throws Refusal when there is no such one to go on after.
 */
export async function assignmentPage(db: Db, query: AssignmentQuery): Promise<AssignmentPage> {
  const parameters: unknown[] = [];
  const given = (value: unknown) => `$${parameters.push(value)}`;
  let where = conditionOf(query, given);
  const by = ORDERS[query.order];
  if (query.after !== undefined) {
    const [last] = await db.query<{ value: string }[]>(`select ${by}::text as value from assignment a where a.id = $1`, [
      query.after,
    ]);
    if (!last) throw new Refusal('not found', 'There is no such assignment to go on after.');
    where += ` and (${by}, a.id) ${query.descending ? '<' : '>'} (${given(last.value)}::${query.order === 'days' ? 'date' : 'text'}, ${given(query.after)}::int)`;
  }
  const direction = query.descending ? 'desc' : 'asc';
  const assignments = await db.query<Assignment[]>(
    `select ${COLUMNS} from assignment a where ${where} order by ${by} ${direction}, a.id ${direction} limit ${query.limit}`,
    parameters,
  );
  return { assignments, next: assignments.length === query.limit ? (assignments.at(-1)?.id ?? null) : null };
}

/** Assignments that lasted until this day or later, are not retired, and want more cards than came; the first one first. */
export async function expectedSince(db: Db, day: string): Promise<Assignment[]> {
  const rows = await db.query<Assignment[]>(
    `select ${COLUMNS} from assignment a where a.to_day >= $1::date and a.retired_at is null and a.expected_cards > 0 order by a.from_day, a.id`,
    [day],
  );
  return rows.filter(({ receivedCards, expectedCards }) => receivedCards < expectedCards);
}

/** Assignments that are offered and last on one of these days (`yyyy-MM-dd`). */
export async function assignmentsOn(db: Db, days: readonly string[]): Promise<Assignment[]> {
  return db.query(
    `select ${COLUMNS} from assignment a where a.retired_at is null and a.slug <> $2
       and exists (select from unnest($1::date[]) d where d between a.from_day and a.to_day) order by a.id`,
    [days, UNSORTED],
  );
}
