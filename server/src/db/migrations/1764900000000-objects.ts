import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What a file is to the exposure, clip or recording that it belongs to, and what a clip says of itself. */
export class Objects1764900000000 implements MigrationInterface {
  name = 'Objects1764900000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of STATEMENTS) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE "item" DROP COLUMN "object_role", DROP COLUMN "part", DROP COLUMN "parts",
      DROP COLUMN "structure", DROP COLUMN "structure_root", DROP COLUMN "series", DROP COLUMN "clip"`);
  }
}

const STATEMENTS = [
  `ALTER TABLE "item" ADD COLUMN "object_role" text NOT NULL DEFAULT 'leader', ADD COLUMN "part" integer, ADD COLUMN "parts" integer,
     ADD COLUMN "structure" text NOT NULL DEFAULT 'dcf', ADD COLUMN "structure_root" text, ADD COLUMN "series" text, ADD COLUMN "clip" jsonb,
     ADD CONSTRAINT "item_object_role" CHECK (object_role in ('leader', 'part', 'raw', 'sound', 'sidecar', 'proxy', 'thumbnail', 'index', 'edit'))`,
  // What was listed until now was told apart by kind only.
  `UPDATE "item" SET object_role = CASE kind WHEN 'raw' THEN 'raw' WHEN 'sound' THEN 'sound' WHEN 'sidecar' THEN 'sidecar' ELSE 'part' END
     WHERE leader <> path`,
];
