import type { HouseRecord, IntakeRecord } from '@tally/contract';
import type { Db } from '../../db/database.js';

/** An item of a record, with whose and what it is where that differs from its slip. */
export interface RebuiltItem {
  readonly item: IntakeRecord['items'][number];
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
}

/** Puts the filed items of an intake back as its record tells them. @param byCard else it was added from where it stands @returns their ids by their paths on the card */
export async function rebuildItems(
  tx: Db,
  intakeId: number,
  items: readonly RebuiltItem[],
  byCard: boolean,
): Promise<Map<string, number>> {
  const rows = items.map(({ item, contributorId, assignmentId }) => ({
    ...item,
    ...{ path: item.from, pathHex: pathHex(item), contributorId, assignmentId, ...item.captured, ...item.picture },
    ...{ clip: item.clip, came: item.came },
    ...{ leader: item.object?.leader ?? item.from, objectRole: item.object?.role ?? 'leader', footageRole: item.role },
    ...{ part: item.object?.part ?? null, parts: item.object?.parts ?? null, series: item.object?.series ?? null },
    ...{ structure: item.object?.structure ?? 'dcf', structureRoot: item.object?.root ?? null },
    ...{ turned: item.picture?.turned ?? 0, undo: undefined, inside: undefined, beside: undefined, credit: undefined },
  }));
  const made = await tx.query<{ id: number; path: string }[]>(
    `insert into item (intake_id, path, path_bytes, bytes, modified_at, kind, leader, object_role, part, parts, structure, structure_root, series,
       captured_local, captured_offset, capture_source, capture_original, camera_local, camera_offset, clock_shift_s,
       make, model, serial, width, height, duration_ms, orientation, turned, use_from_ms, use_to_ms, clip, embedded, remark,
       verdict, description, role, profile, contributor_id, assignment_id, quick_hash, read, taken, already_confirmed)
     select $2, path, decode("pathHex", 'hex'), bytes, "modifiedAt", kind, leader, "objectRole", part, parts, structure, "structureRoot", series,
       local, "offsetMinutes", source, original, camera, "cameraOffsetMinutes", "shiftSeconds",
       make, model, serial, width, height, "durationMs", orientation, turned, "useFromMs", "useToMs", clip, came, remark,
       case when verdict in ('select', 'reshoot', 'hold') then verdict end, description,
       case when "footageRole" in ('main', 'supporting') then "footageRole" end, profile, "contributorId", "assignmentId", decode(fast, 'hex'), true, $3, false
     from jsonb_to_recordset($1::jsonb) as r(path text, "pathHex" text, bytes bigint, "modifiedAt" timestamptz, kind text, leader text, "objectRole" text,
       part int, parts int, structure text, "structureRoot" text, series text, local text, "offsetMinutes" int, source text, original text, camera text,
       "cameraOffsetMinutes" int, "shiftSeconds" int, make text, model text, serial text, width int, height int, "durationMs" int, orientation int,
       turned int, "useFromMs" int, "useToMs" int, clip jsonb, came jsonb, remark text, verdict text, description text, "footageRole" text, profile text,
       "contributorId" int, "assignmentId" int, fast text)
     returning id, path`,
    [JSON.stringify(rows), intakeId, byCard],
  );
  return new Map(made.map(({ id, path }) => [path, id]));
}

const pathHex = ({ from, fromBytes }: IntakeRecord['items'][number]): string =>
  Buffer.from(fromBytes ?? from, fromBytes === null ? 'utf8' : 'base64').toString('hex');

/** Puts back what of a card was not filed, and why. What is filed already is found by where it stands. */
export async function rebuildLeft(
  tx: Db,
  intakeId: number,
  left: readonly (IntakeRecord['left'][number] & { filedItemId: number | null; aside: string | null; asideBy: string | null })[],
): Promise<void> {
  await tx.query(
    `insert into item (intake_id, path, path_bytes, bytes, modified_at, kind, leader, captured_local, capture_source, capture_original, camera_local,
       read, taken, already_confirmed, already_filed_id, aside, aside_by, set_aside, problem, quick_hash)
     select $2, "from", convert_to("from", 'UTF8'), bytes, "modifiedAt", kind, "from", captured, 'file time', '', captured, true, "toFile",
       "filedItemId" is not null, "filedItemId", case when aside in ('unreadable', 'gone', 'not ours') then aside end, "asideBy",
       case when why = 'no material' then coalesce(reason, why) end, case when why = 'cannot be filed' then coalesce(reason, why) end, decode(fast, 'hex')
     from jsonb_to_recordset($1::jsonb) as r("from" text, bytes bigint, "modifiedAt" timestamptz, kind text, captured text, why text, "toFile" boolean, reason text,
       "filedItemId" int, aside text, "asideBy" text, fast text)`,
    [JSON.stringify(left), intakeId],
  );
}

/** How far cameras' clocks were off, as the house record tells; of a house that has none yet. */
export async function rebuildClocks(tx: Db, clocks: HouseRecord['clocks']): Promise<void> {
  await tx.query(
    `insert into clock_correction (make, model, serial, shift_s, kind, said_by, said_at) select make, model, serial, "shiftSeconds", kind, by, at
     from jsonb_to_recordset($1::jsonb) as r(make text, model text, serial text, "shiftSeconds" int, kind text, by text, at timestamptz)
     where not exists (select from clock_correction)`,
    [JSON.stringify(clocks)],
  );
}
