import 'reflect-metadata';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import { DataSource, DefaultNamingStrategy, type EntityManager, getMetadataArgsStorage } from 'typeorm';
import {
  BackupMade,
  BesideDue,
  Copy,
  Counter,
  Event,
  Erasing,
  EventLink,
  FiledFolder,
  FiledItem,
  HouseLife,
  Place,
  PlaceKnown,
  PlaceTotal,
} from './entities/filed.js';
import { Card, HouseRuleRevision, Intake, IntakePart, Item } from './entities/intake.js';
import { HandIn, HandInFile, HandInLink } from './entities/hand-in.js';
import { Kit, Loan } from './entities/lending.js';
import { CardWork, PictureAsked } from './entities/stations.js';
import {
  Assignment,
  AssignmentExpected,
  Camera,
  ClockCorrection,
  Contributor,
  Person,
  RecoveryCode,
  Session,
} from './entities/people.js';
import {
  Agreement,
  FormerCode,
  HabitRow,
  HouseCredit,
  ItemCredit,
  ItemPictured,
  LocationRow,
  PicturedRow,
  TermsRow,
} from './entities/credit.js';
import { AssignmentWord, IntakeWord, ItemWord, WordBroader, WordLabelRow, WordRow, WordStart } from './entities/words.js';
import { BundleItem, BundleRow, IntakeBundle, ShelfChange, StandingQuestion } from './entities/shelf.js';
import { Adoption, DriveCheck, DriveFinding, FormerPath, Mend, MendMove, StoodFolder, Stray } from './entities/tending.js';
import { BesideWritten, CreditStands, CreditWritten } from './entities/written.js';
import { First1745000000000 } from './migrations/1745000000000-first.js';
import { Seeing1764000000000 } from './migrations/1764000000000-seeing.js';
import { Rules1764100000000 } from './migrations/1764100000000-rules.js';
import { Clearing1764200000000 } from './migrations/1764200000000-clearing.js';
import { Proof1764300000000 } from './migrations/1764300000000-proof.js';
import { Lending1764400000000 } from './migrations/1764400000000-lending.js';
import { poolLine } from './line.js';
import { KINDS } from './lock-kinds.js';
import { Stations1764700000000 } from './migrations/1764700000000-stations.js';
import { SetAside1764800000000 } from './migrations/1764800000000-set-aside.js';
import { Objects1764900000000 } from './migrations/1764900000000-objects.js';
import { Readers1765000000000 } from './migrations/1765000000000-readers.js';
import { KeptLists1765100000000 } from './migrations/1765100000000-kept-lists.js';
import { Credit1766000000000 } from './migrations/1766000000000-credit.js';
import { Written1767000000000 } from './migrations/1767000000000-written.js';
import { AtItsSize1768000000000 } from './migrations/1768000000000-at-its-size.js';
import { Shelf1769000000000 } from './migrations/1769000000000-shelf.js';
import { Tending1770000000000 } from './migrations/1770000000000-tending.js';
import { Door1771000000000 } from './migrations/1771000000000-door.js';
import { Withheld1772000000000 } from './migrations/1772000000000-withheld.js';
import { SideBySide1773000000000 } from './migrations/1773000000000-side-by-side.js';
import { BesideWritten1774000000000 } from './migrations/1774000000000-beside-written.js';
import { OwnLife1775000000000 } from './migrations/1775000000000-own-life.js';
import { ToldBeside1776000000000 } from './migrations/1776000000000-told-beside.js';
import { Rooms1764600000000 } from './migrations/1764600000000-rooms.js';

/** A connection or a transaction: what every function of the store takes first. */
export type Db = EntityManager;

// Bytes and counts stay far below 2^53: read bigint and numeric sums as numbers.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);
pg.types.setTypeParser(pg.types.builtins.NUMERIC, Number);

class SnakeCase extends DefaultNamingStrategy {
  override columnName(property: string, given: string | undefined, prefixes: string[]): string {
    return given ?? [...prefixes, property].join('_').replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);
  }
}

const ENTITIES = [
  ...[Person, Session, RecoveryCode, Contributor, Camera, Assignment, AssignmentExpected],
  ...[Card, HouseRuleRevision, Intake, IntakePart, Item, FiledItem, Place, PlaceKnown, Copy, BesideDue, Counter, Event],
  ...[PlaceTotal, FiledFolder, EventLink, Erasing, HouseLife, BackupMade],
  ...[ClockCorrection, HandInLink, HandIn, HandInFile, Kit, Loan, CardWork, PictureAsked],
  ...[TermsRow, LocationRow, PicturedRow, HabitRow, Agreement, FormerCode, HouseCredit, ItemCredit, ItemPictured],
  ...[CreditWritten, CreditStands, BesideWritten],
  ...[WordRow, WordLabelRow, WordStart, WordBroader, ItemWord, IntakeWord, AssignmentWord],
  ...[BundleRow, BundleItem, IntakeBundle, StandingQuestion, ShelfChange],
  ...[StoodFolder, Stray, DriveFinding, DriveCheck, Adoption, Mend, MendMove, FormerPath],
];

const MIGRATIONS = [
  ...[First1745000000000, Seeing1764000000000, Rules1764100000000, Clearing1764200000000, Proof1764300000000],
  ...[Lending1764400000000, Rooms1764600000000, Stations1764700000000, SetAside1764800000000, Objects1764900000000],
  Readers1765000000000,
  KeptLists1765100000000,
  Credit1766000000000,
  Written1767000000000,
  AtItsSize1768000000000,
  Shelf1769000000000,
  Tending1770000000000,
  Door1771000000000,
  Withheld1772000000000,
  SideBySide1773000000000,
  BesideWritten1774000000000,
  OwnLife1775000000000,
  ToldBeside1776000000000,
];

/** Steps of the schema that this version knows, in their order. */
export const knownMigrations = (): string[] => MIGRATIONS.map((migration) => new migration().name);

/** Names of the tables that this program makes, those of its libraries included. */
export const ownTables = (): string[] => [
  ...getMetadataArgsStorage().tables.flatMap(({ target, name }) =>
    (ENTITIES as unknown[]).includes(target) && name ? name : [],
  ),
  ...['migrations', 'sign_in_failure'],
];

/** A data source; not connected yet. @param onTrouble hears of idle connections that died; the next query opens another. */
export function dataSource(
  url: string,
  poolSize = 10,
  onTrouble: (error: Error) => void = () => undefined,
  line: object = poolLine('tally'),
): DataSource {
  return new DataSource({
    type: 'postgres',
    url,
    entities: ENTITIES,
    migrations: [...MIGRATIONS],
    migrationsTransactionMode: 'each',
    synchronize: false,
    uuidExtension: 'pgcrypto',
    installExtensions: false,
    namingStrategy: new SnakeCase(),
    poolSize,
    // A connection that dies (the database restarts) must not take the process with it.
    poolErrorHandler: onTrouble,
    extra: line,
  });
}

/**
 * Brings the schema up to date as its owner, and gives the server's own user only what it needs:
 * no changes to what was logged, no changes to the schema. @param backupUrl of whoever backs it up, where that is another one
 */
export async function migrate(adminUrl: string, appUrl: string, backupUrl?: string): Promise<void> {
  if (await isUpToDate(adminUrl, appUrl, backupUrl)) return;
  // A large house takes its time, and so does whoever migrates it at the moment.
  const unhurried = { ...poolLine('tally-migrating'), statement_timeout: 0, lock_timeout: 0, query_timeout: 0 };
  const source = await dataSource(adminUrl, 2, undefined, unhurried).initialize();
  try {
    // Two processes may start at once: one migrates, the other waits.
    await source.query('select pg_advisory_lock($1, 0)', [KINDS.migrating]);
    await source.runMigrations();
    const admin = new URL(adminUrl).username;
    const app = userOf(appUrl);
    if (app && app !== admin) await grant(source, app);
    const reader = backupUrl === undefined ? '' : userOf(backupUrl);
    if (reader && reader !== admin && reader !== app) await grantReading(source, reader);
  } finally {
    await source.destroy();
  }
}

/** Is the schema as this version has it, and does the server's own user have its rights? Then nothing is to be done. */
async function isUpToDate(adminUrl: string, appUrl: string, backupUrl?: string): Promise<boolean> {
  const client = new pg.Client({ connectionString: adminUrl, ...poolLine('tally-looking') });
  try {
    await client.connect();
    const made = await client.query<{ names: string[] }>('select array_agg(name order by id) as names from migrations');
    const names = MIGRATIONS.map((migration) => new migration().name);
    if (JSON.stringify([...(made.rows[0]?.names ?? [])].sort()) !== JSON.stringify(names.sort())) return false;
    const { rows } = await client.query<{ has: boolean }>(
      `select bool_and(has_table_privilege($1, format('%I.%I', table_schema, table_name), 'select')) and has_table_privilege($1, 'item', 'insert')
         and bool_and(has_table_privilege($2, format('%I.%I', table_schema, table_name), 'select'))
         and has_sequence_privilege($2, 'event_id_seq', 'select') as has
       from information_schema.tables where table_schema = 'public'`,
      [userOf(appUrl) || userOf(adminUrl), userOf(backupUrl ?? appUrl) || userOf(adminUrl)],
    );
    return rows[0]?.has ?? false;
  } catch {
    // A database that is new, or away, or a user that is new: whoever migrates finds out.
    return false;
  } finally {
    await client.end().catch(() => undefined);
  }
}

const userOf = (url: string): string => decodeURIComponent(new URL(url).username);

/** Whoever backs the house up reads all of it, and may nothing else. */
async function grantReading(source: DataSource, user: string): Promise<void> {
  const role = `"${user.replaceAll('"', '""')}"`;
  await source.query(`grant usage on schema public to ${role}`);
  await source.query(`grant select on all tables in schema public to ${role}`);
  await source.query(`grant select on all sequences in schema public to ${role}`);
}

async function grant(source: DataSource, user: string): Promise<void> {
  const role = `"${user.replaceAll('"', '""')}"`;
  await source.query(`grant usage on schema public to ${role}`);
  await source.query(`grant select, insert, update, delete on all tables in schema public to ${role}`);
  // Selected, too: whoever backs the house up reads where they are.
  await source.query(`grant usage, select on all sequences in schema public to ${role}`);
  await source.query(`revoke update, delete, truncate on event, event_link, house_rule from ${role}`);
  await source.query(`grant execute on function erase_told to ${role}`);
  // The queue keeps a schema of its own and makes it by itself.
  const [{ name }] = await source.query<[{ name: string }]>('select current_database() as name');
  await source.query(`grant create on database "${name.replaceAll('"', '""')}" to ${role}`);
}

/** What PostgreSQL reports when two transactions got into each other: serialization_failure, deadlock_detected (manual, appendix A). */
const TRY_AGAIN = new Set(['40001', '40P01']);
const TRIES = 4;

/** Is it what was to be written that the database refuses? SQLSTATE classes 22 and 23 (PostgreSQL 15 manual, appendix A). */
export const isOfData = (error: unknown): boolean => /^2[23]/.test(codeOf(error));

const codeOf = (error: unknown) => (error as { code?: string; driverError?: { code?: string } }).code ?? '';

/** Runs something again that got into somebody else's way and was undone. It must do nothing but speak to the database. */
export async function tryingAgain<T>(run: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await run();
    } catch (error) {
      if (tries === TRIES || !TRY_AGAIN.has(codeOf(error))) throw error;
      // Not at once, and not both at the same moment.
      await sleep(tries * 15 + Math.random() * 25);
    }
  }
}

/**
 * Runs a function in one transaction; inside another one it is part of that. When it got into a deadlock with somebody
 * else it is undone and run again, so it must do nothing but speak to the database.
 */
export function inTransaction<T>(db: Db, run: (tx: Db) => Promise<T>): Promise<T> {
  const isInner = db.queryRunner?.isTransactionActive ?? false;
  return isInner ? db.transaction(run) : tryingAgain(() => db.transaction(run));
}

/** @throws when the database does not answer. */
export async function answering(db: Db): Promise<void> {
  await db.query('select 1');
}
