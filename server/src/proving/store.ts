import type { Db } from '../db/database.js';

/** A folder at a place whose lists, and whose record of an intake, are to be written. */
export interface BesideDue {
  readonly intakeId: number;
  readonly folder: string;
  readonly placeId: string;
  readonly problem: string | null;
  /** Since when, as the database writes it: what becomes due again is told from it. */
  readonly since: string;
}

/**
 * What is due first at these places, of intakes that are not being filed.
 * @param passed folders at places that somebody else is at.
 * @param besideAdopted is anything written where files were adopted?
 */
export async function nextDue(
  db: Db,
  placeIds: readonly string[],
  passed: readonly Pick<BesideDue, 'placeId' | 'folder'>[],
  besideAdopted = true,
): Promise<BesideDue | null> {
  const rows: BesideDue[] = await db.query(
    `select d.intake_id as "intakeId", d.folder, d.place_id as "placeId", d.problem, d.due_at::text as since from beside_due d join intake i on i.id = d.intake_id
     where d.place_id = any($1::text[]) and d.due_at <= now() and i.state <> 'filing' and ($4 or i.adopted_at is distinct from d.place_id)
       and not exists (select from mend_move m where m.place_id = d.place_id and m.state = 'waiting' and m.what in ('file', 'folder'))
       and not exists (select from unnest($2::text[], $3::text[]) as p(place_id, folder) where p.place_id = d.place_id and p.folder = d.folder)
     order by d.due_at, d.intake_id limit 1`,
    [placeIds, passed.map(({ placeId }) => placeId), passed.map(({ folder }) => folder), besideAdopted],
  );
  return rows[0] ?? null;
}

/** Is it still due, and does nothing at its place wait for another name? */
export async function isDue(db: Db, { intakeId, folder, placeId }: BesideDue): Promise<boolean> {
  const [{ due }] = await db.query<[{ due: boolean }]>(
    `select exists (select from beside_due where intake_id = $1 and folder = $2 and place_id = $3 and due_at <= now())
       and not exists (select from mend_move where place_id = $3 and state = 'waiting' and what in ('file', 'folder')) as due`,
    [intakeId, folder, placeId],
  );
  return due;
}

/** What became due again in the meantime stays. */
export async function doneWith(db: Db, { intakeId, folder, placeId, since }: BesideDue): Promise<void> {
  await db.query('delete from beside_due where intake_id = $1 and folder = $2 and place_id = $3 and due_at::text = $4', [
    ...[intakeId, folder, placeId, since],
  ]);
}

/** Lists and records of these folders are due. Triggers write the same rows: call it in a transaction that is tried again. */
export async function folderDue(
  db: Db,
  due: readonly { readonly intakeId: number; readonly folder: string; readonly placeId: string }[],
): Promise<void> {
  await db.query(
    `insert into beside_due (intake_id, folder, place_id) select distinct * from unnest($1::int[], $2::text[], $3::text[]) order by 1, 2, 3
     on conflict (intake_id, folder, place_id) do update set due_at = now()`,
    [due.map(({ intakeId }) => intakeId), due.map(({ folder }) => folder), due.map(({ placeId }) => placeId)],
  );
}

export async function tryLater(
  db: Db,
  { intakeId, folder, placeId, since }: BesideDue,
  problem: string,
  minutes: number,
): Promise<void> {
  await db.query(
    `update beside_due set problem = $5, due_at = now() + make_interval(mins => $6)
     where intake_id = $1 and folder = $2 and place_id = $3 and due_at::text = $4`,
    [intakeId, folder, placeId, since, problem, minutes],
  );
}

/** Where the credit of items stands, at each place that has them, and how many folders there are still to follow. */
export async function standingOfItems(
  db: Db,
  itemIds: readonly number[],
): Promise<{ place: string; inside: number; beside: number; records: number; behind: number }[]> {
  return db.query(
    `select p.name as place, count(*) filter (where w.how = 'inside')::int as inside, count(*) filter (where w.how = 'beside')::int as beside,
       count(*) filter (where w.how is null or w.how = 'none')::int as records,
       (select count(*)::int from beside_due d where d.place_id = p.id and d.intake_id in (select o.intake_id from item o where o.id = any($1::int[]))) as behind
     from filed_item f join copy c on c.filed_item_id = f.id join place p on p.id = c.place_id
       left join credit_stands s on s.filed_item_id = f.id and s.place_id = p.id
       left join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version
     where f.item_id = any($1::int[]) and c.state = 'tallied' group by p.id order by p.position`,
    [itemIds],
  );
}

/** Names of the receipts that the log says were made of an intake. */
export async function receiptsTold(db: Db, intakeId: number): Promise<string[]> {
  const rows = await db.query<{ name: string }[]>(
    `select data->>'name' as name from event where intake_id = $1 and kind = 'receipt' and data->>'name' is not null`,
    [intakeId],
  );
  return rows.map(({ name }) => name);
}
