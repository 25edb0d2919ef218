import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Clearing a card, and the device of a place as the house says it. */
export class Clearing1764200000000 implements MigrationInterface {
  name = 'Clearing1764200000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  down(): Promise<void> {
    return Promise.reject(new Error('This migration cannot be undone: cards were cleared by it.'));
  }
}

const STATEMENTS = [`ALTER TABLE "place" ADD "device" text`, `ALTER TABLE "intake" ADD "cleared_at" TIMESTAMP WITH TIME ZONE`];
