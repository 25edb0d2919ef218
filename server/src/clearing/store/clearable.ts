import type { Kind } from '@tally/core/card';
import type { AsideReason } from '@tally/core/life';
import type { Db } from '../../db/database.js';

/** An item of an intake with the filed bytes it corresponds to: its own, or those found already filed and confirmed. */
export interface ClearableItem {
  readonly id: number;
  readonly path: string;
  readonly pathBytes: Buffer;
  readonly bytes: number;
  readonly modifiedAt: Date;
  readonly kind: Kind;
  readonly quickHash: Buffer | null;
  /** Why it is no material. */
  readonly setAside: string | null;
  /** Why a person set it aside. */
  readonly aside: AsideReason | null;
  /** Slug of its assignment. */
  readonly assignment: string | null;
  /** Of the filed bytes; null when it was never filed. */
  readonly filed: {
    readonly id: number;
    readonly hash: Buffer;
    readonly quickHash: Buffer;
    readonly folder: string;
    readonly name: string;
    readonly tallied: readonly string[];
  } | null;
}

type Row = Omit<ClearableItem, 'filed'> & {
  filedId: number | null;
  filedHash: Buffer | null;
  filedQuickHash: Buffer | null;
  folder: string | null;
  name: string | null;
  tallied: string[] | null;
};

export async function clearableItems(db: Db, intakeId: number): Promise<ClearableItem[]> {
  const rows: Row[] = await db.query(
    `select i.id, i.path, i.path_bytes as "pathBytes", i.bytes, i.modified_at as "modifiedAt", i.kind, i.quick_hash as "quickHash", i.set_aside as "setAside", i.aside, a.slug as assignment,
       f.id as "filedId", f.hash as "filedHash", f.quick_hash as "filedQuickHash", f.folder, f.name,
       (select coalesce(array_agg(c.place_id), '{}') from copy c where c.filed_item_id = f.id and c.state = 'tallied') as tallied
     from item i join intake n on n.id = i.intake_id left join assignment a on a.id = coalesce(i.assignment_id, n.assignment_id)
     left join filed_item own on own.item_id = i.id
     left join filed_item f on f.id = coalesce(own.id, case when i.already_confirmed then i.already_filed_id end)
     where i.intake_id = $1`,
    [intakeId],
  );
  return rows.map(({ filedId, filedHash, filedQuickHash, folder, name, tallied, ...item }) => ({
    ...item,
    filed:
      filedId !== null && filedHash && filedQuickHash && name !== null
        ? { id: filedId, hash: filedHash, quickHash: filedQuickHash, folder: folder ?? '', name, tallied: tallied ?? [] }
        : null,
  }));
}
