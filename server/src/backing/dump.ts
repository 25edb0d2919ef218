import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { DumpError } from './errors.js';
import { addressOf } from '../db/whole-database.js';

const execute = promisify(execFile);
/** The queue makes its schema by itself, and every work that was in it is found again by a sweep. */
const QUEUE = 'pgboss';
/** What a tool says that failed: the last lines tell why. */
const SAID = 600;

/** The address of a database as the tools of PostgreSQL take it: not on their command line, which everybody can read. */
function environment(url: string): NodeJS.ProcessEnv {
  const { host, port, user, password, database } = addressOf(url);
  const ssl = new URL(url).searchParams.get('sslmode');
  return {
    ...{ PATH: process.env['PATH'], LC_ALL: 'C', PGHOST: host, PGPORT: String(port), PGUSER: user, PGDATABASE: database },
    ...{
      PGPASSWORD: password,
      PGAPPNAME: 'tally-backup',
      ...(ssl ? { PGSSLMODE: ssl } : {}),
    },
  };
}

async function run(tool: string, args: readonly string[], url: string | null, signal: AbortSignal): Promise<string> {
  try {
    const env = url === null ? { PATH: process.env['PATH'], LC_ALL: 'C' } : environment(url);
    return (await execute(tool, args, { env, signal, maxBuffer: 1 << 26 })).stdout;
  } catch (error) {
    signal.throwIfAborted();
    const { code, stderr, message } = error as { code?: unknown; stderr?: string; message: string };
    if (code === 'ENOENT') throw new DumpError(`${tool} is not there: install PostgreSQL's client programs (postgresql-client)`);
    throw new DumpError(`${tool}: ${(stderr?.trim() ?? message).slice(-SAID)}`);
  }
}

/**
 * Writes a database as it is at a moment to a file that nothing stands under (pg_dump, custom format).
 * @param snapshot what a transaction exported that looks at the same moment (PostgreSQL 15 manual, section 9.27.5)
 * @throws DumpError
 */
export async function dumpDatabase(url: string, file: string, snapshot: string, signal: AbortSignal): Promise<void> {
  const what = ['--format=custom', '--no-owner', '--no-privileges', `--exclude-schema=${QUEUE}`, `--snapshot=${snapshot}`];
  await run('pg_dump', [...what, '--lock-wait-timeout=60000', `--file=${file}`], url, signal);
}

/** Reads a dump into a database that has nothing of it: all of it, or nothing. @throws DumpError */
export async function restoreDatabase(url: string, file: string, signal: AbortSignal): Promise<void> {
  const { database = '' } = addressOf(url);
  const how = ['--no-owner', '--no-privileges', '--single-transaction', '--exit-on-error', `--dbname=${database}`];
  await run('pg_restore', [...how, file], url, signal);
}

/** What a dump holds, a line each, as pg_restore lists it. @throws DumpError when it is none, or is cut short */
export const listDump = (file: string, signal: AbortSignal): Promise<string> => run('pg_restore', ['--list', file], null, signal);
