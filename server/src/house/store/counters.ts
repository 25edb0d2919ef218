import type { Db } from '../../db/database.js';

/** Next free numbers of scopes. With `lock` the rows are made and held until the transaction ends, in one order for all. */
export async function nextNumbers(db: Db, scopes: readonly string[], lock: boolean): Promise<Map<string, number>> {
  const sorted = [...new Set(scopes)].sort();
  if (lock) {
    await db.query(
      'insert into counter (scope, next) select s, 1 from unnest($1::text[]) s order by s on conflict (scope) do nothing',
      [sorted],
    );
  }
  const rows: { scope: string; next: number }[] = await db.query(
    `select scope, next from counter where scope = any($1::text[]) order by scope ${lock ? 'for update' : ''}`,
    [sorted],
  );
  return new Map(rows.map((row) => [row.scope, row.next]));
}

/** Of the numbers of intakes of a year. */
export const intakeScope = (year: number): string => `intake:${year}`;

/** The next numbers are these or higher ones. */
export async function raiseNumbers(tx: Db, numbers: readonly { scope: string; next: number }[]): Promise<void> {
  for (const { scope, next } of [...numbers].sort((a, b) => (a.scope < b.scope ? -1 : 1)))
    await tx.query(
      `insert into counter (scope, next) values ($1, $2) on conflict (scope) do update set next = greatest(counter.next, excluded.next)`,
      [scope, next],
    );
}

export async function advanceNumbers(db: Db, numbers: readonly { scope: string; next: number }[]): Promise<void> {
  for (const { scope, next } of numbers)
    await db.query('update counter set next = $2 where scope = $1 and next < $2', [scope, next]);
}

/** Remembers which numbers the filing of an intake drew, so that they can be given back if it is stopped. */
export async function keepDrawn(
  db: Db,
  intakeId: number,
  drawn: readonly { scope: string; first: number; next: number }[],
): Promise<void> {
  await db.query('update intake set drawn = $2 where id = $1', [intakeId, JSON.stringify(drawn)]);
}

/** Gives back the numbers that the last filing of an intake drew behind the last one it used, unless others drew since. */
export async function takeBackNumbers(db: Db, intakeId: number): Promise<void> {
  await db.query(
    `with drawn as (
       select n->>'scope' as scope, (n->>'first')::int as first, (n->>'next')::int as next
       from intake i, jsonb_array_elements(i.drawn) n where i.id = $1)
     update counter set next = greatest(drawn.first,
       (select coalesce(max(f.n) + 1, 0) from filed_item f where f.intake_id = $1 and f.n >= drawn.first and f.n < drawn.next))
     from drawn where counter.scope = drawn.scope and counter.next = drawn.next`,
    [intakeId],
  );
}
