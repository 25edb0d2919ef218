import type { Db } from '../../db/database.js';
import { tell } from '../../house/index.js';

/**
 * Something changed that is said of items: the records beside the files are written anew by the job that writes what is
 * due, and browsers look again. @param items SQL that selects `item_id`. @param touch do the items themselves say
 * something else now? @returns how many items it is about.
 */
export async function followItems(db: Db, items: string, parameters: readonly unknown[], touch = false): Promise<number> {
  const [{ count, intakes }] = await db.query<[{ count: number; intakes: number[] | null }]>(
    `with of as materialized (select distinct item_id as id from (${items}) s where item_id is not null),
     due as (insert into beside_due (intake_id, folder, place_id)
       select distinct f.intake_id, f.list_folder, c.place_id from of join filed_item f on f.item_id = of.id join copy c on c.filed_item_id = f.id
       where c.state = 'tallied' and f.hash is not null
       on conflict (intake_id, folder, place_id) do update set due_at = now())
     select (select count(*)::int from of) as count, (select array_agg(distinct i.intake_id order by i.intake_id) from of join item i on i.id = of.id) as intakes`,
    [...parameters],
  );
  // One intake after the other in one order: two such changes wait for each other.
  for (const intakeId of intakes ?? []) {
    if (touch)
      await db.query(
        `update item set version = version where intake_id = $${parameters.length + 1} and id in (select item_id from (${items}) s)`,
        [...parameters, intakeId],
      );
    await tell(db, { type: 'items', intakeId });
  }
  return count;
}

/** Records beside the files that are still to be written. @param intakeId of one intake; null: of all. */
export async function following(db: Db, intakeId: number | null = null): Promise<number> {
  const [{ n }] = await db.query<[{ n: number }]>(
    'select count(*)::int as n from beside_due where $1::int is null or intake_id = $1',
    [intakeId],
  );
  return n;
}

/** How many items of these items' intakes show somebody who must not be shown. */
export async function refreshUnshown(db: Db, items: string, parameters: readonly unknown[]): Promise<void> {
  await db.query(
    `update intake n set unshown = c.unshown from (
       select i.intake_id, count(distinct i.id) filter (where q.consent = 'no')::int as unshown
       from item i left join item_pictured p on p.item_id = i.id left join pictured q on q.id = p.pictured_id
       where i.intake_id in (select distinct o.intake_id from item o where o.id in (${items})) group by 1) c
     where n.id = c.intake_id and n.unshown <> c.unshown`,
    [...parameters],
  );
}
