import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Credit in the files: what was said in each, at which place it stands, and how it comes out again. */
export class Written1767000000000 implements MigrationInterface {
  name = 'Written1767000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: nobody would know how to take credit out of the files.'));
  }
}

const STATEMENTS = [
  `CREATE TABLE "credit_written" ("filed_item_id" integer NOT NULL, "version" integer NOT NULL, "how" text NOT NULL, "fingerprint" text NOT NULL, "reason" text, "bytes" bigint, "hash" bytea, "quick_hash" bytea, "undo" jsonb, "said" jsonb, "questions" jsonb NOT NULL DEFAULT '[]', CONSTRAINT "credit_written_how" CHECK (how in ('inside', 'beside', 'none')), CONSTRAINT "PK_3efb92d58fba8a879cbf52d9381" PRIMARY KEY ("filed_item_id", "version"))`,
  `CREATE INDEX "credit_written_identity" ON "credit_written"  ("bytes", "quick_hash") WHERE how = 'inside'`,
  `CREATE TABLE "credit_stands" ("filed_item_id" integer NOT NULL, "place_id" text NOT NULL, "version" integer NOT NULL, "hash" bytea, "bytes" bigint, "said" jsonb, "questions" jsonb NOT NULL DEFAULT '[]', CONSTRAINT "PK_b31f7bbba5ba358b58946979601" PRIMARY KEY ("filed_item_id", "place_id"))`,
  `ALTER TABLE "house_credit" ADD "writing" jsonb NOT NULL DEFAULT '{}'`,
  `ALTER TABLE "item_credit" ADD "standing" jsonb NOT NULL DEFAULT '{}'`,
  `ALTER TABLE "credit_written" ADD CONSTRAINT "credit_written_of" FOREIGN KEY ("filed_item_id") REFERENCES "filed_item"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "credit_stands" ADD CONSTRAINT "credit_stands_as" FOREIGN KEY ("filed_item_id", "version") REFERENCES "credit_written"("filed_item_id","version") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "credit_stands" ADD CONSTRAINT "credit_stands_at" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
];
