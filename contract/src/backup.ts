import { z } from 'zod';
import { Instant } from './primitives.js';
import { PLACE_KINDS } from './place-kinds.js';

/** What stands in a backup, and what it is of: `backup.json` in its folder. */
export const BackupManifest = z.object({
  format: z.literal('tally-stick-backup'),
  version: z.literal(1),
  house: z.string().max(200),
  houseId: z.uuid(),
  epoch: z.number().int(),
  madeAt: Instant,
  program: z.string().max(40),
  /** Of the server that the database was dumped from. */
  postgres: z.string().max(80),
  /** Steps of the schema that its database has had, in their order. */
  migrations: z.array(z.string().max(200)).max(1_000),
  places: z.array(z.object({ id: z.string(), name: z.string(), kind: z.enum(PLACE_KINDS), mark: z.string() })).max(1_000),
  /** Rows of each table at that moment. */
  rows: z.record(z.string(), z.number().int()),
  /** Where the log's chain ended; null: nothing was chained. */
  log: z.object({ position: z.number().int(), hash: z.string() }).nullable(),
  /** Are its files sealed with a passphrase (age, version 1)? */
  sealed: z.boolean(),
});
export type BackupManifest = z.infer<typeof BackupManifest>;

/** A backup that was made, or was not. */
export const BackupView = z.object({
  at: Instant,
  to: z.string(),
  folder: z.string().nullable(),
  bytes: z.number(),
  problem: z.string().nullable(),
});
export type BackupView = z.infer<typeof BackupView>;

/** How the house stands with its backups; null: none was made yet. */
export const BackupsNow = z.object({
  /** The newest that was made and read back, and that is not on the server's own disk. */
  lastAt: Instant.nullable(),
  /** What somebody has to know; null: nothing. */
  problem: z.string().nullable(),
});
export type BackupsNow = z.infer<typeof BackupsNow>;
