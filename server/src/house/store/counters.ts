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

export async function advanceNumbers(db: Db, numbers: readonly { scope: string; next: number }[]): Promise<void> {
  for (const { scope, next } of numbers)
    await db.query('update counter set next = $2 where scope = $1 and next < $2', [scope, next]);
}
