import type { Kind } from '@tally/core/card';
import type { CopyState } from '@tally/core/copies';
import type { Db } from '../../db/database.js';

/** An item as far as the totals of its intake go. */
export interface CountedItem {
  readonly path: string;
  readonly kind: Kind;
  readonly bytes: number;
  readonly make: string | null;
  readonly model: string | null;
  readonly read: boolean;
  readonly taken: boolean;
  readonly problem: string | null;
  readonly filedAs: string | null;
  readonly alreadyFiled: { readonly confirmed: boolean } | null;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
  readonly copies: readonly { readonly place: string; readonly state: CopyState }[];
}

type Raw = Omit<CountedItem, 'filedAs' | 'alreadyFiled' | 'copies'> & {
  readonly filed: string | null;
  readonly confirmed: boolean | null;
  readonly states: string | null;
};

/**
 * The items of an intake that are counted, in capture order: what of ten thousand is read at every click, and nothing else.
 * Copies come as text, which is read once for each way in which they stand.
 */
export async function countedItems(db: Db, intakeId: number): Promise<CountedItem[]> {
  const rows = await db.query<Raw[]>(
    `select i.path, i.kind, i.bytes, i.make, i.model, i.read, i.taken, i.problem, i.contributor_id as "contributorId",
       i.assignment_id as "assignmentId", case when i.already_filed_id is not null then i.already_confirmed end as confirmed,
       f.folder || '/' || f.name as filed, c.states
     from item i left join filed_item f on f.item_id = i.id
     left join (select c.filed_item_id, string_agg(c.place_id || chr(10) || c.state, chr(11) order by c.place_id) as states
       from filed_item o join copy c on c.filed_item_id = o.id where o.intake_id = $1 group by 1) c on c.filed_item_id = f.id
     where i.intake_id = $1 and i.set_aside is null order by i.captured_local, i.path, i.id`,
    [intakeId],
  );
  const ways = new Map<string, CountedItem['copies']>();
  const read = (states: string): CountedItem['copies'] => {
    const known = ways.get(states);
    if (known) return known;
    const copies = states.split('\v').map((one) => {
      const [place, state] = one.split('\n') as [string, CopyState];
      return { place, state };
    });
    ways.set(states, copies);
    return copies;
  };
  return rows.map(({ filed, confirmed, states, ...item }) => ({
    ...item,
    filedAs: filed,
    alreadyFiled: confirmed === null ? null : { confirmed },
    copies: states === null ? NONE : read(states),
  }));
}

const NONE: CountedItem['copies'] = [];
