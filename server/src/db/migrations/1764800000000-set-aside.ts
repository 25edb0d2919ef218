import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Items that a person set aside with a reason, items that are gone from their card, and what of an intake is whose. */
export class SetAside1764800000000 implements MigrationInterface {
  name = 'SetAside1764800000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "assignment" DROP COLUMN "retired_at"');
    await runner.query('ALTER TABLE "contributor" DROP COLUMN "retired_at"');
    await runner.query('DROP TABLE "intake_part"');
    await runner.query('DROP INDEX "hand_in_intake"');
    await runner.query('ALTER TABLE "hand_in" DROP COLUMN "says_name"');
    await runner.query('DROP TRIGGER item_aside_explained ON item');
    await runner.query('DROP FUNCTION items_intake_due()');
    await runner.query('ALTER TABLE "item" DROP COLUMN "gone_at", DROP COLUMN "aside_by", DROP COLUMN "aside"');
  }
}

const STATEMENTS = [
  `ALTER TABLE "item" ADD COLUMN "aside" text, ADD COLUMN "aside_by" text, ADD COLUMN "gone_at" TIMESTAMP WITH TIME ZONE,
     ADD CONSTRAINT "item_aside" CHECK (aside in ('unreadable', 'gone', 'not ours'))`,
  // Until now a cleared card was known as a whole only; its index files stayed.
  `UPDATE "item" SET gone_at = n.cleared_at FROM "intake" n
     WHERE n.id = item.intake_id AND n.cleared_at IS NOT NULL AND item.set_aside IS NULL AND item.problem IS NULL`,
  // The record of an intake says what was set aside, in every folder that it was filed into.
  `CREATE FUNCTION items_intake_due() RETURNS trigger LANGUAGE plpgsql AS $$
begin
  insert into beside_due (intake_id, folder, place_id)
  select distinct f.intake_id, f.folder, c.place_id from filed_item f join copy c on c.filed_item_id = f.id
  where f.intake_id = new.intake_id and c.state = 'tallied'
  on conflict (intake_id, folder, place_id) do update set due_at = now();
  return null;
end $$`,
  `CREATE TRIGGER item_aside_explained AFTER UPDATE OF aside ON item
     FOR EACH ROW WHEN (old.aside IS DISTINCT FROM new.aside) EXECUTE FUNCTION items_intake_due()`,
  // Who and what is not offered any more.
  `ALTER TABLE "contributor" ADD COLUMN "retired_at" TIMESTAMP WITH TIME ZONE`,
  `ALTER TABLE "assignment" ADD COLUMN "retired_at" TIMESTAMP WITH TIME ZONE`,
  // Whoever hands in may be somebody whom the list does not know.
  `ALTER TABLE "hand_in" ALTER COLUMN "contributor_id" DROP NOT NULL, ADD COLUMN "says_name" text NOT NULL DEFAULT ''`,
  `CREATE INDEX "hand_in_intake" ON "hand_in" ("intake_id")`,
  `CREATE TABLE "intake_part" (
     "id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "intake_id" integer NOT NULL, "contributor_id" integer, "assignment_id" integer,
     "items" integer NOT NULL, "given" integer NOT NULL, "filed" integer NOT NULL, "bytes" bigint NOT NULL,
     CONSTRAINT "PK_intake_part" PRIMARY KEY ("id"))`,
  `ALTER TABLE "intake_part" ADD CONSTRAINT "intake_part_intake" FOREIGN KEY ("intake_id") REFERENCES "intake"("id") ON DELETE CASCADE,
     ADD CONSTRAINT "intake_part_contributor" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id"),
     ADD CONSTRAINT "intake_part_assignment" FOREIGN KEY ("assignment_id") REFERENCES "assignment"("id")`,
  `CREATE INDEX "intake_part_of" ON "intake_part" ("intake_id")`,
  `CREATE INDEX "intake_part_by" ON "intake_part" ("contributor_id")`,
  `CREATE INDEX "intake_part_for" ON "intake_part" ("assignment_id")`,
  `INSERT INTO "intake_part" (intake_id, contributor_id, assignment_id, items, given, filed, bytes)
     SELECT n.id, coalesce(i.contributor_id, n.contributor_id), coalesce(i.assignment_id, n.assignment_id), count(*),
       count(*) FILTER (WHERE i.taken OR f.id IS NOT NULL OR (i.already_filed_id IS NOT NULL AND i.already_confirmed)), count(f.hash), sum(i.bytes)
     FROM intake n JOIN item i ON i.intake_id = n.id LEFT JOIN filed_item f ON f.item_id = i.id
     WHERE i.set_aside IS NULL GROUP BY 1, 2, 3`,
];
