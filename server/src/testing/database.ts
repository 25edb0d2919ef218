import { randomBytes } from 'node:crypto';
import pg from 'pg';

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

async function asOwner(sql: string): Promise<void> {
  const client = new pg.Client({ connectionString: named('TALLY_TEST_ADMIN_URL').href });
  await client.connect();
  try {
    await client.query(sql);
  } finally {
    await client.end();
  }
}

export async function freshDatabase(): Promise<FreshDatabase> {
  const name = `t_${randomBytes(6).toString('hex')}`;
  await asOwner(`create database ${name}`);
  const urlOf = (url: URL) => Object.assign(url, { pathname: `/${name}` }).href;
  return {
    appUrl: urlOf(named('TALLY_TEST_APP_URL')),
    adminUrl: urlOf(named('TALLY_TEST_ADMIN_URL')),
    drop: () => asOwner(`drop database if exists ${name} with (force)`),
  };
}
