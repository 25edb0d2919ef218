import type { IntakeRecord } from '@tally/contract';
import { ASIDE_FOLDER } from '@tally/core/drive';
import type { Db } from '../../db/database.js';
import { nameOfWord } from '../../people/index.js';

/** Path of a file from where its lists stand: its name, or what it is called as on the card. */
const BELOW = `ltrim(substr(f.folder, length(f.list_folder) + 1) || '/' || f.name, '/')`;

const instant = (column: string) => `to_char(${column} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
const hex = (column: string) => `encode(${column}, 'hex')`;

/** What was said of an item or an intake itself, by the names of terms and location. @param of the row that has it */
const said = (of: string) => `'creditLine', ${of}.credit_line, 'copyrightNotice', ${of}.copyright_notice,
  'terms', (select t.name from terms t where t.id = ${of}.terms_id), 'location', (select l.name from location l where l.id = ${of}.location_id)`;

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
  return db.query(
    `select ${BELOW} as name, i.path as "from", f.bytes, i.kind, ${hex('f.hash')} as xxh128, ${instant('f.filed_at')} as "filedAt",
       ${instant('i.modified_at')} as "modifiedAt", ${hex('f.quick_hash')} as fast, f.n, ${instant('c.tallied_at')} as "talliedAt", c.proof,
       case when convert_to(i.path, 'UTF8') <> i.path_bytes then encode(i.path_bytes, 'base64') end as "fromBytes",
       json_build_object('local', i.captured_local, 'offsetMinutes', i.captured_offset, 'source', i.capture_source,
         'original', i.capture_original, 'camera', i.camera_local, 'cameraOffsetMinutes', i.camera_offset, 'shiftSeconds', i.clock_shift_s) as captured,
       i.make, i.model, i.serial, i.remark, i.clip, i.embedded as came,
       case when k.id is not null then json_build_object('code', k.code, 'name', k.name) end as contributor,
       case when a.id is not null then json_build_object('slug', a.slug, 'title', a.title) end as assignment,
       i.verdict, i.description, i.role, i.profile, i.id as "itemId",
       json_build_object('leader', i.leader, 'role', i.object_role, 'part', i.part, 'parts', i.parts, 'structure', i.structure,
         'root', i.structure_root, 'series', i.series) as object,
       json_build_object('width', i.width, 'height', i.height, 'durationMs', i.duration_ms, 'orientation', i.orientation,
         'turned', i.turned, 'useFromMs', i.use_from_ms, 'useToMs', i.use_to_ms) as picture,
       json_build_object(${said('o')}, 'lat', o.lat, 'lon', o.lon, 'standing', coalesce(o.standing, '{}'),
         'keywords', coalesce((select json_agg(json_build_object('text', ${nameOfWord('w.word_id')}, 'has', w.has) order by w.word_id)
           from item_word w where w.item_id = i.id), '[]')) as says,
       coalesce((select json_agg(json_build_object('path', p.path, 'until', ${instant('p.until')}) order by p.id)
         from former_path p where p.filed_item_id = f.id), '[]') as formerly,
       case when starts_with(f.folder || '/', $4) then (
         select json_build_object('path', v.from_path, 'by', m.who, 'at', ${instant('m.at')}, 'words', m.words, 'until', to_char(m.kept_until, 'YYYY-MM-DD'))
         from mend_move v join mend m on m.id = v.mend_id
         where v.filed_item_id = f.id and v.to_path = concat_ws('/', f.folder, f.name) and m.kept_until is not null order by v.id desc limit 1) end as bin,
       case when w.how = 'inside' then json_build_object('bytes', w.bytes, 'xxh128', ${hex('w.hash')}, 'fast', ${hex('w.quick_hash')},
         'as', w.fingerprint, 'undo', w.undo) end as inside,
       case when w.how = 'beside' then json_build_object('name', ${BELOW} || '.xmp', 'bytes', coalesce(s.bytes, w.bytes),
         'xxh128', ${hex('coalesce(s.hash, w.hash)')}, 'as', w.fingerprint, 'why', w.reason) end as beside
     from filed_item f join item i on i.id = f.item_id
     left join copy c on c.filed_item_id = f.id and c.place_id = $3 and c.state = 'tallied'
     left join item_credit o on o.item_id = i.id
     left join credit_stands s on s.filed_item_id = f.id and s.place_id = $3
     left join credit_written w on w.filed_item_id = s.filed_item_id and w.version = s.version
     left join contributor k on k.id = i.contributor_id left join assignment a on a.id = i.assignment_id
     where f.intake_id = $1 and f.list_folder = $2 and f.hash is not null order by 1`,
    [intakeId, folder, placeId, `${ASIDE_FOLDER}/`],
  );
}

/** Items of an intake that somebody set aside. */
export async function asideItems(db: Db, intakeId: number): Promise<IntakeRecord['aside']> {
  return db.query(
    `select path as "from", aside as reason, aside_by as by from item where intake_id = $1 and aside is not null order by path`,
    [intakeId],
  );
}

/** Of an intake what no folder of it says: what its slip says itself, where it lay, what it drew. */
export async function recordedIntake(
  db: Db,
  intakeId: number,
): Promise<Pick<IntakeRecord, 'state' | 'source' | 'adopted' | 'says' | 'drawn'>> {
  const [row] = await db.query<[Pick<IntakeRecord, 'state' | 'source' | 'adopted' | 'says' | 'drawn'>]>(
    `select n.state, n.source_path as source, n.drawn,
       case when n.adopted_at is not null then json_build_object('place', n.adopted_at, 'folder', coalesce(n.adopted_folder, '')) end as adopted,
       json_build_object(${said('n')}, 'keywords', coalesce((select json_agg(${nameOfWord('w.word_id')} order by w.word_id)
         from intake_word w where w.intake_id = n.id), '[]')) as says
     from intake n where n.id = $1`,
    [intakeId],
  );
  return row;
}

/** What of an intake's card was not filed, and why; in the order of paths. */
export async function leftItems(db: Db, intakeId: number): Promise<IntakeRecord['left']> {
  return db.query(
    `select i.path as "from", i.bytes, i.kind, ${instant('i.modified_at')} as "modifiedAt", ${hex('i.quick_hash')} as fast, i.captured_local as captured,
       coalesce(i.problem, i.set_aside) as reason, nullif(concat_ws('/', nullif(f.folder, ''), f.name), '') as at,
       case when i.already_filed_id is not null and i.already_confirmed then 'already filed' when i.aside is not null then 'aside'
         when i.problem is not null then 'cannot be filed' when i.set_aside is not null then 'no material' when i.taken then 'not yet' else 'left' end as why, i.taken as "toFile"
     from item i left join filed_item f on f.id = i.already_filed_id and i.already_confirmed
     where i.intake_id = $1 and not exists (select from filed_item o where o.item_id = i.id) order by i.path`,
    [intakeId],
  );
}

/**
 * What the log tells of an intake, oldest first. What is told of writing beside files is not in what is written there, nor what
 * may name somebody who is being erased from the log: once that is done it is written anew.
 */
export async function recordedEvents(db: Db, intakeId: number): Promise<IntakeRecord['events']> {
  return db.query(
    `select ${instant('at')} as at, kind, event.who, text, case when kind = 'receipt' then data->>'name' end as receipt
     from event where intake_id = $1 and kind <> 'manifest' and not exists (select from erasing e, unnest(e.names || e.lines) as w (words)
       where w.words <> '' and strpos(lower(concat_ws(' ', event.who, text)), lower(split_part(w.words, ' ', 1))) > 0) order by id`,
    [intakeId],
  );
}
