import type { Kind } from '@tally/core/card';
import type { AsideReason } from '@tally/core/life';
import type { Db } from '../../db/database.js';
import type { PieceKept } from '../../db/entities/written.js';

export interface InsideOf {
  readonly bytes: number;
  /** XXH128 of the file as it stands, as hexadecimal digits. */
  readonly hash: string;
  readonly undo: PieceKept[];
}

/**
 * An item of an intake with the filed bytes it corresponds to: its own, or those found already filed and confirmed (as they
 * came, or with their credit inside: then those are what it is compared with).
 */
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
    /** Of copies with something inside them, by place: what they are with it and how it comes out. */
    readonly inside: Readonly<Record<string, InsideOf>>;
  } | null;
}

type Row = Omit<ClearableItem, 'filed'> & {
  filedId: number | null;
  filedHash: Buffer | null;
  filedQuickHash: Buffer | null;
  folder: string | null;
  name: string | null;
  tallied: string[] | null;
  inside: Record<string, InsideOf> | null;
};

export async function clearableItems(db: Db, intakeId: number): Promise<ClearableItem[]> {
  const rows: Row[] = await db.query(
    `select i.id, i.path, i.path_bytes as "pathBytes", i.bytes, i.modified_at as "modifiedAt", i.kind, i.quick_hash as "quickHash", i.set_aside as "setAside", i.aside, a.slug as assignment,
       f.id as "filedId", coalesce(v.hash, f.hash) as "filedHash", coalesce(v.quick_hash, f.quick_hash) as "filedQuickHash", f.folder, f.name,
       (select coalesce(array_agg(c.place_id), '{}') from copy c where c.filed_item_id = f.id and c.state = 'tallied') as tallied,
       (select json_object_agg(s.place_id, json_build_object('bytes', w.bytes, 'hash', encode(w.hash, 'hex'), 'undo', w.undo)) from credit_stands s
         join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version and w.how = 'inside' where s.filed_item_id = f.id and w.version is distinct from v.version) as inside
     from item i join intake n on n.id = i.intake_id left join assignment a on a.id = coalesce(i.assignment_id, n.assignment_id)
     left join filed_item own on own.item_id = i.id
     left join filed_item f on f.id = coalesce(own.id, case when i.already_confirmed then i.already_filed_id end)
     left join lateral (select w.version, w.hash, w.quick_hash from credit_written w where own.id is null and w.filed_item_id = f.id
       and w.how = 'inside' and w.bytes = i.bytes and w.quick_hash = i.quick_hash limit 1) v on true
     where i.intake_id = $1`,
    [intakeId],
  );
  return rows.map(({ filedId, filedHash, filedQuickHash, folder, name, tallied, inside, ...item }) => ({
    ...item,
    filed:
      filedId !== null && filedHash && filedQuickHash && name !== null
        ? {
            id: filedId,
            hash: filedHash,
            quickHash: filedQuickHash,
            folder: folder ?? '',
            name,
            tallied: tallied ?? [],
            inside: inside ?? {},
          }
        : null,
  }));
}
