import {
  countPeople,
  deleteSession,
  insertPerson,
  insertSession,
  personByName,
  personOfSession,
  prolongSession,
} from './store/sessions.js';
import { SESSION_MS, type Role, type SignedIn } from '@tally/contract';
import { createHash, randomBytes } from 'node:crypto';
import { RateLimiterPostgres } from 'rate-limiter-flexible';
import type { Clock } from '../clock.js';
import type { Db } from '../db/database.js';
import { addLink, linkEnd, personOfLink } from './store/links.js';
import { hashPassword, passwordFits } from './passwords.js';

/** A session is prolonged once this much of it is gone. */
const PROLONG_MS = 60_000;

/** Failed sign-ins for one name and address before it has to wait, and how long. */
const GUESSES = 8;
const WAIT_SECONDS = 300;

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();

export type SignInOutcome =
  | { readonly ok: true; readonly token: string; readonly person: SignedIn }
  | { readonly ok: false; readonly waitSeconds: number | null };

/** People who sign in, and their sessions. */
export class Access {
  private readonly guesses: RateLimiterPostgres;

  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
  ) {
    const pool = (db.dataSource.driver as unknown as { master: unknown }).master;
    this.guesses = new RateLimiterPostgres({
      storeClient: pool,
      tableName: 'sign_in_failure',
      tableCreated: true,
      keyPrefix: 'signin',
      points: GUESSES,
      duration: WAIT_SECONDS,
    });
  }

  async signIn(name: string, password: string, address: string): Promise<SignInOutcome> {
    const key = createHash('sha256').update(`${address}\0${name.toLowerCase()}`).digest('hex');
    const spent = await this.guesses.get(key);
    if (spent && spent.remainingPoints <= 0) return { ok: false, waitSeconds: Math.ceil(spent.msBeforeNext / 1000) };
    const found = await personByName(this.db, name);
    if (!(await passwordFits(found?.passwordHash ?? null, password)) || !found) {
      await this.guesses.consume(key).catch(() => undefined);
      return { ok: false, waitSeconds: null };
    }
    await this.guesses.delete(key);
    const token = await this.openSession(found.id, this.later());
    return { ok: true, token, person: { id: found.id, name: found.name, role: found.role } };
  }

  /** Makes a link by which anybody who has it may hand in until it ends. @returns its secret, which is kept nowhere. */
  async makeLink(hours: number, madeBy: string): Promise<{ token: string; expiresAt: Date }> {
    const token = randomBytes(24).toString('base64url');
    const madeAt = this.clock();
    const expiresAt = new Date(madeAt.getTime() + hours * 3_600_000);
    // Nobody signs in as this person: no password is this one.
    const name = `Hand-in link ${madeAt.toISOString().slice(0, 10)} ${randomBytes(4).toString('hex')}`;
    const passwordHash = await hashPassword(randomBytes(32).toString('hex'));
    const personId = (await insertPerson(this.db, name, passwordHash, 'hand-in', madeAt))!;
    await addLink(this.db, { tokenHash: hashOf(token), personId, madeBy, madeAt, expiresAt });
    return { token, expiresAt };
  }

  /** Opens a session for whoever has a link. Null when there is no such link, or it has ended. */
  async openLink(token: string): Promise<{ token: string; expiresAt: Date } | null> {
    const personId = await personOfLink(this.db, hashOf(token), this.clock());
    const expiresAt = personId === null ? null : await linkEnd(this.db, personId);
    return personId === null || !expiresAt ? null : { token: await this.openSession(personId, expiresAt), expiresAt };
  }

  private async openSession(personId: number, expiresAt: Date): Promise<string> {
    const token = randomBytes(32).toString('base64url');
    await insertSession(this.db, hashOf(token), personId, expiresAt, this.clock());
    return token;
  }

  /** Who this token belongs to; use prolongs it, though not at every one of a hundred pictures. */
  async who(token: string): Promise<SignedIn | null> {
    const now = this.clock();
    const found = await personOfSession(this.db, hashOf(token), now);
    if (!found) return null;
    const { expiresAt, ...person } = found;
    if (expiresAt.getTime() - now.getTime() < SESSION_MS - PROLONG_MS) await prolongSession(this.db, hashOf(token), this.later());
    return person;
  }

  async signOut(token: string): Promise<void> {
    await deleteSession(this.db, hashOf(token));
  }

  private later(): Date {
    return new Date(this.clock().getTime() + SESSION_MS);
  }
}

/** Adds somebody who may sign in. @returns false when the name is taken. */
export async function addPerson(db: Db, name: string, password: string, role: Role, at: Date): Promise<boolean> {
  return (await insertPerson(db, name, await hashPassword(password), role, at)) !== null;
}

/**
 * Makes the first administrator where nobody can sign in yet.
 * @returns the name and, when it had to be made up, the password to show once; null when somebody exists.
 */
export async function ensureAdministrator(
  db: Db,
  env: NodeJS.ProcessEnv,
  at: Date,
): Promise<{ name: string; password: string | null } | null> {
  if ((await countPeople(db)) > 0) return null;
  const name = env['TALLY_ADMIN_NAME'] ?? 'admin';
  const given = env['TALLY_ADMIN_PASSWORD'];
  const password = given ?? randomBytes(9).toString('base64url');
  await addPerson(db, name, password, 'administrator', at);
  return { name, password: given ? null : password };
}
