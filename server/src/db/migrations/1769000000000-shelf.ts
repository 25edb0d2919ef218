import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The shelf: bundles, standing questions, and what tells whoever keeps the shelf in memory what changed. */
export class Shelf1769000000000 implements MigrationInterface {
  name = 'Shelf1769000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...TABLES, ...FUNCTIONS, ...TRIGGERS]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: bundles and standing questions would be forgotten.'));
  }
}

const TABLES: readonly string[] = [
  `CREATE TABLE "bundle" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "name" text NOT NULL, "parent_id" integer, "note" text NOT NULL DEFAULT '', "items" integer NOT NULL DEFAULT '0', "made_by" text NOT NULL, "used_at" TIMESTAMP WITH TIME ZONE NOT NULL, "revision" integer NOT NULL DEFAULT '1', CONSTRAINT "bundle_not_in_itself" CHECK (parent_id <> id), CONSTRAINT "PK_637e3f87e837d6532109c198dea" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "bundle_name" ON "bundle"  ("name") `,
  `CREATE INDEX "bundle_in" ON "bundle"  ("parent_id") `,
  `CREATE INDEX "bundle_recent" ON "bundle"  ("used_at") `,
  `CREATE TABLE "bundle_item" ("bundle_id" integer NOT NULL, "item_id" integer NOT NULL, "position" double precision NOT NULL, "added_by" text NOT NULL, CONSTRAINT "PK_d41042ae716d7f5dfde155e9cd0" PRIMARY KEY ("bundle_id", "item_id"))`,
  `CREATE INDEX "bundle_item_of" ON "bundle_item"  ("item_id") `,
  `CREATE INDEX "bundle_item_order" ON "bundle_item"  ("bundle_id", "position", "item_id") `,
  `CREATE TABLE "intake_bundle" ("intake_id" integer NOT NULL, "bundle_id" integer NOT NULL, CONSTRAINT "PK_ffddaa16f4f91654b7dd852ec2b" PRIMARY KEY ("intake_id", "bundle_id"))`,
  `CREATE INDEX "intake_bundle_of" ON "intake_bundle"  ("bundle_id") `,
  `CREATE TABLE "standing_question" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "name" text NOT NULL, "question" text NOT NULL, "tells" boolean NOT NULL DEFAULT true, "seen_to" TIMESTAMP WITH TIME ZONE NOT NULL, "seen_id" integer NOT NULL DEFAULT '0', "made_by" text NOT NULL, "revision" integer NOT NULL DEFAULT '1', CONSTRAINT "PK_4a891c9ab14a2ce90989eb2e704" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "standing_question_name" ON "standing_question"  ("name") `,
  `CREATE TABLE "shelf_change" ("id" bigint GENERATED ALWAYS AS IDENTITY NOT NULL, "xact" bigint NOT NULL, "at" TIMESTAMP WITH TIME ZONE NOT NULL DEFAULT now(), "of" text NOT NULL, "ids" integer array NOT NULL, CONSTRAINT "PK_dd100fc2b34a0abc9dab8ca885a" PRIMARY KEY ("id"))`,
  `CREATE INDEX "shelf_change_xact" ON "shelf_change"  ("xact") `,
  `CREATE INDEX "shelf_change_at" ON "shelf_change"  ("at") `,
  `ALTER TABLE "bundle" ADD CONSTRAINT "bundle_parent" FOREIGN KEY ("parent_id") REFERENCES "bundle"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "bundle_item" ADD CONSTRAINT "bundle_item_in" FOREIGN KEY ("bundle_id") REFERENCES "bundle"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "bundle_item" ADD CONSTRAINT "bundle_item_item" FOREIGN KEY ("item_id") REFERENCES "item"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "intake_bundle" ADD CONSTRAINT "intake_bundle_intake" FOREIGN KEY ("intake_id") REFERENCES "intake"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "intake_bundle" ADD CONSTRAINT "intake_bundle_bundle" FOREIGN KEY ("bundle_id") REFERENCES "bundle"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
];

const FUNCTIONS = [
  `create function tell_shelf() returns trigger language plpgsql as $$
declare
  meant int[];
begin
  execute format('select array_agg(distinct %1$I) from changed where %1$I is not null', tg_argv[1]) into meant;
  if meant is not null then
    insert into shelf_change (xact, of, ids) values (pg_current_xact_id()::text::bigint, tg_argv[0], meant);
  end if;
  return null;
end $$`,
  // What leads an object speaks for its companions; of a card that nothing is filed of yet, nothing is told.
  `create function tell_shelf_of_item() returns trigger language plpgsql as $$
begin
  if exists (select from filed_item f where f.intake_id = new.intake_id) then
    insert into shelf_change (xact, of, ids) values (pg_current_xact_id()::text::bigint, 'object', array[new.id]);
  end if;
  return null;
end $$`,
  `create function tell_shelf_of_row() returns trigger language plpgsql as $$
begin
  insert into shelf_change (xact, of, ids) values (pg_current_xact_id()::text::bigint, tg_argv[0], array[new.id]);
  return null;
end $$`,
  // What a slip says goes into a bundle is there once it is filed.
  `create function into_bundles() returns trigger language plpgsql as $$
begin
  insert into bundle_item (bundle_id, item_id, position, added_by)
  select b.bundle_id, c.item_id, extract(epoch from now()) + c.item_id / 1e9, 'slip'
  from changed c join intake_bundle b on b.intake_id = c.intake_id
  where c.filed_at is not null order by 1, 2
  on conflict do nothing;
  return null;
end $$`,
  `create function bundle_counted() returns trigger language plpgsql as $$
begin
  update bundle b set items = b.items + case tg_op when 'DELETE' then -c.n else c.n end
  from (select bundle_id, count(*)::int as n from changed group by 1 order by 1) c where b.id = c.bundle_id;
  return null;
end $$`,
];

/** Tells of every change of a table. @param of what the ids in a column are of */
const tells = (table: string, of: string, column = 'id') =>
  (['insert', 'update', 'delete'] as const).map(
    (act) =>
      `create trigger ${table}_tells_of_${act} after ${act} on ${table} referencing ${act === 'delete' ? 'old' : 'new'} table as changed
       for each statement execute function tell_shelf('${of}', '${column}')`,
  );

const differs = (...columns: readonly string[]) =>
  columns.map((column) => `old.${column} is distinct from new.${column}`).join(' or ');

const TRIGGERS = [
  ...tells('filed_item', 'item', 'item_id'),
  ...tells('copy', 'filed', 'filed_item_id'),
  ...tells('item_credit', 'item', 'item_id'),
  ...tells('item_word', 'item', 'item_id'),
  ...tells('item_pictured', 'item', 'item_id'),
  ...tells('intake_word', 'intake', 'intake_id'),
  ...tells('assignment', 'assignment'),
  ...tells('assignment_word', 'assignment', 'assignment_id'),
  ...tells('contributor', 'contributor'),
  ...tells('former_code', 'contributor', 'contributor_id'),
  ...tells('word', 'word'),
  ...tells('word_label', 'word', 'word_id'),
  ...tells('word_broader', 'word', 'word_id'),
  ...tells('location', 'location'),
  ...tells('pictured', 'pictured'),
  ...tells('terms', 'terms'),
  ...tells('bundle', 'bundle'),
  ...tells('bundle_item', 'bundle', 'bundle_id'),
  `create trigger item_tells after update on item for each row
   when (${differs('verdict', 'description', 'captured_local', 'contributor_id', 'assignment_id', 'look', 'make', 'model', 'leader')})
   execute function tell_shelf_of_item()`,
  `create trigger intake_tells after update on intake for each row
   when (${differs('contributor_id', 'assignment_id', 'terms_id', 'location_id', 'credit_line', 'card_id')})
   execute function tell_shelf_of_row('intake')`,
  `create trigger intake_tells_of_new after insert on intake for each row execute function tell_shelf_of_row('intake')`,
  `create trigger card_tells after update on card for each row when (${differs('label')}) execute function tell_shelf_of_row('card')`,
  `create trigger house_credit_tells after update on house_credit for each row when (${differs('terms_id')})
   execute function tell_shelf_of_row('house')`,
  `create trigger filed_item_into_bundles after update on filed_item referencing new table as changed
   for each statement execute function into_bundles()`,
  `create trigger bundle_item_counted_in after insert on bundle_item referencing new table as changed
   for each statement execute function bundle_counted()`,
  `create trigger bundle_item_counted_out after delete on bundle_item referencing old table as changed
   for each statement execute function bundle_counted()`,
];
