import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The house at its size: totals that are kept and not counted, orders that stand in an index, words found by their parts. */
export class AtItsSize1768000000000 implements MigrationInterface {
  name = 'AtItsSize1768000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [
      ...PLACES,
      ...FOLDERS,
      ...INTAKES,
      ...INDEXES,
      'select recount_places()',
      'select recount_folders()',
    ])
      await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of BACK) await runner.query(statement);
  }
}

/** What the copies at a place come to; `c` is a copy and `f` its filed item. Negative for what is taken away. */
const sums = (sign = '') => `
  ${sign}count(*) filter (where c.state = 'tallied'), ${sign}coalesce(sum(f.bytes) filter (where c.state = 'tallied'), 0),
  ${sign}count(*) filter (where c.state <> 'tallied' and f.hash is not null),
  ${sign}coalesce(sum(f.bytes) filter (where c.state <> 'tallied' and f.hash is not null), 0),
  ${sign}coalesce(sum(f.bytes) filter (where c.state in ('waiting', 'copying')), 0)`;

const INTO = 'insert into place_total (place_id, copies, bytes, open, open_bytes, promised_bytes)';

/**
 * Each change of copies adds a line of what it changed; the total of a place is the sum of its lines, and a sweep puts them
 * together. So nobody who files waits for anybody else who does.
 */
const PLACES = [
  `CREATE TABLE "place_total" ("id" bigint GENERATED ALWAYS AS IDENTITY NOT NULL, "place_id" text NOT NULL, "copies" integer NOT NULL, "bytes" bigint NOT NULL, "open" integer NOT NULL, "open_bytes" bigint NOT NULL, "promised_bytes" bigint NOT NULL, CONSTRAINT "PK_0c1f46ac3a0e7b1f2ea62fa1ab4" PRIMARY KEY ("id"))`,
  `CREATE INDEX "place_total_of" ON "place_total"  ("place_id") `,
  `ALTER TABLE "place_total" ADD CONSTRAINT "place_total_place" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  // A promise goes after its copies, which are counted by what it says of them.
  `ALTER TABLE "copy" DROP CONSTRAINT "FK_706b4ed5aa9073dc836e27416ac"`,
  `ALTER TABLE "copy" ADD CONSTRAINT "FK_706b4ed5aa9073dc836e27416ac" FOREIGN KEY ("filed_item_id") REFERENCES "filed_item"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `create function copies_counted() returns trigger language plpgsql as $$
begin
  if tg_op = 'INSERT' then
    ${INTO} select c.place_id, ${sums()} from new_copy c join filed_item f on f.id = c.filed_item_id group by 1;
  elsif tg_op = 'DELETE' then
    ${INTO} select c.place_id, ${sums('-')} from old_copy c join filed_item f on f.id = c.filed_item_id group by 1;
  else
    ${INTO}
    select d.place_id, sum(d.copies), sum(d.bytes), sum(d.open), sum(d.open_bytes), sum(d.promised_bytes) from (
      select c.place_id, ${sums()} from new_copy c join old_copy o on o.filed_item_id = c.filed_item_id and o.place_id = c.place_id
        join filed_item f on f.id = c.filed_item_id where o.state <> c.state group by 1
      union all
      select c.place_id, ${sums('-')} from old_copy c join new_copy n on n.filed_item_id = c.filed_item_id and n.place_id = c.place_id
        join filed_item f on f.id = c.filed_item_id where n.state <> c.state group by 1
    ) d(place_id, copies, bytes, open, open_bytes, promised_bytes) group by 1;
  end if;
  return null;
end $$`,
  `create trigger copy_counted_in after insert on copy referencing new table as new_copy
     for each statement execute function copies_counted()`,
  `create trigger copy_counted_anew after update on copy referencing old table as old_copy new table as new_copy
     for each statement execute function copies_counted()`,
  `create trigger copy_counted_out after delete on copy referencing old table as old_copy
     for each statement execute function copies_counted()`,
  // What was promised only has bytes that others can be made from as soon as it was read.
  `create function filed_counted() returns trigger language plpgsql as $$
begin
  ${INTO}
  select c.place_id, 0, 0, count(*), sum(n.bytes), 0 from new_filed n join old_filed o on o.id = n.id join copy c on c.filed_item_id = n.id
  where o.hash is null and n.hash is not null and c.state <> 'tallied' group by 1;
  return null;
end $$`,
  `create trigger filed_item_counted after update on filed_item referencing old table as old_filed new table as new_filed
     for each statement execute function filed_counted()`,
  `create function recount_places() returns void language sql as $$
  delete from place_total;
  ${INTO} select c.place_id, ${sums()} from copy c join filed_item f on f.id = c.filed_item_id group by 1;
$$`,
];

/** Folders that something is filed in, with how much: kept as items come and go. */
const FOLDERS = [
  `CREATE TABLE "filed_folder" ("folded" text NOT NULL, "folder" text NOT NULL, "items" integer NOT NULL, "bytes" bigint NOT NULL, "newest" integer NOT NULL, CONSTRAINT "PK_95f2a2ea5a3ba2d7aee0ae1ec36" PRIMARY KEY ("folded"))`,
  `CREATE INDEX "filed_folder_newest" ON "filed_folder"  ("newest") `,
  `create function folders_counted() returns trigger language plpgsql as $$
begin
  if tg_op = 'INSERT' then
    insert into filed_folder as k (folded, folder, items, bytes, newest)
    select folded_folder, (array_agg(folder order by id))[1], count(*), sum(bytes), max(id) from new_filed group by 1 order by 1
    on conflict (folded) do update set items = k.items + excluded.items, bytes = k.bytes + excluded.bytes,
      newest = greatest(k.newest, excluded.newest);
  else
    update filed_folder k set items = k.items - o.items, bytes = k.bytes - o.bytes
    from (select folded_folder, count(*) as items, sum(bytes) as bytes from old_filed group by 1) o where k.folded = o.folded_folder;
    delete from filed_folder k using (select distinct folded_folder from old_filed) o where k.folded = o.folded_folder and k.items <= 0;
  end if;
  return null;
end $$`,
  `create trigger filed_item_in_folder after insert on filed_item referencing new table as new_filed
     for each statement execute function folders_counted()`,
  `create trigger filed_item_out_of_folder after delete on filed_item referencing old table as old_filed
     for each statement execute function folders_counted()`,
  `create function recount_folders() returns void language sql as $$
  delete from filed_folder;
  insert into filed_folder (folded, folder, items, bytes, newest)
  select folded_folder, (array_agg(folder order by id))[1], count(*), sum(bytes), max(id) from filed_item group by 1;
$$`,
];

/** What the logbook is ordered by and summed over, beside the intake itself. */
const INTAKES = [
  ...['items', 'filed'].map((name) => `ALTER TABLE "intake" ADD "${name}" integer NOT NULL DEFAULT '0'`),
  `ALTER TABLE "intake" ADD "bytes" bigint NOT NULL DEFAULT '0'`,
  ...['by_contributor', 'by_assignment', 'by_card'].map((name) => `ALTER TABLE "intake" ADD "${name}" text`),
  `create function intake_ordered() returns trigger language plpgsql as $$
begin
  new.items := coalesce((new.totals->>'items')::int, 0);
  new.filed := coalesce((new.totals->>'filed')::int, 0);
  new.bytes := coalesce((new.totals->>'bytes')::bigint, 0);
  if tg_op = 'INSERT' or new.contributor_id is distinct from old.contributor_id then
    new.by_contributor := (select c.name from contributor c where c.id = new.contributor_id);
  end if;
  if tg_op = 'INSERT' or new.assignment_id is distinct from old.assignment_id then
    new.by_assignment := (select a.title from assignment a where a.id = new.assignment_id);
  end if;
  if tg_op = 'INSERT' or new.card_id is distinct from old.card_id then
    new.by_card := (select k.label from card k where k.id = new.card_id);
  end if;
  return new;
end $$`,
  `create trigger intake_ordered before insert or update of totals, contributor_id, assignment_id, card_id on intake
     for each row execute function intake_ordered()`,
  ...[
    ['contributor', 'name'],
    ['assignment', 'title'],
    ['card', 'label'],
  ].flatMap(([table, column]) => [
    `create function ${table}_orders() returns trigger language plpgsql as $$
begin
  update intake set by_${table} = new.${column} where ${table}_id = new.id;
  return null;
end $$`,
    `create trigger ${table}_orders after update of ${column} on ${table}
       for each row when (old.${column} is distinct from new.${column}) execute function ${table}_orders()`,
  ]),
  `update intake i set by_contributor = c.name, by_assignment = a.title, by_card = k.label, totals = i.totals
   from intake n join card k on k.id = n.card_id left join contributor c on c.id = n.contributor_id
     left join assignment a on a.id = n.assignment_id where n.id = i.id`,
];

/** What was said of nothing comes last. */
const ordered = (name: string, column: string) => `CREATE INDEX "${name}" ON "intake" (("${column}" is null), "${column}", "id")`;

const INDEXES = [
  // An item is written again as it is read, looked at and taken: where its page has room, no index hears of that.
  `ALTER TABLE "item" SET (fillfactor = 60)`,
  'CREATE EXTENSION IF NOT EXISTS pg_trgm',
  `CREATE INDEX "intake_words" ON "intake" USING gin ("words" gin_trgm_ops)`,
  ordered('intake_by_contributor', 'by_contributor'),
  ordered('intake_by_assignment', 'by_assignment'),
  ordered('intake_by_card', 'by_card'),
  `CREATE INDEX "intake_by_items" ON "intake" ("items", "id")`,
  `CREATE INDEX "intake_by_bytes" ON "intake" ("bytes", "id")`,
  `CREATE INDEX "intake_by_state" ON "intake" ("state", "id")`,
  // What all that is found comes to is summed from the index alone.
  `DROP INDEX "intake_received"`,
  `CREATE INDEX "intake_received" ON "intake" ("received_at", "id") INCLUDE ("items", "filed", "bytes")`,
  `DROP INDEX "intake_card"`,
  `CREATE INDEX "intake_card" ON "intake" ("card_id", "id")`,
  `CREATE INDEX "intake_from" ON "intake" ("contributor_id")`,
  `CREATE INDEX "intake_for" ON "intake" ("assignment_id")`,
  `CREATE INDEX "intake_rule" ON "intake" ("rule_revision")`,
  `CREATE INDEX "intake_busy" ON "intake" ("station") WHERE state in ('filing', 'needs attention')`,
  `CREATE INDEX "intake_present" ON "intake" ("station", "source_path") WHERE present`,
  `CREATE INDEX "intake_let_go_at" ON "intake" ("station") WHERE let_go is not null`,
  `DROP INDEX "intake_lying"`,
  `CREATE INDEX "intake_lying" ON "intake" ("station", "source_path", "present", "id")`,
  `DROP INDEX "intake_part_by"`,
  `CREATE INDEX "intake_part_by" ON "intake_part" ("contributor_id", "intake_id")`,
  `DROP INDEX "intake_part_for"`,
  `CREATE INDEX "intake_part_for" ON "intake_part" ("assignment_id", "intake_id")`,
  `CREATE INDEX "intake_terms_of" ON "intake" ("terms_id") WHERE terms_id is not null`,
  `CREATE INDEX "intake_location_of" ON "intake" ("location_id") WHERE location_id is not null`,
  `DROP INDEX "copy_unfinished"`,
  `CREATE INDEX "copy_unfinished" ON "copy" ("place_id", "filed_item_id") WHERE state <> 'tallied'`,
  `DROP INDEX "copy_place"`,
  // A camera counts to ten thousand and begins again: names are looked for together with the body that gave them.
  `DROP INDEX "item_path"`,
  `CREATE INDEX "item_path" ON "item" ("path", coalesce("serial", ''), coalesce("model", ''))`,
  `CREATE INDEX "item_unpictured" ON "item" ("intake_id") WHERE not pictured and read and set_aside is null and problem is null`,
  `CREATE INDEX "card_at_hand" ON "card" ("tray") WHERE tray <> 'out'`,
  `CREATE INDEX "card_said" ON "card" (lower("label"))`,
  `CREATE INDEX "camera_of" ON "camera" ("contributor_id")`,
  `CREATE INDEX "loan_of_card" ON "loan" ("card_id", "id")`,
  `CREATE INDEX "loan_of_kit" ON "loan" ("kit_id", "id")`,
  `CREATE INDEX "assignment_days" ON "assignment" ("from_day", "id")`,
  `CREATE INDEX "assignment_words" ON "assignment" USING gin (lower("title" || ' ' || "slug" || ' ' || "code" || ' ' || "place") gin_trgm_ops)`,
  `CREATE INDEX "assignment_until" ON "assignment" ("to_day")`,
];

const BACK = [
  'alter table item reset (fillfactor)',
  ...['copy_counted_in', 'copy_counted_anew', 'copy_counted_out'].map((name) => `drop trigger ${name} on copy`),
  ...['filed_item_counted', 'filed_item_in_folder', 'filed_item_out_of_folder'].map(
    (name) => `drop trigger ${name} on filed_item`,
  ),
  'drop trigger intake_ordered on intake',
  ...['contributor', 'assignment', 'card'].map((table) => `drop trigger ${table}_orders on ${table}`),
  ...[
    'copies_counted',
    'filed_counted',
    'folders_counted',
    'intake_ordered',
    'contributor_orders',
    'assignment_orders',
    'card_orders',
  ]
    .concat('recount_places', 'recount_folders')
    .map((name) => `drop function ${name}()`),
  'drop table place_total, filed_folder',
  ...['items', 'filed', 'bytes', 'by_contributor', 'by_assignment', 'by_card'].map(
    (name) => `alter table intake drop column ${name}`,
  ),
  ...[
    'intake_words',
    'intake_by_state',
    'intake_from',
    'intake_for',
    'intake_rule',
    'intake_busy',
    'intake_present',
    'intake_let_go_at',
  ]
    .concat(
      'intake_terms_of',
      'intake_location_of',
      'item_unpictured',
      'card_at_hand',
      'camera_of',
      'card_said',
      'loan_of_card',
      'loan_of_kit',
    )
    .concat('assignment_days', 'assignment_until', 'assignment_words')
    .map((name) => `drop index ${name}`),
  'create index intake_received on intake (received_at, id)',
  'drop index intake_card',
  'create index intake_card on intake (card_id)',
  'drop index intake_lying',
  'create index intake_lying on intake (station, source_path)',
  'drop index intake_part_by',
  'create index intake_part_by on intake_part (contributor_id)',
  'drop index intake_part_for',
  'create index intake_part_for on intake_part (assignment_id)',
  'drop index item_path',
  'create index item_path on item (path)',
  'drop index copy_unfinished',
  `create index copy_unfinished on copy (state) where state <> 'tallied'`,
  'create index copy_place on copy (place_id)',
  'alter table copy drop constraint "FK_706b4ed5aa9073dc836e27416ac"',
  'alter table copy add constraint "FK_706b4ed5aa9073dc836e27416ac" foreign key (filed_item_id) references filed_item(id) on delete cascade',
];
