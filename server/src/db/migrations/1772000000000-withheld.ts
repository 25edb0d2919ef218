import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Contributors who are not of age, and names that are erased from the log. */
export class Withheld1772000000000 implements MigrationInterface {
  name = 'Withheld1772000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...MINORS, ...ERASING]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: names of minors would be seen by everybody.'));
  }
}

const MINORS: readonly string[] = [
  `ALTER TABLE "contributor" ADD "minor" boolean NOT NULL DEFAULT false`,
  `CREATE INDEX "contributor_minor" ON "contributor"  ("id") WHERE minor`,
];

/** The one way in which something told is changed: by an event of the same transaction that says so. */
const ERASING: readonly string[] = [
  `CREATE TABLE "erasing" ("contributor_id" integer NOT NULL, "names" text array NOT NULL, "lines" text array NOT NULL, "who" text NOT NULL, "xact" bigint NOT NULL, "upto" bigint NOT NULL DEFAULT '0', CONSTRAINT "PK_erasing" PRIMARY KEY ("contributor_id"))`,
  `create or replace function refuse_change() returns trigger language plpgsql as $$
begin
  if tg_op = 'UPDATE' and current_setting('tally.erasing', true) = 'on' then return null; end if;
  raise exception '% is append-only: % is refused', tg_table_name, tg_op using errcode = 'insufficient_privilege';
end $$`,
  `create function erase_told(ids bigint[], whos text[], texts text[], datas text[], salts bytea[], eraser bigint)
returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if not exists (select from event where id = eraser and kind = 'erased' and xact = pg_current_xact_id()::text::bigint) then
    raise exception 'something is erased only by an event that says so' using errcode = 'insufficient_privilege';
  end if;
  perform set_config('tally.erasing', 'on', true);
  update event e set who = t.who, text = t.text, data = t.data::jsonb
    from unnest(ids, whos, texts, datas) as t (id, who, text, data) where e.id = t.id;
  update event_link l set salt = t.salt, erased_by = eraser from unnest(ids, salts) as t (id, salt) where l.event_id = t.id;
  perform set_config('tally.erasing', 'off', true);
end $$`,
  `revoke execute on function erase_told(bigint[], text[], text[], text[], bytea[], bigint) from public`,
];
