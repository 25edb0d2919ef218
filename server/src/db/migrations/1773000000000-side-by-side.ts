import type { MigrationInterface, QueryRunner } from 'typeorm';
import { PATHS } from '../paths.js';

/** Places know that they were marked; paths are compared by bytes whatever the database's own order; the tray is emptied in two steps; intakes know their adoption's folder. */
export class SideBySide1773000000000 implements MigrationInterface {
  name = 'SideBySide1773000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const [table, columns] of PATHS.filter(([name]) => name !== 'beside_written'))
      await runner.query(
        `ALTER TABLE "${table}" ${columns.map((column) => `ALTER COLUMN "${column}" TYPE text COLLATE "C"`).join(', ')}`,
      );
    for (const statement of [...TRAY, ...MARKED, ...ADOPTED]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: what lies in the tray would be removed unlooked at.'));
  }
}

const TRAY: readonly string[] = [
  `ALTER TABLE "mend" ADD "emptying_at" TIMESTAMP WITH TIME ZONE`,
  `CREATE INDEX "mend_emptying" ON "mend"  ("id") WHERE emptying_at is not null and emptied_at is null`,
  `ALTER TABLE "mend_move" ADD "bytes" bigint`,
  `ALTER TABLE "mend_move" ADD "quick_hash" bytea`,
];

const MARKED: readonly string[] = [
  `ALTER TABLE "place" ADD "marked" boolean NOT NULL DEFAULT false`,
  `update place set marked = true where exists (select from place_total t where t.place_id = place.id and t.copies > 0)`,
];

const ADOPTED: readonly string[] = [
  `CREATE INDEX "stray_to_gather" ON "stray"  ("place_id", "id") WHERE compared and left(path, 1) <> '_'`,
  `ALTER TABLE "intake" ADD "adopted_folder" text`,
  `CREATE UNIQUE INDEX "intake_adopted_folder" ON "intake"  ("adoption_id", "adopted_folder") WHERE adopted_folder is not null`,
];
