import type { BundleView } from '@tally/contract';
import type { Db } from '../../db/database.js';

type BundleLine = Omit<BundleView, 'usedAt'> & { readonly usedAt: string };

const BUNDLE = `b.id, b.name, b.parent_id as "parentId", b.note, b.items, b.made_by as "madeBy", b.revision,
  to_char(b.used_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "usedAt"`;

/** Every bundle, the one last used first. */
export async function allBundles(db: Db): Promise<BundleView[]> {
  return db.query<BundleLine[]>(`select ${BUNDLE} from bundle b order by b.used_at desc, b.id desc`);
}

export async function bundleById(db: Db, id: number): Promise<BundleView | null> {
  const rows = await db.query<BundleLine[]>(`select ${BUNDLE} from bundle b where b.id = $1`, [id]);
  return rows[0] ?? null;
}

/** Keeps everybody else from changing a bundle until the transaction ends. @returns it; null: there is none. */
export async function holdBundle(tx: Db, id: number): Promise<BundleView | null> {
  const rows = await tx.query<BundleLine[]>(`select ${BUNDLE} from bundle b where b.id = $1 for update`, [id]);
  return rows[0] ?? null;
}

export async function bundleCalled(db: Db, name: string): Promise<number | null> {
  const rows = await db.query<{ id: number }[]>('select id from bundle where lower(name) = lower($1) order by id limit 1', [
    name,
  ]);
  return rows[0]?.id ?? null;
}

export async function insertBundle(
  tx: Db,
  bundle: { name: string; parentId: number | null; note: string },
  who: string,
  at: Date,
): Promise<number> {
  const [{ id }] = await tx.query<[{ id: number }]>(
    'insert into bundle (name, parent_id, note, made_by, used_at) values ($1, $2, $3, $4, $5) returning id',
    [bundle.name, bundle.parentId, bundle.note, who, at],
  );
  return id;
}

export async function updateBundle(
  tx: Db,
  id: number,
  bundle: { name: string; parentId: number | null; note: string },
  at: Date,
): Promise<void> {
  await tx.query('update bundle set name = $2, parent_id = $3, note = $4, used_at = $5, revision = revision + 1 where id = $1', [
    id,
    bundle.name,
    bundle.parentId,
    bundle.note,
    at,
  ]);
}

/** Ids of the bundles that one stands in, from the inside out. Nobody moves any of them until the transaction ends. */
export async function bundlesAround(tx: Db, id: number): Promise<number[]> {
  await tx.query('select id from bundle order by id for update');
  const rows = await tx.query<{ id: number }[]>(
    `with recursive around as (select b.id, b.parent_id from bundle b where b.id = $1
       union select o.id, o.parent_id from around a join bundle o on o.id = a.parent_id)
     select id from around`,
    [id],
  );
  return rows.map((row) => row.id);
}

/** What stands in a bundle stands in the one around it from now on, or in none. */
export async function removeBundle(tx: Db, id: number): Promise<void> {
  await tx.query('update bundle set parent_id = (select o.parent_id from bundle o where o.id = $1) where parent_id = $1', [id]);
  await tx.query('delete from bundle where id = $1', [id]);
}

/** Puts items at the end of a bundle, in the order of the list. @returns how many were not in it. */
export async function putIntoBundle(tx: Db, id: number, itemIds: readonly number[], who: string): Promise<number> {
  const rows = await tx.query<{ id: number }[]>(
    `insert into bundle_item (bundle_id, item_id, position, added_by)
     select $1, m.id, coalesce((select max(b.position) from bundle_item b where b.bundle_id = $1), 0) + m.n, $3
     from unnest($2::int[]) with ordinality as m(id, n) join item i on i.id = m.id order by m.n
     on conflict do nothing returning item_id as id`,
    [id, itemIds, who],
  );
  return rows.length;
}

/** @returns how many were in it. */
export async function takeOutOfBundle(tx: Db, id: number, itemIds: readonly number[]): Promise<number> {
  const [, count]: [unknown, number] = await tx.query(
    'delete from bundle_item where bundle_id = $1 and item_id = any($2::int[])',
    [id, itemIds],
  );
  return count;
}

/** Items of a bundle in its order. */
export async function itemsOfBundle(db: Db, id: number): Promise<number[]> {
  const rows = await db.query<{ id: number }[]>(
    'select item_id as id from bundle_item where bundle_id = $1 order by position, item_id',
    [id],
  );
  return rows.map((row) => row.id);
}

/** Says the order of a bundle's items. */
export async function orderBundle(tx: Db, id: number, itemIds: readonly number[]): Promise<void> {
  await tx.query(
    `update bundle_item b set position = m.n from unnest($2::int[]) with ordinality as m(id, n)
     where b.bundle_id = $1 and b.item_id = m.id and b.position <> m.n`,
    [id, itemIds],
  );
}

export async function touchBundle(tx: Db, id: number, at: Date): Promise<void> {
  await tx.query('update bundle set used_at = $2 where id = $1', [id, at]);
}

export async function bundlesOfItem(db: Db, itemId: number): Promise<{ id: number; name: string }[]> {
  return db.query(
    'select b.id, b.name from bundle_item i join bundle b on b.id = i.bundle_id where i.item_id = $1 order by b.name',
    [itemId],
  );
}

/** The bundles that everything of an intake goes into as it is filed. */
export async function bundlesOfIntake(db: Db, intakeId: number): Promise<{ id: number; name: string }[]> {
  return db.query(
    'select b.id, b.name from intake_bundle i join bundle b on b.id = i.bundle_id where i.intake_id = $1 order by b.name',
    [intakeId],
  );
}

export async function setBundlesOfIntake(tx: Db, intakeId: number, bundleIds: readonly number[]): Promise<void> {
  await tx.query('delete from intake_bundle where intake_id = $1 and bundle_id <> all($2::int[])', [intakeId, bundleIds]);
  await tx.query(
    'insert into intake_bundle (intake_id, bundle_id) select $1, b.id from bundle b where b.id = any($2::int[]) on conflict do nothing',
    [intakeId, bundleIds],
  );
}

/** What of an intake is filed already, in the order of the card. */
export async function filedOfIntake(tx: Db, intakeId: number): Promise<number[]> {
  const rows = await tx.query<{ id: number }[]>(
    `select f.item_id as id from filed_item f join item i on i.id = f.item_id
     where f.intake_id = $1 and f.filed_at is not null order by i.captured_local, i.path`,
    [intakeId],
  );
  return rows.map((row) => row.id);
}
