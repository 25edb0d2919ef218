import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Places that are filled later or hold a part only, and what must be written beside the files. */
export class Proof1764300000000 implements MigrationInterface {
  name = 'Proof1764300000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(
      new Error('This migration cannot be undone: copies at places that are filled later would be lost sight of.'),
    );
  }
}

const STATEMENTS = [
  `ALTER TABLE "place" ADD "fill" text NOT NULL DEFAULT 'with the card'`,
  `ALTER TABLE "place" ADD "holds_kinds" text array`,
  `ALTER TABLE "place" ADD "holds_assignments" text array`,
  `ALTER TABLE "place" ADD "bytes_per_second" integer`,
  // What a person wants of a filing: to go on (null), to rest, or to end.
  `ALTER TABLE "intake" ADD "halt" text`,
  `CREATE TABLE "beside_due" ("intake_id" integer NOT NULL, "folder" text NOT NULL, "place_id" text NOT NULL,
     "due_at" TIMESTAMP WITH TIME ZONE NOT NULL DEFAULT now(), "problem" text,
     CONSTRAINT "PK_beside_due" PRIMARY KEY ("intake_id", "folder", "place_id"))`,
  // Once a copy tallies, or something else is known of an item that is filed, its folder's lists and records are due.
  `create function copies_due() returns trigger language plpgsql as $$
begin
  insert into beside_due (intake_id, folder, place_id)
  select distinct f.intake_id, f.folder, n.place_id from new_copy n
    join old_copy o on o.filed_item_id = n.filed_item_id and o.place_id = n.place_id
    join filed_item f on f.id = n.filed_item_id
  where n.state = 'tallied' and o.state <> 'tallied'
  on conflict (intake_id, folder, place_id) do update set due_at = now();
  return null;
end $$`,
  `create trigger copy_explained after update on copy referencing old table as old_copy new table as new_copy
     for each statement execute function copies_due()`,
  `create function item_due() returns trigger language plpgsql as $$
begin
  insert into beside_due (intake_id, folder, place_id)
  select f.intake_id, f.folder, c.place_id from filed_item f join copy c on c.filed_item_id = f.id
  where f.item_id = new.id and c.state = 'tallied'
  on conflict (intake_id, folder, place_id) do update set due_at = now();
  return null;
end $$`,
  `create trigger item_explained after update of verdict, description, contributor_id, assignment_id, role, profile on item
     for each row when (old.* is distinct from new.*) execute function item_due()`,
  `create function intake_due() returns trigger language plpgsql as $$
begin
  insert into beside_due (intake_id, folder, place_id)
  select distinct f.intake_id, f.folder, c.place_id from filed_item f join copy c on c.filed_item_id = f.id
  where f.intake_id = new.id and c.state = 'tallied'
  on conflict (intake_id, folder, place_id) do update set due_at = now();
  return null;
end $$`,
  `create trigger intake_explained after update of contributor_id, assignment_id, cleared_at on intake
     for each row when (old.contributor_id is distinct from new.contributor_id
       or old.assignment_id is distinct from new.assignment_id or old.cleared_at is distinct from new.cleared_at)
     execute function intake_due()`,
];
