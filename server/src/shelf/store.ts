import type { LogPage, LogQuery } from '@tally/contract';
import type { Db } from '../db/database.js';
import { type IntakeRow, intakesWhere } from '../house/index.js';

const ORDER_BY: Readonly<Record<LogQuery['order'], string>> = {
  received: 'i.received_at',
  contributor: 'c.name',
  assignment: 'a.title',
  card: 'k.label',
  items: `(i.totals->>'items')::int`,
  bytes: `(i.totals->>'bytes')::bigint`,
  state: 'i.state',
};

/** Intakes of the logbook: every word must be found. */
export async function findIntakes(
  db: Db,
  query: LogQuery,
  zone: string,
): Promise<{ rows: IntakeRow[]; total: number; sums: LogPage['sums'] }> {
  const parameters: unknown[] = [];
  const conditions = ['true'];
  const where = (sql: (parameter: string) => string, value: unknown) => {
    parameters.push(value);
    conditions.push(sql(`$${parameters.length}`));
  };
  for (const word of query.words.toLowerCase().split(/\s+/).filter(Boolean)) {
    where((p) => `i.words like ${p}`, `%${word.replace(/[\\%_]/g, '\\$&')}%`);
  }
  if (query.state) where((p) => `i.state = ${p}`, query.state);
  // By what the items say: a split card is found under everybody it is from.
  if (query.contributor)
    where(
      (p) => `(c.code = ${p} and not exists (select from intake_part p where p.intake_id = i.id)
        or exists (select from intake_part p join contributor w on w.id = p.contributor_id where p.intake_id = i.id and w.code = ${p}))`,
      query.contributor.toUpperCase(),
    );
  if (query.assignment)
    where(
      (p) => `(a.slug = ${p} and not exists (select from intake_part p where p.intake_id = i.id)
        or exists (select from intake_part p join assignment w on w.id = p.assignment_id where p.intake_id = i.id and w.slug = ${p}))`,
      query.assignment,
    );
  if (query.from || query.to) parameters.push(zone);
  const zoneAt = `$${parameters.length}::text`;
  if (query.from) where((p) => `i.received_at >= (${p}::date)::timestamp at time zone ${zoneAt}`, query.from);
  if (query.to) where((p) => `i.received_at < (${p}::date + 1)::timestamp at time zone ${zoneAt}`, query.to);
  const direction = query.descending ? 'desc nulls last' : 'asc nulls last';
  const rows = await intakesWhere(
    db,
    `${conditions.join(' and ')} order by ${ORDER_BY[query.order]} ${direction}, i.id ${query.descending ? 'desc' : 'asc'}
     limit ${query.limit} offset ${query.offset}`,
    parameters,
  );
  const [{ total, ...sums }]: [{ total: number; items: number; filed: number; bytes: number }] = await db.query(
    `select count(*)::int as total, coalesce(sum((i.totals->>'items')::int), 0)::int as items,
       coalesce(sum((i.totals->>'filed')::int), 0)::int as filed, coalesce(sum((i.totals->>'bytes')::bigint), 0)::bigint as bytes
     from intake i join card k on k.id = i.card_id
     left join contributor c on c.id = i.contributor_id left join assignment a on a.id = i.assignment_id
     where ${conditions.join(' and ')}`,
    parameters,
  );
  return { rows, total, sums };
}

export async function intakesByDay(db: Db, zone: string): Promise<{ day: string; intakes: number; items: number }[]> {
  return db.query(
    `select to_char(received_at at time zone $1, 'YYYY-MM-DD') as day, count(*)::int as intakes,
       sum((totals->>'items')::int)::int as items
     from intake group by 1 order by 1`,
    [zone],
  );
}
