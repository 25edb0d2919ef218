import type { IntakeRecord } from '@tally/contract';
import type { Checksum } from '@tally/core/manifest';
import type { Db } from './database.js';

/** Folders that an intake was filed into, with the places where its copies there tally. */
export async function foldersOfIntake(db: Db, intakeId: number): Promise<{ folder: string; placeIds: string[] }[]> {
  return db.query(
    `select f.folder, array_agg(distinct c.place_id) as "placeIds" from filed_item f join copy c on c.filed_item_id = f.id
     where f.intake_id = $1 and c.state = 'tallied' group by 1 order by 1`,
    [intakeId],
  );
}

/** Lets one process at a time write what explains a folder, until the transaction ends. */
export async function lockFolder(db: Db, foldedFolder: string): Promise<void> {
  await db.query('select pg_advisory_xact_lock(hashtext($1))', [`beside:${foldedFolder}`]);
}

/** Every file of a folder whose copy at a place tallies, whatever intake it came by. */
export async function talliedIn(db: Db, foldedFolder: string, placeId: string): Promise<Checksum[]> {
  return db.query(
    `select f.name, encode(f.hash, 'hex') as hash from filed_item f join copy c on c.filed_item_id = f.id
     where f.folded_folder = $1 and c.place_id = $2 and c.state = 'tallied' and f.hash is not null`,
    [foldedFolder, placeId],
  );
}

/** What the logbook knows of the items of an intake in a folder, as a record holds it. */
export async function recordedItems(db: Db, intakeId: number, folder: string): Promise<IntakeRecord['items']> {
  const instant = (column: string) => `to_char(${column} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
  return db.query(
    `select f.name, i.path as "from", f.bytes, i.kind, encode(f.hash, 'hex') as xxh128, ${instant('f.filed_at')} as "filedAt",
       ${instant('i.modified_at')} as "modifiedAt",
       json_build_object('local', i.captured_local, 'offsetMinutes', i.captured_offset, 'source', i.capture_source,
         'original', i.capture_original, 'camera', i.camera_local) as captured,
       i.make, i.model, i.serial,
       case when k.id is not null then json_build_object('code', k.code, 'name', k.name) end as contributor,
       case when a.id is not null then json_build_object('slug', a.slug, 'title', a.title) end as assignment,
       i.verdict, i.description, i.role, i.profile
     from filed_item f join item i on i.id = f.item_id
     left join contributor k on k.id = i.contributor_id left join assignment a on a.id = i.assignment_id
     where f.intake_id = $1 and f.folder = $2 and f.hash is not null order by f.name`,
    [intakeId, folder],
  );
}
