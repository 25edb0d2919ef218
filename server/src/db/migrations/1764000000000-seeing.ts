import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Judging items, splitting a card, clock corrections, and handing in through a browser. */
export class Seeing1764000000000 implements MigrationInterface {
  name = 'Seeing1764000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...TABLES, ...CAMERA_TIMES, ...VERSIONS]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: what people said of their items would be lost.'));
  }
}

const TABLES = [
  `CREATE TABLE "clock_correction" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "make" text NOT NULL, "model" text NOT NULL, "serial" text NOT NULL, "shift_s" integer NOT NULL, "kind" text NOT NULL, "said_by" text NOT NULL, "said_at" TIMESTAMP WITH TIME ZONE NOT NULL, CONSTRAINT "PK_142a7b5622d182ac05dd0d93dae" PRIMARY KEY ("id"))`,
  `CREATE INDEX "clock_correction_body" ON "clock_correction"  ("make", "model", "serial", "id")`,
  `CREATE TABLE "hand_in_link" ("token_hash" bytea NOT NULL, "person_id" integer NOT NULL, "made_by" text NOT NULL, "made_at" TIMESTAMP WITH TIME ZONE NOT NULL, "expires_at" TIMESTAMP WITH TIME ZONE NOT NULL, CONSTRAINT "PK_9be8d8c2d98a08551cb0678ef6f" PRIMARY KEY ("token_hash"))`,
  `CREATE INDEX "hand_in_link_person" ON "hand_in_link"  ("person_id")`,
  `CREATE TABLE "hand_in" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "person_id" integer, "contributor_id" integer NOT NULL, "assignment_id" integer, "name" text NOT NULL, "listing" bytea NOT NULL, "intake_id" integer, "begun_at" TIMESTAMP WITH TIME ZONE NOT NULL, "done" boolean NOT NULL, CONSTRAINT "PK_dee2e0a92b6a3f6dbffdfdd80c4" PRIMARY KEY ("id"))`,
  `CREATE INDEX "hand_in_listing" ON "hand_in"  ("listing")`,
  `CREATE TABLE "hand_in_file" ("hand_in_id" integer NOT NULL, "position" integer NOT NULL, "path" text NOT NULL, "bytes" bigint NOT NULL, "modified_at" TIMESTAMP WITH TIME ZONE NOT NULL, "state" text NOT NULL, "problem" text, CONSTRAINT "PK_47b3735d569a73a85d0ce915873" PRIMARY KEY ("hand_in_id", "position"))`,
  `ALTER TABLE "card" ADD "on_insert" text NOT NULL DEFAULT 'show'`,
  `ALTER TABLE "item" ADD "contributor_id" integer`,
  `ALTER TABLE "item" ADD "assignment_id" integer`,
  `ALTER TABLE "item" ADD "camera_local" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "item" ADD "camera_offset" integer`,
  `ALTER TABLE "item" ADD "clock_shift_s" integer NOT NULL DEFAULT '0'`,
  `ALTER TABLE "item" ADD "verdict" text`,
  `ALTER TABLE "item" ADD "description" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "item" ADD "turned" integer NOT NULL DEFAULT '0'`,
  `ALTER TABLE "item" ADD "use_from_ms" integer`,
  `ALTER TABLE "item" ADD "use_to_ms" integer`,
  `ALTER TABLE "item" ADD "sharpness" real`,
  `ALTER TABLE "item" ADD "look" bytea`,
  `ALTER TABLE "item" ADD "pictured" boolean NOT NULL DEFAULT false`,
  `ALTER TABLE "item" ADD "twin_of" integer`,
  `ALTER TABLE "item" ADD "namesake_id" integer`,
  `ALTER TABLE "item" ADD "version" bigint NOT NULL DEFAULT '0'`,
  `CREATE INDEX "item_path" ON "item"  ("path")`,
  `CREATE INDEX "item_assignment" ON "item"  ("assignment_id") WHERE assignment_id is not null`,
  `ALTER TABLE "item" ADD CONSTRAINT "FK_add744c10da0f8d44ea22defcdf" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "item" ADD CONSTRAINT "FK_fed0ead2aada3d1b3840e464f23" FOREIGN KEY ("assignment_id") REFERENCES "assignment"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "hand_in_link" ADD CONSTRAINT "FK_4a4eac1d20a578961748fa99cc1" FOREIGN KEY ("person_id") REFERENCES "person"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "hand_in" ADD CONSTRAINT "FK_f4f1b4344853d9d662aea5ebdde" FOREIGN KEY ("person_id") REFERENCES "person"("id") ON DELETE SET NULL ON UPDATE NO ACTION`,
  `ALTER TABLE "hand_in" ADD CONSTRAINT "FK_c12348ccb9d68348675a9e030e7" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "hand_in" ADD CONSTRAINT "FK_3fe874ea8b4c5e6db9d1e4fbcb1" FOREIGN KEY ("assignment_id") REFERENCES "assignment"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "hand_in_file" ADD CONSTRAINT "FK_9651033b4fab1caa84b652354d1" FOREIGN KEY ("hand_in_id") REFERENCES "hand_in"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
];

/** Until now a camera's clock was always believed. */
const CAMERA_TIMES = [`update item set camera_local = captured_local, camera_offset = captured_offset`];

/** Every change of an item gives it the next version, whoever makes it. */
const VERSIONS = [
  `create sequence item_version`,
  `create function touch_item() returns trigger language plpgsql as $$
begin
  new.version := nextval('item_version');
  return new;
end $$`,
  `create trigger item_versioned before insert or update on item for each row execute function touch_item()`,
];
