import type { Db } from '../../db/database.js';

/** Numbers of intakes. */
export async function numbersOf(db: Db, intakeIds: readonly number[]): Promise<string[]> {
  const rows = await db.query<{ number: string }[]>('select number from intake where id = any($1::int[])', [intakeIds]);
  return rows.map(({ number }) => number);
}
