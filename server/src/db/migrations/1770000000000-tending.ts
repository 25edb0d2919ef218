import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The drive as it is: what stands there, what was found, what was adopted and mended. */
export class Tending1770000000000 implements MigrationInterface {
  name = 'Tending1770000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...TABLES, ...FUNCTIONS]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(
      new Error('This migration cannot be undone: nobody would know what was renamed, or how to take it back.'),
    );
  }
}

const TABLES: readonly string[] = [
  `CREATE TABLE "stood_folder" ("place_id" text NOT NULL, "path" text NOT NULL, "parent" text, "name" text NOT NULL, "changed_ms" double precision, "files" integer NOT NULL, "bytes" bigint NOT NULL, "known" integer NOT NULL, "strays" integer NOT NULL, "trouble" integer NOT NULL, "all_files" integer NOT NULL, "all_bytes" bigint NOT NULL, "all_known" integer NOT NULL, "all_strays" integer NOT NULL, "all_trouble" integer NOT NULL, CONSTRAINT "PK_04d334a0ce97fa21f6e1de3eb47" PRIMARY KEY ("place_id", "path"))`,
  `CREATE INDEX "stood_folder_in" ON "stood_folder"  ("place_id", "parent", "name") `,
  `CREATE TABLE "stray" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "place_id" text NOT NULL, "path" text NOT NULL, "folder" text NOT NULL, "bytes" bigint NOT NULL, "modified_at" TIMESTAMP WITH TIME ZONE NOT NULL, "since" TIMESTAMP WITH TIME ZONE NOT NULL, "twin_of" integer, "compared" boolean NOT NULL DEFAULT false, CONSTRAINT "PK_def58d5575b2a7436966d5fb559" PRIMARY KEY ("id"))`,
  `CREATE INDEX "stray_twin" ON "stray"  ("twin_of") WHERE twin_of is not null`,
  `CREATE INDEX "stray_in" ON "stray"  ("place_id", "folder", "id") `,
  `CREATE UNIQUE INDEX "stray_at" ON "stray"  ("place_id", "path") `,
  `CREATE TABLE "drive_finding" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "place_id" text NOT NULL, "kind" text NOT NULL, "path" text NOT NULL, "folder" text NOT NULL, "filed_item_id" integer, "other" text, "what" text NOT NULL DEFAULT '', "files" integer NOT NULL DEFAULT '1', "of_folder" boolean NOT NULL DEFAULT false, "since" TIMESTAMP WITH TIME ZONE NOT NULL, CONSTRAINT "PK_d2002e80c572f224582bb992357" PRIMARY KEY ("id"))`,
  `CREATE INDEX "drive_finding_filed" ON "drive_finding"  ("filed_item_id") WHERE filed_item_id is not null`,
  `CREATE INDEX "drive_finding_in" ON "drive_finding"  ("place_id", "folder") `,
  `CREATE INDEX "drive_finding_kind" ON "drive_finding"  ("place_id", "kind", "folder") `,
  `CREATE UNIQUE INDEX "drive_finding_of" ON "drive_finding"  ("place_id", "kind", "path") `,
  `CREATE TABLE "drive_check" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "place_id" text NOT NULL, "how" text NOT NULL, "names" boolean NOT NULL, "strict" boolean NOT NULL, "who" text NOT NULL, "station" text NOT NULL, "state" text NOT NULL, "begun_at" TIMESTAMP WITH TIME ZONE NOT NULL, "ended_at" TIMESTAMP WITH TIME ZONE, "files" integer NOT NULL DEFAULT '0', "bytes" bigint NOT NULL DEFAULT '0', "folders" integer NOT NULL DEFAULT '0', "problem" text, CONSTRAINT "drive_check_how" CHECK (how in ('size and time', 'fast identity', 'every byte')), CONSTRAINT "drive_check_state" CHECK (state in ('going', 'done', 'stopped', 'failed')), CONSTRAINT "PK_22e4d85faeaf6e1c916e964419a" PRIMARY KEY ("id"))`,
  `CREATE INDEX "drive_check_at" ON "drive_check"  ("place_id", "id") `,
  `CREATE UNIQUE INDEX "drive_check_going" ON "drive_check"  ("place_id") WHERE state = 'going'`,
  `CREATE TABLE "adoption" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "place_id" text NOT NULL, "folders" jsonb NOT NULL, "who" text NOT NULL, "state" text NOT NULL, "begun_at" TIMESTAMP WITH TIME ZONE NOT NULL, "ended_at" TIMESTAMP WITH TIME ZONE, "files" integer NOT NULL DEFAULT '0', "bytes" bigint NOT NULL DEFAULT '0', "adopted" integer NOT NULL DEFAULT '0', "adopted_bytes" bigint NOT NULL DEFAULT '0', "twins" integer NOT NULL DEFAULT '0', "problem" text, CONSTRAINT "adoption_state" CHECK (state in ('going', 'done', 'stopped')), CONSTRAINT "PK_bf86d90324541b197d4ac5362a5" PRIMARY KEY ("id"))`,
  `CREATE INDEX "adoption_going" ON "adoption"  ("place_id") WHERE state = 'going'`,
  `CREATE TABLE "mend" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "kind" text NOT NULL, "words" text NOT NULL, "who" text NOT NULL, "at" TIMESTAMP WITH TIME ZONE NOT NULL, "state" text NOT NULL, "items" integer NOT NULL, "takes_back" integer, "kept_until" date, "emptied_at" TIMESTAMP WITH TIME ZONE, "before" jsonb, CONSTRAINT "mend_state" CHECK (state in ('doing', 'done', 'needs attention')), CONSTRAINT "PK_583bf5a98bfce69e94ccc59c06c" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "mend_takes_back" ON "mend"  ("takes_back") WHERE takes_back is not null`,
  `CREATE INDEX "mend_keeps" ON "mend"  ("kept_until") WHERE kept_until is not null`,
  `CREATE INDEX "mend_open" ON "mend"  ("id") WHERE state <> 'done'`,
  `CREATE TABLE "mend_move" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "mend_id" integer NOT NULL, "position" integer NOT NULL, "place_id" text NOT NULL, "what" text NOT NULL, "filed_item_id" integer, "from_path" text NOT NULL, "to_path" text NOT NULL, "state" text NOT NULL, "problem" text, CONSTRAINT "mend_move_state" CHECK (state in ('waiting', 'done', 'failed', 'void')), CONSTRAINT "mend_move_what" CHECK (what in ('file', 'folder', 'leaves', 'empty folder')), CONSTRAINT "PK_5ac920e274f19aa7f6931ddad70" PRIMARY KEY ("id"))`,
  `CREATE INDEX "mend_move_filed" ON "mend_move"  ("filed_item_id") WHERE filed_item_id is not null`,
  `CREATE INDEX "mend_move_failed" ON "mend_move"  ("place_id") WHERE state = 'failed'`,
  `CREATE INDEX "mend_move_waiting" ON "mend_move"  ("place_id", "filed_item_id") WHERE state = 'waiting'`,
  `CREATE INDEX "mend_move_of" ON "mend_move"  ("mend_id", "position") `,
  `CREATE TABLE "former_path" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "filed_item_id" integer NOT NULL, "path" text NOT NULL, "folded_path" text NOT NULL, "folded_folder" text NOT NULL, "until" TIMESTAMP WITH TIME ZONE NOT NULL, "mend_id" integer NOT NULL, "n" integer, CONSTRAINT "PK_c7da3894628b6cdf8ed5b7d7327" PRIMARY KEY ("id"))`,
  `CREATE INDEX "former_path_of" ON "former_path"  ("filed_item_id") `,
  `CREATE INDEX "former_path_folded" ON "former_path"  ("folded_path") `,
  `CREATE INDEX "former_path_by" ON "former_path"  ("mend_id") `,
  `CREATE INDEX "former_path_in" ON "former_path"  ("folded_folder") `,
  `ALTER TABLE "intake" ADD "adopted_at" text`,
  `ALTER TABLE "intake" ADD "adoption_id" integer`,
  `CREATE INDEX "intake_adoption" ON "intake"  ("adoption_id") WHERE adoption_id is not null`,
  `ALTER TABLE "stood_folder" ADD CONSTRAINT "stood_folder_at" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "stray" ADD CONSTRAINT "stray_place" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "drive_finding" ADD CONSTRAINT "drive_finding_place" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "drive_check" ADD CONSTRAINT "drive_check_place" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "adoption" ADD CONSTRAINT "adoption_place" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "mend" ADD CONSTRAINT "mend_of" FOREIGN KEY ("takes_back") REFERENCES "mend"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "mend_move" ADD CONSTRAINT "mend_move_mend" FOREIGN KEY ("mend_id") REFERENCES "mend"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "mend_move" ADD CONSTRAINT "mend_move_at" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "mend_move" ADD CONSTRAINT "mend_move_item" FOREIGN KEY ("filed_item_id") REFERENCES "filed_item"("id") ON DELETE SET NULL ON UPDATE NO ACTION`,
  `ALTER TABLE "former_path" ADD CONSTRAINT "former_path_item" FOREIGN KEY ("filed_item_id") REFERENCES "filed_item"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
];

const FUNCTIONS: readonly string[] = [
  // A copy whose place has not given it its new name yet: it stands under the old one.
  `create function is_moving(filed int, place text) returns boolean language sql stable as $$
  select exists (select from mend_move m where m.state = 'waiting' and m.what in ('file', 'folder') and m.place_id = place and (m.filed_item_id = filed
    or (m.filed_item_id is null and m.what = 'folder'
      and exists (select from filed_item f where f.id = filed and starts_with(f.folder || '/', m.to_path || '/')))))
$$`,
  // What is filed in a folder goes to another one: both are counted anew by what changed.
  `create function folders_moved() returns trigger language plpgsql as $$
begin
  if not exists (select from new_filed n join old_filed o on o.id = n.id where o.folded_folder <> n.folded_folder) then
    return null;
  end if;
  insert into filed_folder as k (folded, folder, items, bytes, newest)
  select n.folded_folder, (array_agg(n.folder order by n.id))[1], count(*), sum(n.bytes), max(n.id)
  from new_filed n join old_filed o on o.id = n.id where o.folded_folder <> n.folded_folder group by 1 order by 1
  on conflict (folded) do update set items = k.items + excluded.items, bytes = k.bytes + excluded.bytes,
    newest = greatest(k.newest, excluded.newest);
  update filed_folder k set items = k.items - o.items, bytes = k.bytes - o.bytes
  from (select o.folded_folder, count(*) as items, sum(o.bytes) as bytes from old_filed o join new_filed n on n.id = o.id
    where o.folded_folder <> n.folded_folder group by 1) o where k.folded = o.folded_folder;
  delete from filed_folder k using (select distinct o.folded_folder from old_filed o join new_filed n on n.id = o.id
    where o.folded_folder <> n.folded_folder) o where k.folded = o.folded_folder and k.items <= 0;
  return null;
end $$`,
  `create trigger filed_item_to_folder after update on filed_item referencing old table as old_filed new table as new_filed
     for each statement execute function folders_moved()`,
  ...(['insert', 'delete'] as const).map(
    (act) =>
      `create trigger former_path_tells_of_${act} after ${act} on former_path referencing ${act === 'delete' ? 'old' : 'new'} table as changed
       for each statement execute function tell_shelf('filed', 'filed_item_id')`,
  ),
];
