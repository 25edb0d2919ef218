import type { Db } from '../../db/database.js';

/** Intakes of which something stands at a place, after one, in their order, with the rule they were filed under. */
export async function intakesAt(
  db: Db,
  after: number,
  limit: number,
): Promise<{ id: number; revision: number | null; adopted: boolean }[]> {
  return db.query(
    `select i.id, i.rule_revision as revision, i.adopted_at is not null as adopted from intake i
     where i.id > $1 and i.filed > 0 order by i.id limit $2`,
    [after, limit],
  );
}

/** What is filed of an intake and has a copy at a place, with what names say beside the plan's material. */
export async function filedNames(
  db: Db,
  intakeId: number,
  placeId: string,
): Promise<
  {
    filedItemId: number;
    itemId: number;
    folder: string;
    listFolder: string;
    name: string;
    n: number | null;
    filedAt: Date;
    former: string[] | null;
  }[]
> {
  return db.query(
    `select f.id as "filedItemId", f.item_id as "itemId", f.folder, f.list_folder as "listFolder", f.name, f.n, f.filed_at as "filedAt",
       (select array_agg(o.code) from former_code o where o.contributor_id = coalesce(i.contributor_id, n.contributor_id)) as former
     from filed_item f join item i on i.id = f.item_id join intake n on n.id = f.intake_id join copy c on c.filed_item_id = f.id and c.place_id = $2
     where f.intake_id = $1 and f.filed_at is not null and f.hash is not null order by f.id`,
    [intakeId, placeId],
  );
}
