import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * One owner of an intake's life: where its card really is, whether it has been read through, which numbers its filing
 * drew; states that are states; places by station; and versions of items that are seen in the order they were made.
 */
export class Rooms1764600000000 implements MigrationInterface {
  name = 'Rooms1764600000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...COLUMNS, ...CHECKS, ...PLACES, ...VERSIONS]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: it would forget which work is still to be done.'));
  }
}

const COLUMNS = [
  // A card is its file system, not its folder's name: the device it lay on, and a file that was there.
  `ALTER TABLE "intake" ADD "source_device" text`,
  `ALTER TABLE "intake" ADD "witness" bytea`,
  `ALTER TABLE "intake" ADD "read_through" boolean NOT NULL DEFAULT false`,
  `UPDATE "intake" SET "read_through" = not "present"`,
  `ALTER TABLE "intake" ADD "drawn" jsonb NOT NULL DEFAULT '[]'`,
  `CREATE INDEX "intake_unread" ON "intake" ("station") WHERE present and not read_through`,
  `CREATE INDEX "intake_card" ON "intake" ("card_id")`,
  // What lies in a reader is asked several times a second.
  `CREATE INDEX "intake_lying" ON "intake" ("station", "source_path")`,
];

const oneOf = (table: string, column: string, values: readonly string[]) =>
  `ALTER TABLE "${table}" ADD CONSTRAINT "${table}_${column}" CHECK (${column} in (${values.map((value) => `'${value}'`).join(', ')}))`;

const CHECKS = [
  oneOf('intake', 'state', ['open', 'filing', 'tallied', 'needs attention', 'closed']),
  oneOf('intake', 'halt', ['pause', 'stop']),
  oneOf('card', 'tray', ['in', 'on the desk', 'to give back', 'out']),
  oneOf('card', 'on_insert', ['show', 'open', 'take all new', 'file all new']),
  oneOf('item', 'kind', ['photo', 'raw', 'video', 'sound', 'sidecar', 'other']),
  oneOf('item', 'verdict', ['select', 'reshoot', 'hold']),
  oneOf('item', 'role', ['main', 'supporting']),
  oneOf('copy', 'state', ['waiting', 'copying', 'tallied', 'differs', 'missing', 'unreadable']),
  oneOf('place', 'kind', ['shared drive', 'second copy', 'off-site copy', 'archive']),
  oneOf('place', 'fill', ['with the card', 'later']),
  oneOf('person', 'role', ['administrator', 'coordinator', 'hand-in']),
  oneOf('hand_in_file', 'state', ['wanted', 'arrived', 'filed']),
  oneOf('kit', 'kind', ['reader', 'cable', 'camera', 'recorder', 'other']),
  oneOf('clock_correction', 'kind', ['clock', 'zone']),
];

const PLACES = [
  // Which stations know a place by their settings: one that nobody knows any more is not required.
  `CREATE TABLE "place_known" ("place_id" text NOT NULL, "station" text NOT NULL, CONSTRAINT "PK_place_known" PRIMARY KEY ("place_id", "station"))`,
  `ALTER TABLE "place_known" ADD CONSTRAINT "place_known_place" FOREIGN KEY ("place_id") REFERENCES "place"("id") ON DELETE CASCADE`,
  `ALTER TABLE "place" DROP COLUMN "root"`,
];

/**
 * Whoever changes an item holds its intake: versions then become visible in the order in which they were drawn, and whoever
 * asks for what is newer than the last one misses nothing. Once an intake and transaction.
 */
const VERSIONS = [
  `create or replace function touch_item() returns trigger language plpgsql as $$
begin
  if coalesce(current_setting('tally.held', true), '') <> new.intake_id::text then
    perform 1 from intake where id = new.intake_id for no key update;
    perform set_config('tally.held', new.intake_id::text, true);
  end if;
  new.version := nextval('item_version');
  return new;
end $$`,
];
