import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What stands beside filed files is known as it was written; all of it is written once more, so that it is. */
export class BesideWritten1774000000000 implements MigrationInterface {
  name = 'BesideWritten1774000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "beside_written"');
    await runner.query('ALTER TABLE "credit_stands" DROP COLUMN "modified_at"');
  }
}

const STATEMENTS: readonly string[] = [
  `CREATE TABLE "beside_written" ("place_id" text NOT NULL, "folder" text COLLATE "C" NOT NULL, "name" text COLLATE "C" NOT NULL, "bytes" bigint NOT NULL, "hash" bytea NOT NULL, "intake" text, CONSTRAINT "PK_beside_written" PRIMARY KEY ("place_id", "folder", "name"))`,
  `ALTER TABLE "beside_written" ADD CONSTRAINT "beside_written_at" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "credit_stands" ADD "modified_at" TIMESTAMP WITH TIME ZONE`,
  `insert into beside_due (intake_id, folder, place_id) select distinct f.intake_id, f.list_folder, c.place_id
     from filed_item f join copy c on c.filed_item_id = f.id where c.state = 'tallied' and f.hash is not null on conflict do nothing`,
];
