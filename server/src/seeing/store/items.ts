import type { ItemView } from '@tally/contract';
import type { Item } from '../../db/entities/intake.js';
import type { CaptureTime } from '@tally/core/capture';
import type { Kind } from '@tally/core/card';
import type { Db } from '../../db/database.js';
import { nameOfWord } from '../../people/index.js';

/** A file as a listing of a card gives it, with what its path alone tells. */
export type ListedItem = Readonly<
  Pick<Item, 'path' | 'pathBytes' | 'bytes' | 'modifiedAt' | 'kind' | 'leader' | 'setAside' | 'problem'> &
    Pick<Item, 'objectRole' | 'part' | 'parts' | 'structure' | 'structureRoot' | 'series'>
> & { readonly captured: CaptureTime };

/** What reading a file's metadata adds; `remark` is what is odd about it, it is filed all the same. */
export type ReadItem = Readonly<
  Pick<
    Item,
    | 'id'
    | 'make'
    | 'model'
    | 'serial'
    | 'width'
    | 'height'
    | 'durationMs'
    | 'orientation'
    | 'remark'
    | 'quickHash'
    | 'clip'
    | 'embedded'
  >
> & { readonly captured: CaptureTime };

/** An item as the use cases see it: as it is shown, and what is not for everybody. */
export type ItemRow = Readonly<Omit<ItemView, 'captured'>> &
  Readonly<Pick<Item, 'pathBytes' | 'modifiedAt' | 'quickHash' | 'cameraLocal' | 'clockShiftS' | 'version'>> & {
    readonly captured: CaptureTime;
  };

/** Text as PostgreSQL can keep it: it knows no NUL. */
export const storable = (value: string) => value.replaceAll('\0', '\uFFFD');

const storableJson = (value: object | null) => value && storable(JSON.stringify(value)).replaceAll('\\u0000', '');

/** Adds the items of a card, a thousand in one statement. @param taken whether new items count as taken at first. */
export async function addItems(db: Db, intakeId: number, items: readonly ListedItem[], taken = true): Promise<void> {
  for (let from = 0; from < items.length; from += 1000) {
    const some = items.slice(from, from + 1000);
    await db.query(
      `insert into item (intake_id, path, path_bytes, bytes, modified_at, kind, leader, set_aside, problem,
         captured_local, captured_offset, capture_source, capture_original, object_role, part, parts, structure, structure_root, series,
         camera_local, camera_offset, read, taken, already_confirmed)
       select $1, i.*, i.local, i."offset", i.set_aside is not null or i.problem is not null, $20 and i.set_aside is null and i.problem is null, false
       from unnest($2::text[], $3::bytea[], $4::bigint[], $5::timestamptz[], $6::text[], $7::text[], $8::text[], $9::text[],
         $10::text[], $11::int[], $12::text[], $13::text[], $14::text[], $15::int[], $16::int[], $17::text[], $18::text[], $19::text[])
         as i(path, path_bytes, bytes, modified_at, kind, leader, set_aside, problem, local, "offset", source, original,
           object_role, part, parts, structure, structure_root, series)`,
      [
        intakeId,
        some.map((item) => storable(item.path)),
        some.map((item) => item.pathBytes),
        some.map((item) => item.bytes),
        some.map((item) => item.modifiedAt),
        some.map((item) => item.kind),
        some.map((item) => storable(item.leader)),
        some.map((item) => item.setAside),
        some.map((item) => item.problem),
        some.map((item) => item.captured.local),
        some.map((item) => item.captured.offsetMinutes),
        some.map((item) => item.captured.source),
        some.map((item) => item.captured.original),
        some.map((item) => item.objectRole),
        some.map((item) => item.part),
        some.map((item) => item.parts),
        some.map((item) => item.structure),
        some.map((item) => item.structureRoot && storable(item.structureRoot)),
        some.map((item) => item.series && storable(item.series)),
        taken,
      ],
    );
  }
}

/** Writes what was read of items, all in one statement. */
export async function writeRead(db: Db, items: readonly ReadItem[]): Promise<void> {
  await db.query(
    `update item set captured_local = r.local, camera_local = r.local, camera_offset = r."offset", clock_shift_s = 0, captured_offset = r."offset", capture_source = r.source, capture_original = r.original,
       make = r.make, model = r.model, serial = r.serial, width = r.width, height = r.height, duration_ms = r.duration_ms,
       orientation = r.orientation, remark = r.remark, quick_hash = r.quick_hash, clip = r.clip::jsonb, embedded = r.embedded::jsonb, read = true
     from unnest($1::int[], $2::text[], $3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::int[], $10::int[],
       $11::int[], $12::int[], $13::text[], $14::bytea[], $15::text[], $16::text[])
       as r(id, local, "offset", source, original, make, model, serial, width, height, duration_ms, orientation, remark, quick_hash, clip, embedded)
     where item.id = r.id`,
    [
      items.map((item) => item.id),
      items.map((item) => item.captured.local),
      items.map((item) => item.captured.offsetMinutes),
      items.map((item) => item.captured.source),
      items.map((item) => storable(item.captured.original)),
      items.map((item) => item.make && storable(item.make)),
      items.map((item) => item.model && storable(item.model)),
      items.map((item) => item.serial && storable(item.serial)),
      items.map((item) => item.width),
      items.map((item) => item.height),
      items.map((item) => item.durationMs),
      items.map((item) => item.orientation),
      items.map((item) => item.remark),
      items.map((item) => item.quickHash),
      items.map((item) => storableJson(item.clip)),
      items.map((item) => storableJson(item.embedded)),
    ],
  );
}

const RAW_GONE = { local: undefined, offset: undefined, source: undefined, original: undefined };
const NO_COPIES: ItemRow['copies'] = [];

interface RawItem extends Omit<ItemRow, 'captured' | 'copies'> {
  local: string;
  offset: number | null;
  source: CaptureTime['source'];
  original: string;
  copies: ItemRow['copies'] | null;
}

/** What is known of the copies of an intake changed: whoever asks for what is new gets its items again. */
export async function touchItems(db: Db, intakeId: number): Promise<void> {
  await db.query('update item set version = version where intake_id = $1', [intakeId]);
}

/** Items with their places, in capture order. @param of a condition on `item`, without its alias; $2: after which version */
const itemRows = (
  of: string,
) => `select i.id, i.path, i.path_bytes as "pathBytes", i.bytes, i.modified_at as "modifiedAt", i.kind, i.leader,
       i.object_role as "objectRole", i.part, i.parts, i.structure, i.structure_root as "structureRoot", i.series, i.clip,
       i.set_aside as "setAside", i.problem, i.remark, i.captured_local as local, i.captured_offset as offset, i.capture_source as source,
       i.capture_original as original, i.camera_local as "cameraLocal", i.clock_shift_s as "clockShiftS",
       i.make, i.model, i.serial, i.width, i.height, i.duration_ms as "durationMs", i.read, i.taken, i.aside,
       to_char(i.gone_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "goneAt",
       i.quick_hash as "quickHash", i.verdict, i.description, i.embedded,
       case when ic.item_id is not null or iw.words is not null or ip.pictured is not null then json_build_object('creditLine', ic.credit_line,
         'copyrightNotice', ic.copyright_notice, 'termsId', ic.terms_id, 'locationId', ic.location_id,
         'words', coalesce(iw.words, '[]'), 'pictured', coalesce(ip.pictured, '[]'),
         'position', case when ic.lat is not null then json_build_object('lat', ic.lat, 'lon', ic.lon) end) end as credit, i.role, i.profile, i.turned, i.use_from_ms as "useFromMs", i.use_to_ms as "useToMs",
       i.sharpness, encode(i.look, 'hex') as look, i.version, t.path as "twinOf",
       case when af.id is not null then json_build_object('path', concat_ws('/', nullif(af.folder, ''), af.name),
         'intakeId', ai.id, 'intakeNumber', ai.number, 'at', to_char(af.filed_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'),
         'confirmed', i.already_confirmed) end as "alreadyFiled",
       nullif(concat_ws('/', nullif(ns.folder, ''), ns.name), '') as namesake,
       case when k.id is not null then json_build_object('id', k.id, 'code', k.code, 'name', k.name) end as contributor,
       case when a.id is not null then json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) end as assignment,
       nullif(concat_ws('/', nullif(f.folder, ''), f.name), '') as "filedAs", c.copies
     from item i
     left join filed_item af on af.id = i.already_filed_id left join intake ai on ai.id = af.intake_id
     left join filed_item f on f.item_id = i.id left join filed_item ns on ns.id = i.namesake_id left join item t on t.id = i.twin_of
     left join contributor k on k.id = i.contributor_id left join assignment a on a.id = i.assignment_id
     left join (select c.filed_item_id, json_agg(json_build_object('place', c.place_id, 'state', c.state, 'problem', c.problem) order by p.position) as copies
       from item o join filed_item g on g.item_id = o.id join copy c on c.filed_item_id = g.id join place p on p.id = c.place_id where o.${of} group by 1) c
       on c.filed_item_id = f.id
     left join item_credit ic on ic.item_id = i.id
     left join (select w.item_id, json_agg(json_build_object('id', w.word_id, 'text', ${nameOfWord('w.word_id')}, 'has', w.has) order by w.word_id) as words
       from item o join item_word w on w.item_id = o.id where o.${of} group by 1) iw on iw.item_id = i.id
     left join (select w.item_id, json_agg(json_build_object('id', q.id, 'name', q.name, 'consent', q.consent, 'until', to_char(q.until, 'YYYY-MM-DD'),
         'purpose', q.purpose) order by q.name) as pictured
       from item o join item_pictured w on w.item_id = o.id join pictured q on q.id = w.pictured_id where o.${of} group by 1) ip on ip.item_id = i.id
     where i.${of} and i.version > $2 order by i.captured_local, i.path, i.id`;

/** The items of an intake with their places, in capture order. @param since only those changed after this version. */
export async function itemsOf(db: Db, intakeId: number, since = 0): Promise<ItemRow[]> {
  return settled(await db.query<RawItem[]>(itemRows('intake_id = $1'), [intakeId, since]));
}

/** Some items, of whatever intakes, in capture order. */
export async function itemsById(db: Db, ids: readonly number[]): Promise<ItemRow[]> {
  return settled(await db.query<RawItem[]>(itemRows('id = any($1::int[])'), [ids, 0]));
}

function settled(rows: RawItem[]): ItemRow[] {
  // Thousands of rows: each becomes what it is to be, in its place.
  for (const row of rows as (RawItem & { captured?: CaptureTime })[]) {
    row.captured = { local: row.local, offsetMinutes: row.offset, source: row.source, original: row.original };
    row.copies ??= NO_COPIES;
    // Said as nothing rather than taken away: an object that loses properties is slow from then on.
    Object.assign(row, RAW_GONE);
  }
  return rows as unknown as ItemRow[];
}

/** What could not be read is read again: the card is back, perhaps in a better reader. */
export async function forgetUnreadable(db: Db, intakeId: number): Promise<void> {
  await db.query(
    `update item set read = false, remark = null where intake_id = $1 and read and quick_hash is null and set_aside is null and problem is null`,
    [intakeId],
  );
}

/** Items whose metadata is still to be read. */
export async function unreadItems(
  db: Db,
  intakeId: number,
): Promise<{ id: number; path: string; pathBytes: Buffer; bytes: number; modifiedAt: Date; kind: Kind }[]> {
  return db.query(
    `select id, path, path_bytes as "pathBytes", bytes, modified_at as "modifiedAt", kind from item
     where intake_id = $1 and not read order by captured_local, path`,
    [intakeId],
  );
}

/** Where an item's bytes may be found. */
interface ItemPlace {
  readonly intakeId: number;
  readonly uid: string;
  readonly path: string;
  readonly orientation: number | null;
  readonly pathBytes: Buffer;
  readonly kind: Kind;
  readonly sourcePath: string;
  readonly present: boolean;
  readonly station: string;
  readonly bytes: number;
  readonly folder: string | null;
  readonly name: string | null;
  readonly tallied: string[];
}

export async function itemPlace(db: Db, itemId: number): Promise<ItemPlace | null> {
  const rows = await db.query<ItemPlace[]>(
    `select i.intake_id as "intakeId", n.uid::text as uid, i.path, i.orientation, i.path_bytes as "pathBytes", i.kind, i.bytes, n.source_path as "sourcePath", n.present, n.station, f.folder, f.name,
       coalesce((select array_agg(c.place_id) from copy c where c.filed_item_id = f.id and c.state = 'tallied'), '{}') as tallied
     from item i join intake n on n.id = i.intake_id
     left join filed_item f on f.item_id = i.id or f.id = i.already_filed_id where i.id = $1 limit 1`,
    [itemId],
  );
  return rows[0] ?? null;
}

/** Paths of the files that lead the objects of these items: looked up first, so that ten thousand are compared with a list. */
export async function leadersOf(db: Db, intakeId: number, itemIds: readonly number[]): Promise<string[]> {
  const rows = await db.query<{ leader: string }[]>(
    'select distinct leader from item where intake_id = $1 and id = any($2::int[])',
    [intakeId, itemIds],
  );
  return rows.map(({ leader }) => leader);
}

/** Takes or leaves the objects that these files lead. @returns how many items changed. */
export async function setTaken(db: Db, intakeId: number, leaders: readonly string[], taken: boolean): Promise<number> {
  const [, count]: [unknown, number] = await db.query(
    `update item set taken = $3, aside = null, aside_by = null where intake_id = $1 and set_aside is null and (taken <> $3 or aside is not null)
     and leader = any($2::text[])`,
    [intakeId, leaders, taken],
  );
  return count;
}
