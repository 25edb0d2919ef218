import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Since when a card lies in its tray, which cards are the house's own, what else is lent, and to whom. */
export class Lending1764400000000 implements MigrationInterface {
  name = 'Lending1764400000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: who has what would be forgotten.'));
  }
}

const STATEMENTS = [
  `ALTER TABLE "card" ADD "tray_since" TIMESTAMP WITH TIME ZONE`,
  `UPDATE "card" SET "tray_since" = coalesce((SELECT max(i.received_at) FROM "intake" i WHERE i.card_id = "card".id), now())`,
  `ALTER TABLE "card" ALTER COLUMN "tray_since" SET NOT NULL`,
  `ALTER TABLE "card" ADD "ours" boolean NOT NULL DEFAULT false`,
  `CREATE TABLE "kit" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "kind" text NOT NULL, "label" text NOT NULL,
     "name" text NOT NULL DEFAULT '', CONSTRAINT "PK_kit" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "kit_label" ON "kit" ("label")`,
  `CREATE TABLE "loan" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "card_id" integer, "kit_id" integer,
     "contributor_id" integer NOT NULL, "lent_at" TIMESTAMP WITH TIME ZONE NOT NULL, "lent_by" text NOT NULL, "due" date,
     "note" text NOT NULL DEFAULT '', "back_at" TIMESTAMP WITH TIME ZONE, "back_by" text,
     CONSTRAINT "loan_of_one_thing" CHECK (num_nonnulls(card_id, kit_id) = 1), CONSTRAINT "PK_loan" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "loan_open_card" ON "loan" ("card_id") WHERE back_at is null`,
  `CREATE UNIQUE INDEX "loan_open_kit" ON "loan" ("kit_id") WHERE back_at is null`,
  `ALTER TABLE "loan" ADD CONSTRAINT "loan_card" FOREIGN KEY ("card_id") REFERENCES "card"("id")`,
  `ALTER TABLE "loan" ADD CONSTRAINT "loan_kit" FOREIGN KEY ("kit_id") REFERENCES "kit"("id")`,
  `ALTER TABLE "loan" ADD CONSTRAINT "loan_contributor" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id")`,
];
