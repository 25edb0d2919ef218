import type { Kind } from '@tally/core/card';
import type { CopyState } from '@tally/core/copies';
import type { Db } from '../../db/database.js';

/** What the notch of an item depends on. */
interface Stands {
  readonly taken: boolean;
  /** Can it not be filed at all? */
  readonly odd: boolean;
  readonly filed: boolean;
  /** Does it stand on the drive already: all bytes compared, likely (false), or not as far as is known (null)? */
  readonly confirmed: boolean | null;
  /** Its copies; null: it is not filed. */
  readonly copies: readonly { readonly place: string; readonly state: CopyState }[] | null;
}

/** Items of an intake that are alike in everything that is counted. */
export interface AlikeItems extends Stands {
  readonly kind: Kind;
  readonly make: string | null;
  readonly model: string | null;
  readonly read: boolean;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  readonly items: number;
  readonly bytes: number;
}

/** Items one after the other, in capture order, that stand alike. */
export interface RunOfItems extends Stands {
  readonly items: number;
}

export interface CountedItems {
  readonly alike: readonly AlikeItems[];
  readonly runs: readonly RunOfItems[];
  /** Paths of the first and last item that a camera or recorder made; else of the first and last of all. */
  readonly first: string | null;
  readonly last: string | null;
}

/**
 * Counts the items of an intake that are material. Ten thousand are counted where they lie, at every click: what comes back
 * are the few ways in which they differ.
 */
export async function countedItems(db: Db, intakeId: number): Promise<CountedItems> {
  const [row] = await db.query<[CountedItems]>(
    `with counted as materialized (
       select row_number() over (order by i.captured_local, i.path, i.id) as n, i.path, i.kind, i.bytes, i.make, i.model, i.read, i.taken,
         i.problem is not null as odd, i.contributor_id, i.assignment_id, f.id is not null as filed,
         (select jsonb_agg(jsonb_build_object('place', c.place_id, 'state', c.state) order by c.place_id) from copy c where c.filed_item_id = f.id) as copies,
         case when i.already_filed_id is not null then i.already_confirmed end as confirmed
       from item i left join filed_item f on f.item_id = i.id
       where i.intake_id = $1 and i.set_aside is null),
     alike as (
       select kind, make, model, read, taken, odd, contributor_id as "contributorId", assignment_id as "assignmentId", filed, confirmed, copies,
         count(*) as items, sum(bytes) as bytes, min(n) as first
       from counted group by 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11),
     runs as (
       select taken, odd, filed, confirmed, copies, count(*) as items, min(n) as first
       from (select *, n - row_number() over (partition by taken, odd, filed, confirmed, copies order by n) as run from counted) r
       group by run, 1, 2, 3, 4, 5)
     select coalesce((select json_agg(a order by a.first) from alike a), '[]') as alike,
       coalesce((select json_agg(r order by r.first) from runs r), '[]') as runs,
       (select path from counted order by kind in ('sidecar', 'other'), n limit 1) as first,
       (select path from counted order by kind in ('sidecar', 'other'), n desc limit 1) as last`,
    [intakeId],
  );
  return row;
}
