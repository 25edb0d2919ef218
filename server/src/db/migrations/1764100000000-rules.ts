import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Rules with settings, lines for kinds, and who said so. */
export class Rules1764100000000 implements MigrationInterface {
  name = 'Rules1764100000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: files were named by these rules.'));
  }
}

const STATEMENTS = [
  `ALTER TABLE "house_rule" ADD "kinds" jsonb NOT NULL DEFAULT '{}'`,
  `ALTER TABLE "house_rule" ADD "settings" jsonb NOT NULL DEFAULT '{}'`,
  `ALTER TABLE "house_rule" ADD "note" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "house_rule" ADD "said_by" text`,
  `ALTER TABLE "house_rule" ADD "warnings" jsonb NOT NULL DEFAULT '[]'`,
  `ALTER TABLE "assignment" ADD "code" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "item" ADD "role" text`,
  `ALTER TABLE "item" ADD "profile" text NOT NULL DEFAULT ''`,
];
