import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Many hands: accounts that change, sessions that are seen and ended, links with bounds, a log that is chained. */
export class Door1771000000000 implements MigrationInterface {
  name = 'Door1771000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...PEOPLE, ...SESSIONS, ...LINKS, ...LOG]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: who was retired could sign in again.'));
  }
}

const PEOPLE: readonly string[] = [
  `ALTER TABLE "person" DROP CONSTRAINT "person_role"`,
  `ALTER TABLE "person" ADD CONSTRAINT "person_role" CHECK (role in ('administrator', 'coordinator', 'helper', 'looker', 'hand-in'))`,
  `CREATE TABLE "recovery_code" ("code_hash" bytea NOT NULL, "person_id" integer NOT NULL, CONSTRAINT "PK_e028e80fe2ceb3a76bfb340ad63" PRIMARY KEY ("code_hash"))`,
  `CREATE INDEX "recovery_code_person" ON "recovery_code"  ("person_id") `,
  `ALTER TABLE "person" ADD "retired_at" TIMESTAMP WITH TIME ZONE`,
  `ALTER TABLE "person" ADD "code_hash" bytea`,
  `ALTER TABLE "person" ADD "code_until" TIMESTAMP WITH TIME ZONE`,
  `ALTER TABLE "person" ADD "until" TIMESTAMP WITH TIME ZONE`,
  `ALTER TABLE "person" ADD "contributor_id" integer`,
  `ALTER TABLE "person" ADD "assignment_id" integer`,
  `ALTER TABLE "person" ADD "of_kind" text`,
  `ALTER TABLE "person" ADD "quota_bytes" bigint`,
  `ALTER TABLE "person" ADD "quota_files" integer`,
  `ALTER TABLE "person" ADD "sees_persons" boolean NOT NULL DEFAULT false`,
  `ALTER TABLE "person" ADD "second_secret" text`,
  `ALTER TABLE "person" ADD "second_at" TIMESTAMP WITH TIME ZONE`,
  `ALTER TABLE "person" ADD "second_step" bigint NOT NULL DEFAULT '0'`,
  `ALTER TABLE "person" ADD "subject" text`,
  `ALTER TABLE "person" ALTER COLUMN "password_hash" DROP NOT NULL`,
  `CREATE UNIQUE INDEX "person_subject" ON "person"  ("subject") WHERE subject is not null`,
  `ALTER TABLE "person" ADD CONSTRAINT "person_contributor" FOREIGN KEY ("contributor_id") REFERENCES "contributor"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "person" ADD CONSTRAINT "person_assignment" FOREIGN KEY ("assignment_id") REFERENCES "assignment"("id") ON DELETE NO ACTION ON UPDATE NO ACTION`,
  `ALTER TABLE "recovery_code" ADD CONSTRAINT "recovery_code_of" FOREIGN KEY ("person_id") REFERENCES "person"("id") ON DELETE CASCADE ON UPDATE NO ACTION`,
  // Names are looked up however their letters are cased.
  `CREATE UNIQUE INDEX "person_low" ON "person" (lower(name))`,
];

const SESSIONS: readonly string[] = [
  // Sessions of before are not known well enough: whoever has one signs in again.
  `DELETE FROM "session"`,
  `ALTER TABLE "session" ADD "id" text NOT NULL`,
  `ALTER TABLE "session" ADD "begun_at" TIMESTAMP WITH TIME ZONE NOT NULL`,
  `ALTER TABLE "session" ADD "ends_at" TIMESTAMP WITH TIME ZONE NOT NULL`,
  `ALTER TABLE "session" ADD "used_at" TIMESTAMP WITH TIME ZONE NOT NULL`,
  `ALTER TABLE "session" ADD "address" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "session" ADD "agent" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "session" ADD "by_code" boolean NOT NULL DEFAULT false`,
  `CREATE INDEX "session_person" ON "session"  ("person_id") `,
  `CREATE INDEX "session_expires" ON "session"  ("expires_at") `,
  `CREATE UNIQUE INDEX "session_id" ON "session"  ("id") `,
];

const LINKS: readonly string[] = [
  `ALTER TABLE "hand_in_link" ADD "name" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "hand_in_link" ADD "revoked_at" TIMESTAMP WITH TIME ZONE`,
  `ALTER TABLE "hand_in" ADD "files" integer NOT NULL DEFAULT '0'`,
  `ALTER TABLE "hand_in" ADD "bytes" bigint NOT NULL DEFAULT '0'`,
  `CREATE INDEX "hand_in_person" ON "hand_in"  ("person_id") `,
  `CREATE INDEX "hand_in_open" ON "hand_in"  ("done") WHERE not done`,
  // Links of before end as they would have ended.
  `UPDATE "person" p SET "until" = l.expires_at FROM "hand_in_link" l WHERE l.person_id = p.id`,
  `UPDATE "hand_in" h SET "files" = s.files, "bytes" = s.bytes FROM (
     SELECT hand_in_id, count(*)::int AS files, sum(bytes) AS bytes FROM "hand_in_file" WHERE state <> 'filed' GROUP BY 1
   ) s WHERE s.hand_in_id = h.id`,
];

const LOG: readonly string[] = [
  // What happened before has number 0: it is chained first, in the order of its ids.
  `ALTER TABLE "event" ADD "xact" bigint NOT NULL DEFAULT '0'`,
  `ALTER TABLE "event" ALTER COLUMN "xact" DROP DEFAULT`,
  `CREATE TABLE "event_link" ("position" bigint NOT NULL, "event_id" bigint NOT NULL, "hash" bytea NOT NULL, "digest" bytea NOT NULL, "salt" bytea NOT NULL, "erased_by" bigint, CONSTRAINT "PK_2d81759ea111bb9738d0fcfeaca" PRIMARY KEY ("position"))`,
  `CREATE UNIQUE INDEX "event_link_event" ON "event_link"  ("event_id") `,
  `CREATE INDEX "event_kind" ON "event"  ("kind", "id") `,
  `CREATE INDEX "event_order" ON "event"  ("xact", "id") `,
  `create trigger event_link_append_only before update or delete or truncate on event_link
     for each statement execute function refuse_change()`,
];
