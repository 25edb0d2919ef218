import type { BelongChange, BodyView, JudgeChange } from '@tally/contract';
import { shiftTime, type ClockShift } from '@tally/core/capture';
import type { Db } from '../../db/database.js';
import { leadersOf } from './items.js';

/** Writes what somebody thinks of items; what is not named stays. */
export async function setJudgement(db: Db, intakeId: number, change: JudgeChange): Promise<void> {
  await db.query(
    `update item set
       verdict = case when $3 then $4 else verdict end, description = coalesce($5, description), turned = coalesce($6, turned),
       use_from_ms = case when $7 then $8::int else use_from_ms end, use_to_ms = case when $9 then $10::int else use_to_ms end,
       role = case when $11 then $12 else role end, profile = coalesce($13, profile)
     where intake_id = $1 and id = any($2::int[]) and set_aside is null`,
    [
      ...[intakeId, change.itemIds, change.verdict !== undefined, change.verdict ?? null, change.description ?? null],
      ...[change.turned ?? null, change.useFromMs !== undefined, change.useFromMs ?? null],
      ...[change.useToMs !== undefined, change.useToMs ?? null, change.role !== undefined, change.role ?? null],
      change.profile ?? null,
    ],
  );
}

/** Items by the intake they are of, in the order of intakes. */
export async function intakesOfItems(db: Db, itemIds: readonly number[]): Promise<{ intakeId: number; ids: number[] }[]> {
  return db.query(
    `select intake_id as "intakeId", array_agg(id order by id) as ids from item where id = any($1::int[]) group by 1 order by 1`,
    [itemIds],
  );
}

/** The assignments that unfiled items of a choice (with their companions) have now. */
export async function assignmentsOfItems(db: Db, intakeId: number, itemIds: readonly number[]): Promise<(number | null)[]> {
  const rows = await db.query<{ id: number | null }[]>(
    'select distinct assignment_id as id from item where intake_id = $1 and id = any($2::int[])',
    [intakeId, itemIds],
  );
  return rows.map(({ id }) => id);
}

/** Says whose items are and what they were shot for; companions go together, what is filed stays. @returns how many changed. */
export async function setBelonging(db: Db, intakeId: number, change: BelongChange): Promise<number> {
  const [, count]: [unknown, number] = await db.query(
    `update item set
       contributor_id = case when $3 then $4::int else contributor_id end,
       assignment_id = case when $5 then $6::int else assignment_id end
     where intake_id = $1 and set_aside is null and not exists (select from filed_item f where f.item_id = item.id)
       and leader = any($2::text[])`,
    [
      ...[
        intakeId,
        await leadersOf(db, intakeId, change.itemIds),
        change.contributorId !== undefined,
        change.contributorId ?? null,
      ],
      ...[change.assignmentId !== undefined, change.assignmentId ?? null],
    ],
  );
  return count;
}

/** What an item is said to be; what is not named stays. */
export interface Corrected {
  readonly itemId: number;
  readonly contributorId?: number | null;
  readonly assignmentId?: number | null;
  readonly capturedLocal?: string;
}

/**
 * Says whose filed items are, what they were shot for and when they were taken. What the camera wrote stays beside it.
 * @returns what was said before.
 */
export async function correctFiled(db: Db, corrected: readonly Corrected[]): Promise<Required<Corrected>[]> {
  const before = await db.query<Required<Corrected>[]>(
    `select id as "itemId", contributor_id as "contributorId", assignment_id as "assignmentId", captured_local as "capturedLocal"
     from item where id = any($1::int[]) order by id for update`,
    [corrected.map(({ itemId }) => itemId)],
  );
  const was = new Map(before.map((one) => [one.itemId, one]));
  const after = corrected.flatMap((one) => {
    const old = was.get(one.itemId);
    return old ? [{ ...old, ...one }] : [];
  });
  await db.query(
    `update item set contributor_id = q.contributor_id, assignment_id = q.assignment_id, captured_local = q.local,
       clock_shift_s = case when q.local = item.captured_local then clock_shift_s
         else extract(epoch from q.local::timestamp - camera_local::timestamp)::int end
     from unnest($1::int[], $2::int[], $3::int[], $4::text[]) as q(id, contributor_id, assignment_id, local) where item.id = q.id`,
    [
      after.map(({ itemId }) => itemId),
      after.map(({ contributorId }) => contributorId),
      after.map(({ assignmentId }) => assignmentId),
      after.map(({ capturedLocal }) => capturedLocal),
    ],
  );
  return before;
}

/** One camera body; null where its files do not say. */
export type Body = Pick<BodyView, 'make' | 'model' | 'serial'>;

/** The camera bodies of an intake with what is known of their clocks and owners. */
export async function bodiesOf(db: Db, intakeId: number, epochDays: readonly string[]): Promise<BodyView[]> {
  return db.query(
    `select b.*, case when c.id is not null then json_build_object('id', c.id, 'name', c.name) end as owner,
       (select json_build_object('seconds', k.shift_s, 'kind', k.kind, 'saidBy', k.said_by,
          'saidAt', to_char(k.said_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'))
        from clock_correction k where k.make = coalesce(b.make, '') and k.model = coalesce(b.model, '') and k.serial = b.serial
        order by k.id desc limit 1) as remembered
     from (select make, model, serial, count(*)::int as items, min(captured_local) as first, max(captured_local) as last,
         count(*) filter (where left(camera_local, 10) = any($2::text[]) and clock_shift_s = 0)::int as unset,
         max(clock_shift_s) as "shiftSeconds"
       from item where intake_id = $1 and set_aside is null and (make is not null or model is not null)
       group by 1, 2, 3) b
     left join camera m on m.make = coalesce(b.make, '') and m.model = coalesce(b.model, '') and m.serial = b.serial
     left join contributor c on c.id = m.contributor_id
     order by b.items desc, b.model`,
    [intakeId, epochDays],
  );
}

/**
 * Moves the times of a body's items (and their companions') that are not filed yet. The shift counts from the camera's
 * own time, whatever was said before; that time itself is never changed. @returns how many items moved.
 */
export async function shiftBody(db: Db, intakeId: number, body: Body, shift: ClockShift): Promise<number> {
  const rows = await db.query<{ id: number; local: string; offsetMinutes: number | null }[]>(
    `select id, camera_local as local, camera_offset as "offsetMinutes" from item
     where intake_id = $1 and set_aside is null and not exists (select from filed_item f where f.item_id = item.id)
       and leader in (select leader from item where intake_id = $1
         and make is not distinct from $2 and model is not distinct from $3 and serial is not distinct from $4)`,
    [intakeId, body.make, body.model, body.serial],
  );
  const moved = rows.map((time) => shiftTime(time, shift));
  await db.query(
    `update item set captured_local = m.local, captured_offset = m."offset", clock_shift_s = $4
     from unnest($1::int[], $2::text[], $3::int[]) as m(id, local, "offset") where item.id = m.id`,
    [rows.map(({ id }) => id), moved.map(({ local }) => local), moved.map(({ offsetMinutes }) => offsetMinutes), shift.seconds],
  );
  return rows.length;
}

export async function rememberCorrection(
  db: Db,
  body: { make: string; model: string; serial: string },
  shift: ClockShift,
  saidBy: string,
  saidAt: Date,
): Promise<void> {
  await db.query(
    'insert into clock_correction (make, model, serial, shift_s, kind, said_by, said_at) values ($1, $2, $3, $4, $5, $6, $7)',
    [body.make, body.model, body.serial, shift.seconds, shift.kind, saidBy, saidAt],
  );
}

/** What looking at a preview found. */
export interface Looked {
  readonly id: number;
  readonly sharpness: number | null;
  readonly look: string | null;
}

/** Writes what previews showed; from then on they count as made. */
export async function writeLooks(db: Db, looked: readonly Looked[]): Promise<void> {
  await db.query(
    `update item set pictured = true, sharpness = l.sharpness, look = decode(l.look, 'hex')
     from unnest($1::int[], $2::real[], $3::text[]) as l(id, sharpness, look) where item.id = l.id`,
    [looked.map(({ id }) => id), looked.map(({ sharpness }) => sharpness), looked.map(({ look }) => look)],
  );
}

/** Items whose previews are still to be made, of cards that are here: those of the newest intake first. */
export async function unpictured(db: Db, station: string, limit: number): Promise<{ id: number; intakeId: number }[]> {
  return db.query(
    `select i.id, i.intake_id as "intakeId" from item i join intake n on n.id = i.intake_id
     where n.present and n.read_through and n.station = $1 and not i.pictured and i.read and i.set_aside is null and i.problem is null
       and i.kind in ('photo', 'raw', 'video', 'sound') and i.leader = i.path
     order by n.id desc, i.captured_local, i.path limit $2`,
    [station, limit],
  );
}

/** Filed items nobody has seen, whose card is not here: of intakes below one, the newest first. */
export async function unseenFiled(db: Db, belowIntake: number, limit: number): Promise<{ id: number; intakeId: number }[]> {
  return db.query(
    `select i.id, i.intake_id as "intakeId" from item i
     where not i.pictured and i.read and i.set_aside is null and i.problem is null and i.intake_id < $1
       and i.kind in ('photo', 'raw', 'video', 'sound') and i.leader = i.path
       and exists (select from filed_item f where f.item_id = i.id and f.filed_at is not null)
       and not exists (select from intake n where n.id = i.intake_id and n.present)
     order by i.intake_id desc limit $2`,
    [belowIntake, limit],
  );
}

/** Looks for items with all the same bytes among those of one card that have the same size and fast identity. */
export async function likelyTwins(db: Db, intakeId: number): Promise<{ id: number; pathBytes: Buffer; group: number }[]> {
  return db.query(
    `select id, path_bytes as "pathBytes", (dense_rank() over (order by bytes, quick_hash))::int as group from item i
     where intake_id = $1 and quick_hash is not null and set_aside is null and bytes > 0 and exists (
       select from item o where o.intake_id = $1 and o.id <> i.id and o.bytes = i.bytes and o.quick_hash = i.quick_hash and o.set_aside is null)
     order by 3, captured_local, path`,
    [intakeId],
  );
}

export async function setTwins(db: Db, twins: readonly { id: number; of: number }[]): Promise<void> {
  await db.query(
    'update item set twin_of = t.of from unnest($1::int[], $2::int[]) as t(id, of) where item.id = t.id and twin_of is distinct from t.of',
    [twins.map(({ id }) => id), twins.map(({ of }) => of)],
  );
}

/** Marks items that had the same name on a card of the same camera as a filed item, and are other pictures. */
export async function markNamesakes(db: Db, intakeId: number): Promise<void> {
  await db.query(
    `update item i set namesake_id = s.id from (
       select n.id as item_id, same.id from item n cross join lateral (
         select f.id from item o join filed_item f on f.item_id = o.id
         where o.path = n.path and coalesce(o.serial, '') = coalesce(n.serial, '') and coalesce(o.model, '') = coalesce(n.model, '')
           and o.intake_id <> n.intake_id and (f.bytes <> n.bytes or f.quick_hash is distinct from n.quick_hash)
         order by f.id desc limit 1) same
       where n.intake_id = $1 and n.kind in ('photo', 'raw', 'video', 'sound') and n.already_filed_id is null and n.quick_hash is not null) s
     where i.id = s.item_id and i.intake_id = $1`,
    [intakeId],
  );
}

/** Says whose items are, filed or not: names on the drive stay as they are. */
export async function setItemContributor(db: Db, ids: readonly number[], contributorId: number | null): Promise<void> {
  await db.query('update item set contributor_id = $2 where id = any($1::int[]) and contributor_id is distinct from $2', [
    ids,
    contributorId,
  ]);
}

export async function setDescription(db: Db, ids: readonly number[], description: string): Promise<void> {
  await db.query('update item set description = $2 where id = any($1::int[]) and description <> $2', [ids, description]);
}

/** What is said of these items changed elsewhere: whoever asks for what is new gets them again. */
export async function touchChosen(db: Db, intakeId: number, ids: readonly number[]): Promise<void> {
  await db.query('update item set version = version where intake_id = $1 and id = any($2::int[])', [intakeId, ids]);
}
