import type { IntakeRecord } from '@tally/contract';
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

/** Path of a file from where its lists stand: its name, or what it is called as on the card. */
const BELOW = `ltrim(substr(f.folder, length(f.list_folder) + 1) || '/' || f.name, '/')`;

/** A file of a folder that tallies. */
export interface TalliedFile {
  readonly name: string;
  /** XXH128 as hexadecimal digits. */
  readonly hash: string;
  readonly bytes: number;
  readonly modifiedAt: Date;
  readonly talliedAt: Date;
}

/**
 * Every file of a folder whose copy at a place tallies, whatever intake it came by, as it stands there; and every sidecar
 * of ours beside them.
 */
export async function talliedIn(db: Db, foldedFolder: string, placeId: string): Promise<TalliedFile[]> {
  return db.query(
    `with file as materialized (
       select ${BELOW} as name, f.hash, f.bytes, i.modified_at, coalesce(c.tallied_at, f.filed_at) as tallied_at, w.how, w.hash as written,
         w.bytes as written_bytes, s.hash as stands, s.bytes as stands_bytes
       from filed_item f join copy c on c.filed_item_id = f.id join item i on i.id = f.item_id
         left join credit_stands s on s.filed_item_id = f.id and s.place_id = c.place_id
         left join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version
       where f.folded_list_folder = $1 and c.place_id = $2 and c.state = 'tallied' and f.hash is not null)
     select name, encode(case when how = 'inside' then written else hash end, 'hex') as hash, case when how = 'inside' then written_bytes else bytes end as bytes,
       modified_at as "modifiedAt", tallied_at as "talliedAt" from file
     union all select name || '.xmp', encode(coalesce(stands, written), 'hex'), coalesce(stands_bytes, written_bytes), modified_at, tallied_at
       from file where how = 'beside' order by 1`,
    [foldedFolder, placeId],
  );
}

/** What the logbook knows of the items of an intake in a folder, as a record at a place holds it. */
export async function recordedItems(
  db: Db,
  intakeId: number,
  folder: string,
  placeId: string,
): Promise<(Omit<IntakeRecord['items'][number], 'credit'> & { itemId: number })[]> {
  const instant = (column: string) => `to_char(${column} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
  return db.query(
    `select ${BELOW} as name, i.path as "from", f.bytes, i.kind, encode(f.hash, 'hex') as xxh128, ${instant('f.filed_at')} as "filedAt",
       ${instant('i.modified_at')} as "modifiedAt",
       json_build_object('local', i.captured_local, 'offsetMinutes', i.captured_offset, 'source', i.capture_source,
         'original', i.capture_original, 'camera', i.camera_local) as captured,
       i.make, i.model, i.serial,
       case when k.id is not null then json_build_object('code', k.code, 'name', k.name) end as contributor,
       case when a.id is not null then json_build_object('slug', a.slug, 'title', a.title) end as assignment,
       i.verdict, i.description, i.role, i.profile, i.id as "itemId",
       case when w.how = 'inside' then json_build_object('bytes', w.bytes, 'xxh128', encode(w.hash, 'hex'), 'undo', w.undo) end as inside,
       case when w.how = 'beside' then json_build_object('name', ${BELOW} || '.xmp', 'bytes', coalesce(s.bytes, w.bytes),
         'xxh128', encode(coalesce(s.hash, w.hash), 'hex')) end as beside
     from filed_item f join item i on i.id = f.item_id
     left join credit_stands s on s.filed_item_id = f.id and s.place_id = $3
     left join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version
     left join contributor k on k.id = i.contributor_id left join assignment a on a.id = i.assignment_id
     where f.intake_id = $1 and f.list_folder = $2 and f.hash is not null order by 1`,
    [intakeId, folder, placeId],
  );
}

/** Items of an intake that somebody set aside. */
export async function asideItems(db: Db, intakeId: number): Promise<IntakeRecord['aside']> {
  return db.query(
    `select path as "from", aside as reason, aside_by as by from item where intake_id = $1 and aside is not null order by path`,
    [intakeId],
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
