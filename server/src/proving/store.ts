import { holdUntilEnd } from '../db/locks.js';
import type { IntakeRecord } from '@tally/contract';
import type { Db } from '../db/database.js';

/** A folder at a place whose lists, and whose record of an intake, are to be written. */
export interface BesideDue {
  readonly intakeId: number;
  readonly folder: string;
  readonly placeId: string;
  readonly problem: string | null;
}

/** Takes the next one that is due, at one of these places, of an intake that is not being filed. Others skip it until the transaction ends. */
export async function nextDue(db: Db, placeIds: readonly string[]): Promise<BesideDue | null> {
  const rows: BesideDue[] = await db.query(
    `select d.intake_id as "intakeId", d.folder, d.place_id as "placeId", d.problem from beside_due d join intake i on i.id = d.intake_id
     where d.place_id = any($1::text[]) and d.due_at <= now() and i.state <> 'filing'
     order by d.due_at, d.intake_id limit 1 for update of d skip locked`,
    [placeIds],
  );
  return rows[0] ?? null;
}

export async function doneWith(db: Db, { intakeId, folder, placeId }: BesideDue): Promise<void> {
  await db.query('delete from beside_due where intake_id = $1 and folder = $2 and place_id = $3', [intakeId, folder, placeId]);
}

export async function tryLater(
  db: Db,
  { intakeId, folder, placeId }: BesideDue,
  problem: string,
  minutes: number,
): Promise<void> {
  await db.query(
    `update beside_due set problem = $4, due_at = now() + make_interval(mins => $5) where intake_id = $1 and folder = $2 and place_id = $3`,
    [intakeId, folder, placeId, problem, minutes],
  );
}

/** Lets one process at a time write what explains a folder, until the transaction ends. */
export async function lockFolder(db: Db, placeId: string, foldedFolder: string): Promise<void> {
  await holdUntilEnd(db, 'beside', `${placeId}:${foldedFolder}`);
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

/** Every file of a folder whose copy at a place tallies, whatever intake it came by. */
export async function talliedIn(db: Db, foldedFolder: string, placeId: string): Promise<TalliedFile[]> {
  return db.query(
    `select ${BELOW} as name, encode(f.hash, 'hex') as hash, f.bytes, i.modified_at as "modifiedAt", coalesce(c.tallied_at, f.filed_at) as "talliedAt"
     from filed_item f join copy c on c.filed_item_id = f.id join item i on i.id = f.item_id
     where f.folded_list_folder = $1 and c.place_id = $2 and c.state = 'tallied' and f.hash is not null order by 1`,
    [foldedFolder, placeId],
  );
}

/** What the logbook knows of the items of an intake in a folder, as a record holds it. */
export async function recordedItems(
  db: Db,
  intakeId: number,
  folder: string,
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
       i.verdict, i.description, i.role, i.profile, i.id as "itemId"
     from filed_item f join item i on i.id = f.item_id
     left join contributor k on k.id = i.contributor_id left join assignment a on a.id = i.assignment_id
     where f.intake_id = $1 and f.list_folder = $2 and f.hash is not null order by 1`,
    [intakeId, folder],
  );
}

/** Items of an intake that somebody set aside. */
export async function asideItems(db: Db, intakeId: number): Promise<IntakeRecord['aside']> {
  return db.query(
    `select path as "from", aside as reason, aside_by as by from item where intake_id = $1 and aside is not null order by path`,
    [intakeId],
  );
}
