import type { Db } from '../../db/database.js';

/**
 * The same bytes stand on the drive once every place that is filled with the card has them; a place filled later may lag.
 * A value, not a condition: asked of each filed item that was found, by its copies, however many copies of others wait.
 */
const STANDS = `coalesce((
  select bool_and(c.state = 'tallied' or p.fill <> 'with the card') from copy c join place p on p.id = c.place_id
  where c.filed_item_id = f.id), true)`;

/**
 * Marks items whose size and fast identity equal a filed item's, as it came or with its credit inside: likely the same
 * bytes. @returns how many were marked now.
 */
export async function markAlreadyFiled(db: Db, intakeId: number): Promise<number> {
  const [, count]: [unknown, number] = await db.query(
    `update item i set already_filed_id = f.id from filed_item f
     where i.intake_id = $1 and i.already_filed_id is null and i.quick_hash is not null and i.set_aside is null
       and f.bytes = i.bytes and f.quick_hash = i.quick_hash and f.hash is not null and f.item_id <> i.id
       and not exists (select from filed_item own where own.item_id = i.id)
       and ${STANDS}`,
    [intakeId],
  );
  const [, again]: [unknown, number] = await db.query(
    `update item i set already_filed_id = f.id from credit_written w join filed_item f on f.id = w.filed_item_id
     where i.intake_id = $1 and i.already_filed_id is null and i.quick_hash is not null and i.set_aside is null
       and w.how = 'inside' and w.bytes = i.bytes and w.quick_hash = i.quick_hash and f.item_id <> i.id
       and not exists (select from filed_item own where own.item_id = i.id)
       and ${STANDS}`,
    [intakeId],
  );
  return count + again;
}

/** Items of an intake that look as if they were filed, and were not compared yet. */
export async function comparing(db: Db, intakeId: number): Promise<{ id: number; pathBytes: Buffer }[]> {
  return db.query(
    `select id, path_bytes as "pathBytes" from item where intake_id = $1 and already_filed_id is not null and not already_confirmed
     order by captured_local, path`,
    [intakeId],
  );
}

/**
 * Says what comparing all bytes of an item found: the filed item that has the same, whichever of those that looked like it
 * that is; else it is not filed. @param hash null: it could not be read.
 */
export async function settleAlreadyFiled(db: Db, itemId: number, hash: Buffer | null): Promise<void> {
  await db.query(
    `update item i set already_filed_id = s.id, already_confirmed = s.id is not null
     from (select coalesce(
       (select f.id from item o join filed_item f on f.bytes = o.bytes and f.quick_hash = o.quick_hash
         where o.id = $1 and f.hash = $2 and f.item_id <> o.id and ${STANDS} order by f.id limit 1),
       (select f.id from item o join credit_written w on w.how = 'inside' and w.bytes = o.bytes and w.quick_hash = o.quick_hash
           join filed_item f on f.id = w.filed_item_id
         where o.id = $1 and w.hash = $2 and f.item_id <> o.id and ${STANDS} order by f.id limit 1)) as id) s
     where i.id = $1`,
    [itemId, hash],
  );
}

/** Filed items with these sizes and fast identities, for a card that is not in the database. */
export async function filedByIdentity(
  db: Db,
  identities: readonly { bytes: number; quickHash: Buffer }[],
): Promise<{ bytes: number; quickHash: Buffer; hash: Buffer; path: string }[]> {
  return db.query(
    `select f.bytes, f.quick_hash as "quickHash", f.hash, concat_ws('/', nullif(f.folder, ''), f.name) as path
     from unnest($1::bigint[], $2::bytea[]) as q(bytes, quick_hash) join filed_item f using (bytes, quick_hash)
     where f.hash is not null and ${STANDS}
     union all select w.bytes, w.quick_hash, w.hash, concat_ws('/', nullif(f.folder, ''), f.name)
     from unnest($1::bigint[], $2::bytea[]) as q(bytes, quick_hash) join credit_written w using (bytes, quick_hash)
       join filed_item f on f.id = w.filed_item_id
     where w.how = 'inside' and ${STANDS}`,
    [identities.map((i) => i.bytes), identities.map((i) => i.quickHash)],
  );
}
