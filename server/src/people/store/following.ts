import type { Db } from '../../db/database.js';

/** The items that some SQL selects (as `item_id`), by intake, in the order of intakes. */
export async function itemsMeant(
  db: Db,
  items: string,
  parameters: readonly unknown[],
): Promise<{ intakeId: number; ids: number[] }[]> {
  return db.query(
    `select i.intake_id as "intakeId", array_agg(i.id) as ids from item i where i.id in (select item_id from (${items}) s) group by 1 order by 1`,
    [...parameters],
  );
}

/** The records that explain these items are written anew. */
export async function explainItems(db: Db, ids: readonly number[]): Promise<void> {
  await db.query('select explain_items($1::int[])', [ids]);
}

/** Whoever asks for what is new gets these items again. */
export async function touchItems(db: Db, intakeId: number, ids: readonly number[]): Promise<void> {
  await db.query('select touch_items($1::int, $2::int[])', [intakeId, ids]);
}

/** Records beside the files that are still to be written. @param intakeId of one intake; null: of all. */
export async function following(db: Db, intakeId: number | null = null): Promise<number> {
  const [{ n }] = await db.query<[{ n: number }]>(
    'select count(*)::int as n from beside_due where $1::int is null or intake_id = $1',
    [intakeId],
  );
  return n;
}

/** Places that lag behind in the records and the credit of an intake: for a while already, or because something went wrong. */
export async function behindAt(db: Db, intakeId: number): Promise<{ placeId: string; name: string; row: number }[]> {
  return db.query(
    `select p.id as "placeId", p.name, p.row from (select o.id, o.name, row_number() over (order by o.position)::int - 1 as row from place o) p
     where exists (select from beside_due d where d.intake_id = $1 and d.place_id = p.id
       and (d.due_at < now() - interval '5 seconds' or d.problem is not null)) order by p.row`,
    [intakeId],
  );
}

/** What the house says has changed: the records of every intake are to follow. */
export async function followHouse(db: Db): Promise<void> {
  await db.query('update house_credit set follow_below = (select max(id) + 1 from intake) where id = 1');
}

/** Makes the records of some intakes due that have not followed the house yet, newest first. @returns is there more? */
export async function followHouseSome(db: Db, intakes: number): Promise<boolean> {
  const rows = await db.query<{ more: boolean }[]>(
    `with held as materialized (select follow_below as below from house_credit where id = 1 and follow_below is not null for update skip locked),
       batch as materialized (select i.id from intake i, held where i.id < held.below order by i.id desc limit $1),
       moved as (update house_credit set follow_below = (select min(id) from batch) from held where house_credit.id = 1 returning follow_below)
     select follow_below is not null as more from moved, explain_intakes(coalesce((select array_agg(id) from batch), '{}'))`,
    [intakes],
  );
  return rows[0]?.more ?? false;
}
