import type { Db } from '../../db/database.js';

/** The same bytes stand on the drive once every place that is filled with the card has them; a place filled later may lag. */
const STANDS = `not exists (
  select from copy c join place p on p.id = c.place_id
  where c.filed_item_id = f.id and c.state <> 'tallied' and p.fill = 'with the card')`;

/** Marks items whose size and fast identity equal a filed item's: likely the same bytes. @returns those marked now. */
export async function markAlreadyFiled(
  db: Db,
  intakeId: number,
): Promise<{ id: number; pathBytes: Buffer; bytes: number; hash: Buffer }[]> {
  const [rows]: [{ id: number; pathBytes: Buffer; bytes: number; hash: Buffer }[]] = await db.query(
    `update item i set already_filed_id = f.id from filed_item f
     where i.intake_id = $1 and i.already_filed_id is null and i.quick_hash is not null and i.set_aside is null
       and f.bytes = i.bytes and f.quick_hash = i.quick_hash and f.hash is not null and f.item_id <> i.id
       and not exists (select from filed_item own where own.item_id = i.id)
       and ${STANDS}
     returning i.id, i.path_bytes as "pathBytes", i.bytes, f.hash`,
    [intakeId],
  );
  return rows;
}

/** Says whether the full comparison bore out the fast one. */
export async function settleAlreadyFiled(db: Db, same: readonly number[], different: readonly number[]): Promise<void> {
  await db.query('update item set already_confirmed = true where id = any($1::int[])', [same]);
  await db.query('update item set already_filed_id = null where id = any($1::int[])', [different]);
}

/** Filed items with these sizes and fast identities, for a card that is not in the database. */
export async function filedByIdentity(
  db: Db,
  identities: readonly { bytes: number; quickHash: Buffer }[],
): Promise<{ bytes: number; quickHash: Buffer; hash: Buffer; path: string }[]> {
  return db.query(
    `select f.bytes, f.quick_hash as "quickHash", f.hash, concat_ws('/', nullif(f.folder, ''), f.name) as path
     from unnest($1::bigint[], $2::bytea[]) as q(bytes, quick_hash) join filed_item f using (bytes, quick_hash)
     where f.hash is not null and ${STANDS}`,
    [identities.map((i) => i.bytes), identities.map((i) => i.quickHash)],
  );
}
