import type { MigrationInterface, QueryRunner } from 'typeorm';

/** House and intakes are told apart by ids that nobody else draws; the log goes on when its database is another one. */
export class OwnLife1775000000000 implements MigrationInterface {
  name = 'OwnLife1775000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of BACK) await runner.query(statement);
  }
}

const STATEMENTS: readonly string[] = [
  // RFC 9562, section 5.7: 48 bits of Unix time in milliseconds, the version's four, the rest at random.
  `CREATE FUNCTION uuid_v7(at timestamptz DEFAULT clock_timestamp()) RETURNS uuid LANGUAGE sql VOLATILE AS $$
    select encode(set_bit(set_bit(overlay(uuid_send(gen_random_uuid())
      placing substring(int8send(floor(extract(epoch from at) * 1000)::bigint) from 3) from 1 for 6), 52, 1), 53, 1), 'hex')::uuid
  $$`,
  // Forty bits at random: short enough to stand in a folder's name.
  `CREATE FUNCTION new_folder() RETURNS text LANGUAGE sql VOLATILE AS $$ select right(gen_random_uuid()::text, 10) $$`,
  `CREATE TABLE "house_life" ("one" boolean NOT NULL DEFAULT true, "id" uuid NOT NULL, "epoch" integer NOT NULL, "database" text NOT NULL, CONSTRAINT "house_life_one" CHECK (one), CONSTRAINT "PK_house_life" PRIMARY KEY ("one"))`,
  `ALTER TABLE "intake" ADD "uid" uuid`,
  `UPDATE "intake" SET "uid" = uuid_v7(received_at)`,
  `ALTER TABLE "intake" ALTER COLUMN "uid" SET NOT NULL`,
  `ALTER TABLE "intake" ALTER COLUMN "uid" SET DEFAULT uuid_v7()`,
  `CREATE UNIQUE INDEX "intake_uid" ON "intake"  ("uid") `,
  // Those that have begun keep the folder that they began in.
  `ALTER TABLE "hand_in" ADD "folder" text`,
  `UPDATE "hand_in" SET "folder" = id::text`,
  `ALTER TABLE "hand_in" ALTER COLUMN "folder" SET NOT NULL`,
  `ALTER TABLE "hand_in" ALTER COLUMN "folder" SET DEFAULT new_folder()`,
  `CREATE TABLE "backup_made" ("id" integer GENERATED ALWAYS AS IDENTITY NOT NULL, "at" TIMESTAMP WITH TIME ZONE NOT NULL, "destination" text NOT NULL, "apart" boolean NOT NULL, "folder" text, "bytes" bigint NOT NULL, "problem" text, CONSTRAINT "PK_backup_made" PRIMARY KEY ("id"))`,
  `CREATE INDEX "backup_made_at" ON "backup_made"  ("destination", "at") `,
  `ALTER TABLE "place" ADD "met" integer NOT NULL DEFAULT '0'`,
  `ALTER TABLE "event" ADD "epoch" integer NOT NULL DEFAULT '1'`,
  `ALTER TABLE "event" ALTER COLUMN "epoch" DROP DEFAULT`,
  `DROP INDEX "event_order"`,
  `CREATE INDEX "event_order" ON "event"  ("epoch", "xact", "id") `,
  // Nobody raises the epoch while a transaction is open that told something in it (db/lock-kinds: epoch).
  `CREATE FUNCTION current_epoch() RETURNS integer LANGUAGE plpgsql VOLATILE AS $$
  begin
    perform pg_advisory_xact_lock_shared(7317, 0);
    return coalesce((select epoch from house_life), 1);
  end $$`,
  // The records get the ids.
  `insert into beside_due (intake_id, folder, place_id) select distinct f.intake_id, f.list_folder, c.place_id
     from filed_item f join copy c on c.filed_item_id = f.id where c.state = 'tallied' and f.hash is not null on conflict do nothing`,
];

const BACK: readonly string[] = [
  `DROP FUNCTION current_epoch()`,
  `DROP INDEX "event_order"`,
  `ALTER TABLE "event" DROP COLUMN "epoch"`,
  `CREATE INDEX "event_order" ON "event"  ("xact", "id") `,
  `ALTER TABLE "place" DROP COLUMN "met"`,
  `ALTER TABLE "hand_in" DROP COLUMN "folder"`,
  `ALTER TABLE "intake" DROP COLUMN "uid"`,
  `DROP TABLE "backup_made"`,
  `DROP TABLE "house_life"`,
  `DROP FUNCTION new_folder()`,
  `DROP FUNCTION uuid_v7(timestamptz)`,
];
