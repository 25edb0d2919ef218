import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A station is a place of work: what needs its reader is asked of it, from wherever somebody sits. */
export class Stations1764700000000 implements MigrationInterface {
  name = 'Stations1764700000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of ['DROP TABLE "picture_asked"', 'DROP TABLE "card_work"', 'DROP INDEX "copy_place"'])
      await runner.query(statement);
  }
}

const STATEMENTS = [
  `CREATE TABLE "card_work" (
     "id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "kind" text NOT NULL, "intake_id" integer NOT NULL, "of_intake_id" integer NOT NULL,
     "station" text NOT NULL, "ask" jsonb NOT NULL, "who" text NOT NULL, "state" text NOT NULL, "answer" jsonb, "problem" text,
     "problem_kind" text, "asked_at" TIMESTAMP WITH TIME ZONE NOT NULL, CONSTRAINT "PK_card_work" PRIMARY KEY ("id"),
     CONSTRAINT "card_work_kind" CHECK (kind in ('look', 'clear', 'restore')),
     CONSTRAINT "card_work_state" CHECK (state in ('waiting', 'doing', 'done', 'refused')))`,
  `ALTER TABLE "card_work" ADD CONSTRAINT "card_work_intake" FOREIGN KEY ("intake_id") REFERENCES "intake"("id") ON DELETE CASCADE`,
  `ALTER TABLE "card_work" ADD CONSTRAINT "card_work_of" FOREIGN KEY ("of_intake_id") REFERENCES "intake"("id") ON DELETE CASCADE`,
  `CREATE INDEX "card_work_open" ON "card_work" ("station") WHERE state in ('waiting', 'doing')`,
  `CREATE TABLE "picture_asked" (
     "item_id" integer NOT NULL, "size" text NOT NULL, "station" text NOT NULL, "asked_at" TIMESTAMP WITH TIME ZONE NOT NULL DEFAULT now(),
     "answered" boolean NOT NULL DEFAULT false, "picture" bytea, CONSTRAINT "PK_picture_asked" PRIMARY KEY ("item_id", "size"),
     CONSTRAINT "picture_asked_size" CHECK (size in ('sheet', 'closer')))`,
  `ALTER TABLE "picture_asked" ADD CONSTRAINT "picture_asked_item" FOREIGN KEY ("item_id") REFERENCES "item"("id") ON DELETE CASCADE`,
  `CREATE INDEX "picture_asked_open" ON "picture_asked" ("station") WHERE not answered`,
  `CREATE INDEX "copy_place" ON "copy" ("place_id")`,
];
