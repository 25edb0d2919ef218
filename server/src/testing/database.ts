import { createHash, randomBytes } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { pino } from 'pino';
import { migrate } from '../db/database.js';
import { Queue } from '../work/queue.js';

/** A database of one's own on the PostgreSQL that `npm test` started. */
export interface FreshDatabase {
  /** As the server's own user, with few rights. */
  readonly appUrl: string;
  /** As the owner of the schema. */
  readonly adminUrl: string;
  drop(): Promise<void>;
}

function named(variable: 'TALLY_TEST_ADMIN_URL' | 'TALLY_TEST_APP_URL'): URL {
  const url = process.env[variable];
  if (!url) throw new Error(`${variable} is not set: run these tests by npm test -- --only jest`);
  return new URL(url);
}

async function ask(connectionString: string, sql: string): Promise<void> {
  const client = new pg.Client({ connectionString });
  await client.connect();
  try {
    await client.query(sql);
  } finally {
    await client.end();
  }
}

const urlOf = (variable: 'TALLY_TEST_ADMIN_URL' | 'TALLY_TEST_APP_URL', name: string) =>
  Object.assign(named(variable), { pathname: `/${name}` }).href;

/** Stands for the schema as it is written now: what a migrated database can be copied from. */
function templateName(): string {
  const folder = fileURLToPath(new URL('../db/migrations', import.meta.url));
  const hash = createHash('sha256');
  for (const file of readdirSync(folder).sort()) hash.update(file).update(readFileSync(join(folder, file)));
  return `template_${hash.digest('hex').slice(0, 12)}`;
}

/** Makes the database that others are copied from, once for all processes. */
async function ensureTemplate(owner: pg.Client, name: string): Promise<void> {
  await owner.query('select pg_advisory_lock(7399)');
  try {
    const { rowCount } = await owner.query('select 1 from pg_database where datname = $1', [name]);
    if (rowCount) return;
    const making = `${name}_making`;
    await owner.query(`drop database if exists ${making} with (force)`);
    await owner.query(`create database ${making}`);
    const [admin, app] = [urlOf('TALLY_TEST_ADMIN_URL', making), urlOf('TALLY_TEST_APP_URL', making)];
    await migrate(admin, app);
    const queue = new Queue(app, pino({ level: 'silent' }), 500);
    await queue.start();
    await queue.stop();
    // Clients alone: what the server itself does there (autovacuum) is not ours to end, and ends before it is renamed.
    await owner.query(
      `select pg_terminate_backend(pid) from pg_stat_activity where datname = $1 and backend_type = 'client backend'`,
      [making],
    );
    await owner.query(`alter database ${making} rename to ${name}`);
  } finally {
    await owner.query('select pg_advisory_unlock(7399)');
  }
}

/** The same whose own order is that of a language, as one that is run by somebody else may be. */
export async function icuDatabase(): Promise<FreshDatabase> {
  const name = `t_${randomBytes(6).toString('hex')}`;
  const cluster = named('TALLY_TEST_ADMIN_URL').href;
  await ask(cluster, `create database ${name} template template0 locale_provider icu icu_locale 'en'`);
  const [adminUrl, appUrl] = [urlOf('TALLY_TEST_ADMIN_URL', name), urlOf('TALLY_TEST_APP_URL', name)];
  await migrate(adminUrl, appUrl);
  return { appUrl, adminUrl, drop: () => ask(cluster, `drop database if exists ${name} with (force)`) };
}

/** A database with the schema as it is now, and nothing in it. */
export async function freshDatabase(): Promise<FreshDatabase> {
  const name = `t_${randomBytes(6).toString('hex')}`;
  const template = templateName();
  const cluster = named('TALLY_TEST_ADMIN_URL').href;
  const owner = new pg.Client({ connectionString: cluster });
  await owner.connect();
  try {
    await ensureTemplate(owner, template);
    await owner.query(`create database ${name} template ${template}`);
  } finally {
    await owner.end();
  }
  return {
    appUrl: urlOf('TALLY_TEST_APP_URL', name),
    adminUrl: urlOf('TALLY_TEST_ADMIN_URL', name),
    drop: () => ask(cluster, `drop database if exists ${name} with (force)`),
  };
}
