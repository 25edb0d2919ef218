import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The first schema, and the guard that keeps the log append-only for everybody. */
export class First1745000000000 implements MigrationInterface {
  name = 'First1745000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...TABLES, ...RATE_LIMIT, ...APPEND_ONLY]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('The first migration cannot be undone: it would throw the logbook away.'));
  }
}

const TABLES = [
  `CREATE TABLE "person" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "name" text NOT NULL, "password_hash" text NOT NULL, "role" text NOT NULL, "created_at" TIMESTAMP WITH TIME ZONE NOT NULL, CONSTRAINT "PK_5fdaf670315c4b7e70cce85daa3" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "person_name" ON "person"  ("name")`,
  `CREATE TABLE "session" ("token_hash" bytea NOT NULL, "person_id" integer NOT NULL, "expires_at" TIMESTAMP WITH TIME ZONE NOT NULL, CONSTRAINT "PK_a83507eb0338ac037780e02f2b9" PRIMARY KEY ("token_hash"))`,
  `CREATE TABLE "contributor" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "code" text NOT NULL, "name" text NOT NULL, "created_at" TIMESTAMP WITH TIME ZONE NOT NULL, CONSTRAINT "PK_816afef005b8100becacdeb6e58" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "contributor_code" ON "contributor"  ("code")`,
  `CREATE TABLE "camera" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "make" text NOT NULL, "model" text NOT NULL, "serial" text NOT NULL, "contributor_id" integer, CONSTRAINT "PK_3e6992bc5e67b9f9a6f95a5fe6f" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "camera_body" ON "camera"  ("make", "model", "serial")`,
  `CREATE TABLE "assignment" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "slug" text NOT NULL, "title" text NOT NULL, "from_day" date NOT NULL, "to_day" date NOT NULL, "place" text NOT NULL, "expected_cards" integer NOT NULL, CONSTRAINT "PK_43c2f5a3859f54cedafb270f37e" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "assignment_slug" ON "assignment"  ("slug")`,
  `CREATE TABLE "assignment_expected" ("assignment_id" integer NOT NULL, "contributor_id" integer NOT NULL, CONSTRAINT "PK_c64db4b37162fdeecec8a0a63c6" PRIMARY KEY ("assignment_id", "contributor_id"))`,
  `CREATE TABLE "card" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "label" text, "volume" text NOT NULL, "tray" text NOT NULL, CONSTRAINT "PK_9451069b6f1199730791a7f4ae4" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "card_label" ON "card"  ("label")`,
  `CREATE TABLE "house_rule" ("revision" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "folder_line" text NOT NULL, "file_line" text NOT NULL, "created_at" TIMESTAMP WITH TIME ZONE NOT NULL, CONSTRAINT "PK_6a158114fba4de0b87f93311499" PRIMARY KEY ("revision"))`,
  `CREATE TABLE "intake" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "number" text NOT NULL, "card_id" integer NOT NULL, "contributor_id" integer, "assignment_id" integer, "rule_revision" integer, "state" text NOT NULL, "received_at" TIMESTAMP WITH TIME ZONE NOT NULL, "received_by" text NOT NULL, "station" text NOT NULL, "source_path" text NOT NULL, "present" boolean NOT NULL, "note" text, "totals" jsonb NOT NULL, "words" text NOT NULL, CONSTRAINT "PK_ca09c74600819624d88bf60b6fe" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "intake_number" ON "intake"  ("number")`,
  `CREATE INDEX "intake_received" ON "intake"  ("received_at", "id")`,
  `CREATE TABLE "item" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "intake_id" integer NOT NULL, "path" text NOT NULL, "path_bytes" bytea NOT NULL, "bytes" bigint NOT NULL, "modified_at" TIMESTAMP WITH TIME ZONE NOT NULL, "kind" text NOT NULL, "leader" text NOT NULL, "set_aside" text, "problem" text, "remark" text, "captured_local" text NOT NULL, "captured_offset" integer, "capture_source" text NOT NULL, "capture_original" text NOT NULL, "make" text, "model" text, "serial" text, "width" integer, "height" integer, "duration_ms" integer, "orientation" integer, "read" boolean NOT NULL, "taken" boolean NOT NULL, "quick_hash" bytea, "already_filed_id" integer, "already_confirmed" boolean NOT NULL, CONSTRAINT "PK_d3c0c71f23e7adcf952a1d13423" PRIMARY KEY ("id"))`,
  `CREATE INDEX "item_intake" ON "item"  ("intake_id")`,
  `CREATE INDEX "item_identity" ON "item"  ("bytes", "modified_at")`,
  `CREATE TABLE "filed_item" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "intake_id" integer NOT NULL, "item_id" integer NOT NULL, "folder" text NOT NULL, "folded_folder" text NOT NULL, "name" text NOT NULL, "folded_path" text NOT NULL, "n" integer, "bytes" bigint NOT NULL, "hash" bytea, "quick_hash" bytea, "filed_at" TIMESTAMP WITH TIME ZONE, CONSTRAINT "PK_4c6ed02c98da5f536c0ce894cdb" PRIMARY KEY ("id"))`,
  `CREATE INDEX "filed_item_intake" ON "filed_item"  ("intake_id")`,
  `CREATE UNIQUE INDEX "filed_item_item" ON "filed_item"  ("item_id")`,
  `CREATE INDEX "filed_item_folder" ON "filed_item"  ("folded_folder")`,
  `CREATE UNIQUE INDEX "filed_item_path" ON "filed_item"  ("folded_path")`,
  `CREATE INDEX "filed_item_identity" ON "filed_item"  ("bytes", "quick_hash")`,
  `CREATE TABLE "place" ("id" text NOT NULL, "name" text NOT NULL, "kind" text NOT NULL, "root" text NOT NULL, "required" boolean NOT NULL, "position" integer NOT NULL, "mark" text NOT NULL, CONSTRAINT "PK_96ab91d43aa89c5de1b59ee7cca" PRIMARY KEY ("id"))`,
  `CREATE TABLE "copy" ("filed_item_id" integer NOT NULL, "place_id" text NOT NULL, "state" text NOT NULL, "tallied_at" TIMESTAMP WITH TIME ZONE, "proof" text, "problem" text, CONSTRAINT "PK_fb3b246a0ebd1a590c71d9d75f2" PRIMARY KEY ("filed_item_id", "place_id"))`,
  `CREATE INDEX "copy_unfinished" ON "copy"  ("state") WHERE state <> 'tallied'`,
  `CREATE TABLE "counter" ("scope" text NOT NULL, "next" integer NOT NULL, CONSTRAINT "PK_b12fa1ae23d3f730c5c509e0a58" PRIMARY KEY ("scope"))`,
  `CREATE TABLE "event" ("id" bigint GENERATED ALWAYS AS IDENTITY NOT NULL, "at" TIMESTAMP WITH TIME ZONE NOT NULL, "kind" text NOT NULL, "intake_id" integer, "who" text, "text" text NOT NULL, "data" jsonb, CONSTRAINT "PK_30c2f3bbaf6d34a55f8ae6e4614" PRIMARY KEY ("id"))`,
  `CREATE INDEX "event_intake" ON "event"  ("intake_id", "id")`,
  `ALTER TABLE "session" ADD CONSTRAINT "FK_5c6e00902a1344d01a8d90f33cf" FOREIGN KEY ("person_id") REFERENCES "person"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "camera" ADD CONSTRAINT "FK_a012c2413429738a60ce39be087" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "assignment_expected" ADD CONSTRAINT "FK_c657f727b95f9c200d2d82e58b1" FOREIGN KEY ("assignment_id") REFERENCES "assignment"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "assignment_expected" ADD CONSTRAINT "FK_4dc8fcebdd3608709adfeb03d3a" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "intake" ADD CONSTRAINT "FK_e7a8cd4faf207761d09616772dd" FOREIGN KEY ("card_id") REFERENCES "card"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "intake" ADD CONSTRAINT "FK_49bc6e9303472b0cb7fe418f55a" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "intake" ADD CONSTRAINT "FK_81aece44b421fa89e4070d8f9d0" FOREIGN KEY ("assignment_id") REFERENCES "assignment"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "intake" ADD CONSTRAINT "FK_2fa6be04e5780dff62f4fc080c7" FOREIGN KEY ("rule_revision") REFERENCES "house_rule"("revision") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "item" ADD CONSTRAINT "FK_a3918c5b2a6d03d53138599aeb9" FOREIGN KEY ("intake_id") REFERENCES "intake"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "filed_item" ADD CONSTRAINT "FK_e0e7a5e040cbe225165d1782fa2" FOREIGN KEY ("intake_id") REFERENCES "intake"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "filed_item" ADD CONSTRAINT "FK_03e1b9cc6e71ad4228b25b32500" FOREIGN KEY ("item_id") REFERENCES "item"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "copy" ADD CONSTRAINT "FK_706b4ed5aa9073dc836e27416ac" FOREIGN KEY ("filed_item_id") REFERENCES "filed_item"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  `ALTER TABLE "copy" ADD CONSTRAINT "FK_91cf88ebf5435002a638545a60b" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
];

/** Counts failed sign-ins. The shape is that of rate-limiter-flexible's PostgreSQL store. */
const RATE_LIMIT = [
  `create table sign_in_failure (key varchar(255) primary key, points integer not null default 0, expire bigint)`,
];

const APPEND_ONLY = [
  `create function refuse_change() returns trigger language plpgsql as $$
begin
  raise exception '% is append-only: % is refused', tg_table_name, tg_op using errcode = 'insufficient_privilege';
end $$`,
  ...['event', 'house_rule'].map(
    (table) =>
      `create trigger ${table}_append_only before update or delete or truncate on ${table}
        for each statement execute function refuse_change()`,
  ),
];
