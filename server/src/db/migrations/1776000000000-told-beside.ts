import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Records beside the files hold all that a logbook is rebuilt from: they follow whatever of it changes. */
export class ToldBeside1776000000000 implements MigrationInterface {
  name = 'ToldBeside1776000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of BACK) await runner.query(statement);
  }
}

const ITEM_BEFORE = `create trigger item_explained after update of verdict, description, contributor_id, assignment_id, role, profile on item
     for each row when (old.* is distinct from new.*) execute function item_due()`;
const intakeExplained = (more: string, when: string) =>
  `create trigger intake_explained after update of contributor_id, assignment_id, cleared_at${more} on intake
     for each row when (old.contributor_id is distinct from new.contributor_id
       or old.assignment_id is distinct from new.assignment_id or old.cleared_at is distinct from new.cleared_at${when})
     execute function intake_due()`;

const STATEMENTS: readonly string[] = [
  // A house that is being rebuilt says so until it is done: whoever is killed in between begins again where it was.
  `ALTER TABLE "house_life" ADD "rebuilding" text array`,
  `DROP TRIGGER item_explained ON item`,
  `create trigger item_explained after update of verdict, description, contributor_id, assignment_id, role, profile,
       turned, use_from_ms, use_to_ms, captured_local, clock_shift_s on item
     for each row when (old.read and (old.verdict, old.description, old.contributor_id, old.assignment_id, old.role, old.profile,
       old.turned, old.use_from_ms, old.use_to_ms, old.captured_local, old.clock_shift_s) is distinct from
       (new.verdict, new.description, new.contributor_id, new.assignment_id, new.role, new.profile,
       new.turned, new.use_from_ms, new.use_to_ms, new.captured_local, new.clock_shift_s)) execute function item_due()`,
  `DROP TRIGGER intake_explained ON intake`,
  intakeExplained(', state', ` or (old.state is distinct from new.state and new.state = 'closed')`),
  // What is told of writing makes nothing due, nor what happens again and again to a card: it is in the record when that is written next.
  `create function event_due() returns trigger language plpgsql as $$
begin
  perform explain_intakes(array[new.intake_id]);
  return null;
end $$`,
  `create trigger event_explained after insert on event for each row
     when (new.intake_id is not null and new.kind not in ('manifest', 'card back', 'card gone', 'attention', 'received', 'handed in'))
     execute function event_due()`,
  `insert into beside_due (intake_id, folder, place_id) select distinct f.intake_id, f.list_folder, c.place_id
     from filed_item f join copy c on c.filed_item_id = f.id where c.state = 'tallied' and f.hash is not null on conflict do nothing`,
];

const BACK: readonly string[] = [
  `DROP TRIGGER event_explained ON event`,
  `DROP FUNCTION event_due()`,
  `DROP TRIGGER intake_explained ON intake`,
  intakeExplained('', ''),
  `DROP TRIGGER item_explained ON item`,
  ITEM_BEFORE,
  `ALTER TABLE "house_life" DROP COLUMN "rebuilding"`,
];
