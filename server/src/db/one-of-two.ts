import type { Db } from './database.js';

interface Reference {
  readonly table: string;
  readonly column: string;
  /** Other columns of unique indexes that the reference is part of, each index as JSON. */
  readonly beside: readonly (readonly string[])[];
}

/** Every column of every table that refers to a table's id, as the catalog has it (PostgreSQL 15 manual, section 53). */
async function referencesTo(db: Db, table: string): Promise<Reference[]> {
  return db.query(
    `select c.conrelid::regclass::text as "table", a.attname as "column",
       coalesce((select json_agg((select coalesce(json_agg(o.attname), '[]') from unnest(i.indkey::int[]) k join pg_attribute o on o.attrelid = i.indrelid and o.attnum = k where k <> a.attnum))
         from pg_index i where i.indrelid = c.conrelid and i.indisunique and a.attnum = any(i.indkey::int[])), '[]') as beside
     from pg_constraint c join pg_attribute a on a.attrelid = c.conrelid and a.attnum = c.conkey[1]
     where c.contype = 'f' and c.confrelid = $1::regclass and array_length(c.conkey, 1) = 1 order by 1, 2`,
    [table],
  );
}

/**
 * Two rows of a table are one: whatever refers to the first refers to the second from now on, in whichever table it
 * stands; what would then stand there twice goes. The first row itself is the caller's to remove. Call it in a transaction.
 */
export async function turnReferences(db: Db, table: string, id: number, into: number): Promise<void> {
  for (const { table: other, column, beside } of await referencesTo(db, table)) {
    for (const columns of beside) {
      const same = columns.map((one) => `o."${one}" is not distinct from t."${one}"`);
      await db.query(
        `delete from ${other} t where t."${column}" = $1 and exists (select from ${other} o where ${[`o."${column}" = $2`, ...same].join(' and ')})`,
        [id, into],
      );
    }
    await db.query(`update ${other} set "${column}" = $2 where "${column}" = $1`, [id, into]);
  }
}
