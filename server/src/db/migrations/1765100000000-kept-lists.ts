import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What is kept as on the card is explained once, at its base: nothing of ours stands between the card's own files. */
export class KeptLists1765100000000 implements MigrationInterface {
  name = 'KeptLists1765100000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...COLUMNS, ...functions('list_folder')]) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of functions('folder')) await runner.query(statement);
    await runner.query(`ALTER TABLE "filed_item" DROP COLUMN "list_folder", DROP COLUMN "folded_list_folder"`);
  }
}

const COLUMNS = [
  `ALTER TABLE "filed_item" ADD COLUMN "list_folder" text, ADD COLUMN "folded_list_folder" text`,
  `UPDATE "filed_item" SET list_folder = folder, folded_list_folder = folded_folder`,
  `ALTER TABLE "filed_item" ALTER COLUMN "list_folder" SET NOT NULL, ALTER COLUMN "folded_list_folder" SET NOT NULL`,
  `CREATE INDEX "filed_item_list" ON "filed_item" ("folded_list_folder")`,
];

/** The triggers' functions, by the column that says where lists stand. */
const functions = (folder: string): string[] => [
  `create or replace function copies_due() returns trigger language plpgsql as $$
begin
  insert into beside_due (intake_id, folder, place_id)
  select distinct f.intake_id, f.${folder}, n.place_id from new_copy n
    join old_copy o on o.filed_item_id = n.filed_item_id and o.place_id = n.place_id
    join filed_item f on f.id = n.filed_item_id
  where n.state = 'tallied' and o.state <> 'tallied'
  on conflict (intake_id, folder, place_id) do update set due_at = now();
  return null;
end $$`,
  ...(
    [
      ['item_due', 'f.item_id = new.id'],
      ['intake_due', 'f.intake_id = new.id'],
      ['items_intake_due', 'f.intake_id = new.intake_id'],
    ] as const
  ).map(
    ([name, fits]) => `create or replace function ${name}() returns trigger language plpgsql as $$
begin
  insert into beside_due (intake_id, folder, place_id)
  select distinct f.intake_id, f.${folder}, c.place_id from filed_item f join copy c on c.filed_item_id = f.id
  where ${fits} and c.state = 'tallied'
  on conflict (intake_id, folder, place_id) do update set due_at = now();
  return null;
end $$`,
  ),
];
