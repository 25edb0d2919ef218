import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What is known of the card in a reader, and whether it was let go. */
export class Readers1765000000000 implements MigrationInterface {
  name = 'Readers1765000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE "intake" DROP COLUMN "reader", DROP COLUMN "let_go"`);
    await runner.query(`DROP INDEX "card_work_doing"`);
    await runner.query(`DELETE FROM "card_work" WHERE kind = 'let go'`);
    await runner.query(`ALTER TABLE "card_work" DROP CONSTRAINT "card_work_kind",
      ADD CONSTRAINT "card_work_kind" CHECK (kind in ('look', 'clear', 'restore'))`);
  }
}

const STATEMENTS = [
  `ALTER TABLE "intake" ADD COLUMN "reader" jsonb, ADD COLUMN "let_go" text,
     ADD CONSTRAINT "intake_let_go" CHECK (let_go in ('asked', 'done'))`,
  `ALTER TABLE "card_work" DROP CONSTRAINT "card_work_kind",
     ADD CONSTRAINT "card_work_kind" CHECK (kind in ('look', 'clear', 'restore', 'let go'))`,
  `CREATE INDEX "card_work_doing" ON "card_work" ("intake_id") WHERE state = 'doing'`,
];
