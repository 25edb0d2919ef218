import pg from 'pg';
import { poolLine } from './line.js';

/*
 * A database as a whole, for whoever backs the house up and brings it back: it is looked at, emptied and made beside the house
 * that is open, by connections of their own.
 */

const UNHURRIED = { ...poolLine('tally-backup'), statement_timeout: 0, query_timeout: 0 };

/** What a backup says of its database, at the moment that it is dumped. */
export interface Facts {
  readonly houseId: string;
  readonly epoch: number;
  /** Of the server. */
  readonly postgres: string;
  readonly migrations: string[];
  /** Rows of each table. */
  readonly rows: Record<string, number>;
  /** Where the log's chain ends; null: nothing is chained. */
  readonly log: { readonly position: number; readonly hash: string } | null;
  readonly places: { readonly id: string; readonly name: string; readonly kind: string; readonly mark: string }[];
}

/** Looks at a database at one moment, and lets others look at the same. The moment lasts as long as `use`. @param url of whoever may read all */
export async function atOneMoment<T>(url: string, use: (snapshot: string, facts: Facts) => Promise<T>): Promise<T> {
  const line = { ...UNHURRIED, idle_in_transaction_session_timeout: 0 };
  const client = new pg.Client({ connectionString: url, ...line });
  await client.connect();
  try {
    await client.query('begin transaction isolation level repeatable read read only');
    const one = async <R extends object>(sql: string) => (await client.query<R>(sql)).rows[0];
    const snapshot = (await one<{ name: string }>('select pg_export_snapshot() as name'))!.name;
    const life = (await one<{ id: string; epoch: number }>('select id::text as id, epoch from house_life'))!;
    const migrations = (await client.query<{ name: string }>('select name from migrations order by id')).rows;
    const places = (await client.query<Facts['places'][number]>('select id, name, kind, mark from place order by position, id'))
      .rows;
    const log = await one<{ position: number; hash: string }>(
      `select position, encode(hash, 'hex') as hash from event_link order by position desc limit 1`,
    );
    const facts: Facts = {
      ...{ houseId: life.id, epoch: life.epoch, migrations: migrations.map(({ name }) => name), places, log: log ?? null },
      postgres: (await one<{ version: string }>(`select current_setting('server_version') as version`))!.version,
      rows: await countRows(client),
    };
    return await use(snapshot, facts);
  } finally {
    await client.end().catch(() => undefined);
  }
}

/** How many rows each table of ours has. Reads them all. */
export async function countRows(client: pg.Client): Promise<Record<string, number>> {
  const { rows: tables } = await client.query<{ name: string }>(
    `select c.relname as name from pg_class c where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' order by 1`,
  );
  const counts: Record<string, number> = {};
  for (const { name } of tables) {
    const { rows } = await client.query<{ n: number }>(`select count(*) as n from public.${pg.escapeIdentifier(name)}`);
    counts[name] = rows[0]!.n;
  }
  return counts;
}

/** What stands in a database that something is to be brought back into. */
export interface Standing {
  /** Are tables of ours there at all? */
  readonly isMade: boolean;
  readonly intakes: number;
  readonly contributors: number;
  readonly assignments: number;
  /** Others that are connected to it. */
  readonly others: number;
  /** Tables that are none of ours. */
  readonly foreign: readonly string[];
}

/** @param ours names of the tables that this program makes */
export async function standingOf(client: pg.Client, ours: readonly string[]): Promise<Standing> {
  const one = async <R extends object>(sql: string) => (await client.query<R>(sql)).rows[0]!;
  const { others } = await one<{ others: number }>(
    `select count(*)::int as others from pg_stat_activity
     where datname = current_database() and pid <> pg_backend_pid() and coalesce(backend_type, 'client backend') = 'client backend'
       -- Whose kind is not told to us: what the server itself does, as autovacuum, is nobody's.
       and usename is not null`,
  );
  const { rows: tables } = await client.query<{ name: string }>(
    `select c.relname as name from pg_class c
     where c.relnamespace = 'public'::regnamespace and c.relkind in ('r', 'v', 'm', 'p') and c.relname <> all($1::text[]) order by 1`,
    [ours],
  );
  const foreign = tables.map(({ name }) => name);
  const { made } = await one<{ made: boolean }>(`select to_regclass('public.intake') is not null as made`);
  if (!made) return { isMade: false, intakes: 0, contributors: 0, assignments: 0, others, foreign };
  const counted = await one<Omit<Standing, 'isMade' | 'others' | 'foreign'>>(
    `select (select count(*)::int from intake) as intakes, (select count(*)::int from contributor) as contributors,
       (select count(*)::int from assignment) as assignments`,
  );
  return { isMade: true, others, foreign, ...counted };
}

/** Removes every table, sequence and function of a house that has nothing in it. Nobody else's stand there (`foreign`). */
export async function removeAll(client: pg.Client): Promise<void> {
  await client.query(`do $$
    declare one record;
    begin
      for one in select c.oid::regclass as name from pg_class c where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' loop
        execute format('drop table %s cascade', one.name);
      end loop;
      for one in select c.oid::regclass as name from pg_class c where c.relnamespace = 'public'::regnamespace and c.relkind = 'S' loop
        execute format('drop sequence %s cascade', one.name);
      end loop;
      for one in select p.oid::regprocedure as name from pg_proc p
        where p.pronamespace = 'public'::regnamespace and pg_get_userbyid(p.proowner) = current_user loop
        execute format('drop function %s cascade', one.name);
      end loop;
    end $$`);
}

/** A database's address in its parts, as other programs take it. */
export function addressOf(url: string): Pick<pg.Client, 'host' | 'port' | 'user' | 'database'> & { readonly password: string } {
  const { host, port, user, database, password } = new pg.Client({ connectionString: url });
  return { host, port, user, database, password: typeof password === 'string' ? password : '' };
}

/** Speaks to a database by a connection of its own that may take its time. */
export const atDatabase = async <T>(url: string, use: (client: pg.Client) => Promise<T>): Promise<T> => {
  const client = new pg.Client({ connectionString: url, ...UNHURRIED });
  await client.connect();
  try {
    return await use(client);
  } finally {
    await client.end();
  }
};

/** @param url of whoever may make databases */
export async function makeDatabase(url: string, name: string): Promise<void> {
  await atDatabase(url, (client) => client.query(`create database ${pg.escapeIdentifier(name)}`));
}

export async function dropDatabase(url: string, name: string): Promise<void> {
  await atDatabase(url, (client) => client.query(`drop database if exists ${pg.escapeIdentifier(name)} with (force)`));
}

/** Where the chain of a database's log ends. */
export const lastLinkOf = (url: string): Promise<Facts['log']> =>
  atDatabase(url, async (client) => {
    const { rows } = await client.query<NonNullable<Facts['log']>>(
      `select position, encode(hash, 'hex') as hash from event_link order by position desc limit 1`,
    );
    return rows[0] ?? null;
  });
