import type { Db } from '../../db/database.js';

/** How many items some SQL selects (as `item_id`), and of which intakes. */
export async function itemsMeant(
  db: Db,
  items: string,
  parameters: readonly unknown[],
): Promise<{ count: number; intakes: number[] }> {
  const [row] = await db.query<[{ count: number; intakes: number[] }]>(
    `select count(distinct i.id)::int as count, coalesce(array_agg(distinct i.intake_id order by i.intake_id), '{}') as intakes
     from item i where i.id in (select item_id from (${items}) s)`,
    [...parameters],
  );
  return row;
}
