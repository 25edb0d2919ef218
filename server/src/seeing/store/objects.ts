import type { Keeping } from '@tally/core/card';
import type { Item } from '../../db/entities/intake.js';
import type { Db } from '../../db/database.js';
import { type InObject, objectsOnCard } from '../in-object.js';
import { storable } from './items.js';

type Row = InObject & Pick<Item, 'id' | 'path' | 'bytes' | 'problem'>;

const FIELDS = ['leader', 'objectRole', 'part', 'parts', 'structure', 'structureRoot', 'series', 'setAside'] as const;

/**
 * Says anew what belongs together on a card and what is set aside: more may have come, and the house may keep structures
 * another way by now. What is filed stays as it was. What becomes material is read, and taken if new items are.
 * @returns how many changed.
 */
export async function reviewObjects(db: Db, intakeId: number, keeping: Keeping, taken: boolean): Promise<number> {
  const rows: (Row & { filed: boolean })[] = await db.query(
    `select i.id, i.path, i.bytes, i.problem, i.leader, i.object_role as "objectRole", i.part, i.parts, i.structure,
       i.structure_root as "structureRoot", i.series, i.set_aside as "setAside", f.id is not null as filed
     from item i left join filed_item f on f.item_id = i.id where i.intake_id = $1 order by i.id`,
    [intakeId],
  );
  const placed = objectsOnCard(rows, keeping);
  const changed = rows.flatMap((row) => {
    if (row.filed) return [];
    const now = placed(row.path);
    return FIELDS.some((field) => row[field] !== now[field]) ? [{ id: row.id, ...now }] : [];
  });
  if (!changed.length) return 0;
  await db.query(
    `update item set leader = n.leader, object_role = n.object_role, part = n.part, parts = n.parts, structure = n.structure,
       structure_root = n.structure_root, series = n.series, set_aside = n.set_aside,
       read = case when (item.set_aside is null) = (n.set_aside is null) then read else n.set_aside is not null or problem is not null end,
       taken = case when (item.set_aside is null) = (n.set_aside is null) then taken else $10 and n.set_aside is null and problem is null end
     from unnest($1::int[], $2::text[], $3::text[], $4::int[], $5::int[], $6::text[], $7::text[], $8::text[], $9::text[])
       as n(id, leader, object_role, part, parts, structure, structure_root, series, set_aside)
     where item.id = n.id`,
    [
      changed.map(({ id }) => id),
      changed.map(({ leader }) => storable(leader)),
      changed.map(({ objectRole }) => objectRole),
      changed.map(({ part }) => part),
      changed.map(({ parts }) => parts),
      changed.map(({ structure }) => structure),
      changed.map(({ structureRoot }) => structureRoot && storable(structureRoot)),
      changed.map(({ series }) => series && storable(series)),
      changed.map(({ setAside }) => setAside),
      taken,
    ],
  );
  return changed.length;
}
