import { wallClockAt, zoneOffsetMinutes } from '@tally/core/capture';
import type { Logger } from 'pino';
import type { LimitFunction } from 'p-limit';
import type { Clock } from '../clock.js';
import type { Files } from '../drive/files.js';
import type { Locks } from '../db/locks.js';
import type { Bus } from '../live/bus.js';
import type { Previews } from '../media/previews.js';
import type { Intervals } from '../work/intervals.js';
import type { MetadataReader } from '../media/metadata.js';
import type { Settings } from '../settings.js';
import type { Db } from '../db/database.js';

/** Where work is handed to: jobs in the database, carried out by this process or another. */
export interface Jobs {
  /** In a transaction the job appears when that commits. */
  read(db: Db, intakeId: number, station: string): Promise<void>;
  file(db: Db, intakeId: number, station: string): Promise<void>;
  /** Something is to be done to a card that lies there. */
  card(db: Db, workId: number, station: string): Promise<void>;
}

/** All that use cases need from outside, passed in once. */
export interface House {
  readonly db: Db;
  readonly clock: Clock;
  readonly settings: Settings;
  readonly reader: MetadataReader;
  readonly jobs: Jobs;
  /** What only one process may do at a time. */
  readonly locks: Pick<Locks, 'hold' | 'holdInTurn'>;
  readonly previews: Previews;
  /** What other processes tell. */
  readonly live: Pick<Bus, 'listen'>;
  readonly intervals: Intervals;
  /** Cards and places when bytes are moved. */
  readonly files: Files;
  /** Batches of filing that this process carries out at once: every card in turn. */
  readonly turns: LimitFunction;
  readonly log: Logger;
  /** Resolves when nobody waits for a picture: work behind a screen lets it go first. */
  readonly calm: () => Promise<void>;
}

/** How a refusal is told over HTTP (RFC 9110, section 15.5 and 15.6.4; RFC 4918, section 11.5). */
const STATUS = {
  'not found': 404,
  conflict: 409,
  'too much': 413,
  'too often': 429,
  'not possible now': 503,
  'no room': 507,
} as const;

/** A request that cannot be granted, in words for the person who made it. */
export class Refusal extends Error {
  /** The words are meant for whoever asked. */
  readonly expose = true;

  constructor(
    readonly kind: keyof typeof STATUS,
    message: string,
  ) {
    super(message);
  }

  get status(): number {
    return STATUS[this.kind];
  }
}

/** Wall clock of the house at a moment. */
export function houseTime(house: Pick<House, 'settings'>, at: Date): string {
  return wallClockAt(at, zoneOffsetMinutes(house.settings.zone, at));
}
