import { SESSION_LONGEST_MS, SESSION_MS } from '@tally/contract';
import { createHash, randomBytes } from 'node:crypto';
import { inTransaction, type Db } from '../db/database.js';
import { record, tell, type House } from '../house/index.js';
import type { Caller, From } from '../http/caller.js';
import { Guessing } from './guessing.js';
import { passwordFits } from './passwords.js';
import { codeHash, secondFits } from './second-factor.js';
import { signInRow, type SignInRow } from './store/accounts.js';
import { personOfLink } from './store/links.js';
import {
  deleteSession,
  forgetSessions,
  insertSession,
  personOfSession,
  prolongSession,
  type SessionRow,
} from './store/sessions.js';

/** A session is prolonged once this much of it is gone. */
const PROLONG_MS = 60_000;

export const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();

export type SignInOutcome =
  | { readonly ok: true; readonly token: string; readonly caller: Caller }
  | { readonly ok: false; readonly why: 'wrong' | 'second factor' }
  | { readonly ok: false; readonly why: 'wait'; readonly waitSeconds: number };

/** Who is there: signing in and out, sessions, links. */
export class Access {
  readonly guessing: Guessing;

  constructor(private readonly house: Pick<House, 'db' | 'clock' | 'settings'>) {
    this.guessing = new Guessing(house.db);
  }

  /** @param code of the second factor; asked for when everything else is right, and not told before. */
  async signIn(name: string, password: string, code: string | undefined, from: From): Promise<SignInOutcome> {
    const { db, clock } = this.house;
    const waitSeconds = await this.guessing.count(name, from.address);
    if (waitSeconds !== null) return { ok: false, why: 'wait', waitSeconds };
    const found = await signInRow(db, name, clock());
    const byCode = found !== null && isTheirCode(found, password, clock());
    const fits = await passwordFits(found?.passwordHash ?? null, password);
    if (!found || !(fits || byCode)) return this.refused(found, 'Name or password was wrong', from);
    if (found.secondFactor) {
      // The right password without a code is no guess of it: it was asked for just now.
      if (!code) return { ok: false, why: 'second factor' };
      if (!(await secondFits(db, found.id, code, clock()))) return this.refused(found, 'The second factor was wrong', from);
    }
    await this.guessing.forgive(name, from.address);
    const token = await this.begin(found, from, byCode);
    return { ok: true, token, caller: (await this.who(token))! };
  }

  private async refused(found: SignInRow | null, why: string, from: From): Promise<SignInOutcome> {
    // People type their password into the wrong field: a name that is nobody's is not kept.
    const who = found?.name ?? null;
    const text = `${why}, from ${from.address}.`;
    await record(this.house.db, { at: this.house.clock(), kind: 'sign-in refused', intakeId: null, who, text });
    return { ok: false, why: 'wrong' };
  }

  /** Is this the second factor of somebody who is signed in? Counted like any guess. */
  async secondFits(caller: Caller, code: string, address: string): Promise<boolean> {
    if ((await this.guessing.count(caller.name, address)) !== null) return false;
    const fits = await secondFits(this.house.db, caller.id, code, this.house.clock());
    if (fits) await this.guessing.forgive(caller.name, address);
    return fits;
  }

  /** Opens a session for somebody whom the house's directory vouches for. */
  async vouched(person: { id: number; name: string }, from: From): Promise<string> {
    return this.begin(person, from, false);
  }

  /** Opens a session for whoever has a link. Null when there is no such link, or it is good for nothing any more. */
  async openLink(token: string, from: From): Promise<{ token: string; expiresAt: Date } | null> {
    const person = await personOfLink(this.house.db, hashOf(token), this.house.clock());
    return person && { token: await this.begin(person, from, false, person.expiresAt), expiresAt: person.expiresAt };
  }

  private async begin(person: { id: number; name: string }, from: From, byCode: boolean, endsAt?: Date): Promise<string> {
    const { db, clock } = this.house;
    const token = randomBytes(32).toString('base64url');
    const now = clock();
    const ends = endsAt ?? new Date(now.getTime() + SESSION_LONGEST_MS);
    const session = {
      ...{ tokenHash: hashOf(token), id: randomBytes(8).toString('hex'), personId: person.id, now, endsAt: ends, byCode },
      expiresAt: earlier(new Date(now.getTime() + SESSION_MS), ends),
      ...{ address: from.address.slice(0, 60), agent: from.agent.slice(0, 200) },
    };
    await inTransaction(db, async (tx) => {
      await forgetSessions(tx, now);
      await insertSession(tx, session);
      const text = `Signed in from ${session.address || 'here'}${byCode ? ' with a code' : ''}.`;
      await record(tx, { at: now, kind: 'sign-in', intakeId: null, who: person.name, text });
    });
    return token;
  }

  /** Who this token belongs to; use prolongs it, though not at every one of a hundred pictures. */
  async who(token: string): Promise<Caller | null> {
    const { db, clock } = this.house;
    const now = clock();
    const found = await personOfSession(db, hashOf(token), now);
    if (!found) return null;
    if (now.getTime() - found.usedAt.getTime() > PROLONG_MS)
      await prolongSession(db, hashOf(token), now, new Date(now.getTime() + SESSION_MS));
    return this.caller(found);
  }

  /** Is a session still good? Asking does not prolong it. */
  async isThere(token: string): Promise<boolean> {
    return (await personOfSession(this.house.db, hashOf(token), this.house.clock())) !== null;
  }

  private caller({ expiresAt: _, usedAt: __, ...row }: SessionRow): Caller {
    const demanded = this.house.settings.secondFactor === 'administrators must' && row.role === 'administrator';
    const must = row.byCode ? 'choose a password' : demanded && !row.secondFactor ? 'set up a second factor' : null;
    return { ...row, must };
  }

  async signOut(token: string, caller: Caller): Promise<void> {
    const { db, clock } = this.house;
    await inTransaction(db, async (tx) => {
      await deleteSession(tx, hashOf(token));
      await record(tx, { at: clock(), kind: 'signed out', intakeId: null, who: caller.name, text: 'Signed out.' });
      await sessionsEnded(tx, caller.id);
    });
  }
}

const earlier = (a: Date, b: Date) => (a < b ? a : b);

/** A code is what is typed instead of a password: with 60 bits and an end it needs no slow hash. */
function isTheirCode({ codeHash: kept, codeUntil }: SignInRow, typed: string, now: Date): boolean {
  return kept !== null && codeUntil !== null && codeUntil > now && kept.equals(codeHash(typed));
}

/** Whoever streams something to these sessions looks again whether they are still good. */
export const sessionsEnded = (db: Db, personId: number): Promise<void> => tell(db, { type: 'sessions', personId });
