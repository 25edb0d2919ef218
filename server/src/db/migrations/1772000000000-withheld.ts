import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Contributors who are not of age, and names that are erased from the log. */
export class Withheld1772000000000 implements MigrationInterface {
  name = 'Withheld1772000000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of [...MINORS]) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: names of minors would be seen by everybody.'));
  }
}

const MINORS: readonly string[] = [
  `ALTER TABLE "contributor" ADD "minor" boolean NOT NULL DEFAULT false`,
  `CREATE INDEX "contributor_minor" ON "contributor"  ("id") WHERE minor`,
];
