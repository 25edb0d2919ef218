import type { CaptureTime } from '@tally/core/capture';
import type { Db } from '../../db/database.js';
import type { Item } from '../../db/entities/intake.js';

/** An item as far as its name and place on the drive go. */
export type PlaceableItem = Readonly<
  Pick<Item, 'id' | 'path' | 'bytes' | 'kind' | 'make' | 'model' | 'leader' | 'objectRole' | 'part' | 'parts' | 'structure'> &
    Pick<
      Item,
      'structureRoot' | 'taken' | 'setAside' | 'aside' | 'problem' | 'description' | 'role' | 'profile' | 'clip' | 'read'
    > &
    Pick<Item, 'contributorId' | 'assignmentId'>
> & {
  readonly captured: CaptureTime;
  readonly filedAs: string | null;
  readonly alreadyFiled: { readonly path: string; readonly confirmed: boolean } | null;
};

type Raw = Omit<PlaceableItem, 'captured' | 'alreadyFiled'> & {
  readonly local: string;
  readonly offset: number | null;
  readonly source: CaptureTime['source'];
  readonly original: string;
  readonly already: string | null;
  readonly confirmed: boolean;
};

/** The items of an intake as a plan needs them, in capture order. */
export async function placeableItems(db: Db, intakeId: number): Promise<PlaceableItem[]> {
  const rows = await db.query<Raw[]>(
    `select i.id, i.path, i.bytes, i.kind, i.make, i.model, i.leader, i.object_role as "objectRole", i.part, i.parts, i.structure,
       i.structure_root as "structureRoot", i.taken, i.set_aside as "setAside", i.aside, i.problem, i.description, i.role, i.profile, i.clip, i.read,
       i.contributor_id as "contributorId", i.assignment_id as "assignmentId", i.captured_local as local, i.captured_offset as "offset",
       i.capture_source as source, i.capture_original as original, nullif(concat_ws('/', nullif(f.folder, ''), f.name), '') as "filedAs",
       nullif(concat_ws('/', nullif(af.folder, ''), af.name), '') as already, i.already_confirmed as confirmed
     from item i left join filed_item f on f.item_id = i.id left join filed_item af on af.id = i.already_filed_id
     where i.intake_id = $1 order by i.captured_local, i.path, i.id`,
    [intakeId],
  );
  return rows.map(({ local, offset, source, original, already, confirmed, ...item }) => ({
    ...item,
    captured: { local, offsetMinutes: offset, source, original },
    alreadyFiled: already === null ? null : { path: already, confirmed },
  }));
}
