import { pathIn } from '@tally/core/rule';
import { type Db, inTransaction } from '../db/database.js';
import { takeUpCopies, type Unfinished } from '../filing/index.js';

/** A copy that a place waits for, and a place it can be made from. */
export interface Fillable extends Unfinished {
  readonly intakeId: number;
  readonly sourceId: string;
  /** Number of what was put into the source; 0: nothing. Size and hashes are those of the source as it stands. */
  readonly version: number;
}

/** What a place waits for of what tallies at another place that is here, the oldest first. Not of intakes being filed. */
export async function fillable(db: Db, placeId: string, sources: readonly string[], limit: number): Promise<Fillable[]> {
  const rows: Omit<Fillable, 'pathBytes' | 'waiting' | 'path'>[] = await db.query(
    `select f.id as "filedItemId", f.item_id as "itemId", coalesce(w.bytes, f.bytes) as bytes, i.modified_at as "modifiedAt", f.folder, f.name,
       coalesce(w.hash, f.hash) as hash, coalesce(w.quick_hash, f.quick_hash) as "quickHash", coalesce(w.version, 0) as version,
       f.intake_id as "intakeId", s.tallied, s.tallied[1] as "sourceId"
     from copy c join filed_item f on f.id = c.filed_item_id join item i on i.id = f.item_id join intake n on n.id = f.intake_id
       join lateral (select array_agg(t.place_id order by p.position) as tallied from copy t join place p on p.id = t.place_id
         where t.filed_item_id = f.id and t.state = 'tallied' and t.place_id = any($2::text[]) and not is_moving(f.id, t.place_id)) s on s.tallied is not null
       left join credit_stands cs on cs.filed_item_id = f.id and cs.place_id = s.tallied[1]
       left join credit_written w on w.filed_item_id = f.id and w.version = cs.version and w.how = 'inside'
     where c.place_id = $1 and c.state <> 'tallied' and c.state in ('waiting', 'copying') and n.state <> 'filing' and f.hash is not null and not is_moving(f.id, c.place_id)
     order by c.filed_item_id limit $3`,
    [placeId, sources, limit],
  );
  return rows.map((row) => {
    const path = pathIn(row.folder, row.name);
    return { ...row, path, pathBytes: Buffer.from(path), waiting: [placeId] };
  });
}

/**
 * Says of copies that they are being made, so that whoever gives their items other names from now on gives them to these, too.
 * @returns those whose items are still called so.
 */
export async function takenUp(db: Db, placeId: string, batch: readonly Fillable[]): Promise<Fillable[]> {
  if (!batch.length) return [];
  const ids = batch.map(({ filedItemId }) => filedItemId);
  const still = await inTransaction(db, async (tx) => {
    const named = await tx.query<{ id: number; folder: string; name: string }[]>(
      'select id, folder, name from filed_item where id = any($1::int[]) order by id for share',
      [ids],
    );
    const now = new Map(named.map(({ id, folder, name }) => [id, pathIn(folder, name)]));
    const same = batch.filter(({ filedItemId, path }) => now.get(filedItemId) === path).map(({ filedItemId }) => filedItemId);
    return new Set(await takeUpCopies(tx, placeId, same));
  });
  return batch.filter(({ filedItemId }) => still.has(filedItemId));
}

/** Places that wait for copies which can be made from another copy. */
export async function placesWaiting(db: Db): Promise<string[]> {
  const rows = await db.query<{ id: string }[]>(
    `select p.id from place p where (select sum(t.open) from place_total t where t.place_id = p.id) > 0 and exists (
       select from copy c join filed_item f on f.id = c.filed_item_id join intake i on i.id = f.intake_id
       where c.place_id = p.id and c.state <> 'tallied' and c.state in ('waiting', 'copying') and f.hash is not null and i.state <> 'filing')`,
  );
  return rows.map(({ id }) => id);
}
