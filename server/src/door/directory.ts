import type { Role } from '@tally/contract';
import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import * as oidc from 'openid-client';
import { inTransaction } from '../db/database.js';
import { isLoopback } from '../http/listening.js';
import { record, Refusal, type House } from '../house/index.js';
import type { Settings } from '../settings.js';
import { sessionsEnded } from './access.js';
import { insertPerson, lockAdministrators, personBySubject, setAccount, setSubject } from './store/accounts.js';
import { endSessionsOf } from './store/sessions.js';

type DirectorySettings = NonNullable<Settings['directory']>;

/** What is kept in the browser between asking and coming back (OpenID Connect Core 1.0, 3.1.2.1; RFC 7636). */
export interface Asking {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
}

const UNBOUND = { contributorId: null, ofKind: null, assignmentId: null, quotaBytes: null, quotaFiles: null };
/** A directory that does not answer is asked no longer than this. */
const ANSWER_SECONDS = 8;

/** Sign-in by the house's directory: it says who somebody is and in which groups; the settings say which group is which role. */
export class Directory {
  private known: Promise<oidc.Configuration> | null = null;

  constructor(
    private readonly house: House,
    private readonly settings: DirectorySettings,
  ) {}

  get name(): string {
    return this.settings.name;
  }

  /** Finds the directory's addresses, once. @throws Refusal when it does not answer: the next try asks again */
  private configured(): Promise<oidc.Configuration> {
    this.known ??= this.discover().catch((error: unknown) => {
      this.known = null;
      this.house.log.warn({ error: String(error) }, 'the directory does not answer');
      throw new Refusal('not possible now', `${this.name} does not answer. Who has a password here signs in with that.`);
    });
    return this.known;
  }

  private async discover(): Promise<oidc.Configuration> {
    const { issuer, clientId, secretFile } = this.settings;
    const secret = secretFile ? (await readFile(secretFile, 'utf8')).trim() : process.env['TALLY_DIRECTORY_SECRET'];
    const url = new URL(issuer);
    // In the clear with this machine itself only: a stand-in, or a proxy.
    // eslint-disable-next-line @typescript-eslint/no-deprecated -- marked so that it stands out, which it does
    const execute = url.protocol === 'http:' && isLoopback(url.hostname) ? [oidc.allowInsecureRequests] : [];
    return oidc.discovery(url, clientId, secret, undefined, { execute, timeout: ANSWER_SECONDS });
  }

  /** Where a browser goes to, and what it keeps until it comes back to `back`. */
  async ask(back: string): Promise<{ to: string; asking: Asking }> {
    const config = await this.configured();
    const asking = {
      ...{ state: oidc.randomState(), nonce: oidc.randomNonce(), verifier: oidc.randomPKCECodeVerifier() },
    };
    const to = oidc.buildAuthorizationUrl(config, {
      ...{ redirect_uri: back, scope: this.settings.scope, state: asking.state, nonce: asking.nonce },
      ...{ code_challenge: await oidc.calculatePKCECodeChallenge(asking.verifier), code_challenge_method: 'S256' },
    });
    return { to: to.href, asking };
  }

  /** Who came back. @param url as the browser came back to it @throws Refusal when the directory does not vouch for them, or no group of theirs is a role */
  async back(url: URL, asking: Asking): Promise<{ id: number; name: string }> {
    const config = await this.configured();
    const claims = await this.vouched(config, url, asking);
    const groups = listOf(claims[this.settings.groupsClaim]);
    const role = Object.entries(this.settings.roles).find(([group]) => groups.includes(group))?.[1];
    const claimed = claims[this.settings.nameClaim];
    const called = (typeof claimed === 'string' && claimed.trim() ? claimed.trim() : claims.sub).slice(0, 80);
    if (!role) {
      const text = `${this.name} vouches for somebody, none of whose groups may come in here.`;
      await this.told('sign-in refused', null, text);
      throw new Refusal('conflict', `${called} is in no group that may come in here. Ask an administrator.`);
    }
    return this.person(`${claims.iss} ${claims.sub}`, called, role);
  }

  private async vouched(config: oidc.Configuration, url: URL, { state, nonce, verifier }: Asking): Promise<oidc.IDToken> {
    try {
      const tokens = await oidc.authorizationCodeGrant(config, url, {
        ...{ expectedState: state, expectedNonce: nonce, pkceCodeVerifier: verifier, idTokenExpected: true },
      });
      const claims = tokens.claims()!;
      // Some directories put groups beside the token only.
      if (claims[this.settings.groupsClaim] !== undefined || !config.serverMetadata().userinfo_endpoint) return claims;
      return { ...(await oidc.fetchUserInfo(config, tokens.access_token, claims.sub)), ...claims };
    } catch (error) {
      this.house.log.warn({ error: String(error) }, 'the directory did not vouch');
      await this.told('sign-in refused', null, `${this.name} did not vouch for whoever came back from it.`);
      throw new Refusal('conflict', `${this.name} did not vouch for you. Try again.`);
    }
  }

  /** The account of somebody whom the directory knows: made where there is none, with the role that their groups have now. */
  private async person(subject: string, called: string, role: Role): Promise<{ id: number; name: string }> {
    const { house } = this;
    return inTransaction(house.db, async (tx) => {
      const administrators = await lockAdministrators(tx);
      const found = await personBySubject(tx, subject);
      if (!found) {
        // A name that somebody has here is never taken over: the directory's gets a mark.
        const mark = createHash('sha256').update(subject).digest('hex').slice(0, 6);
        const one = { ...UNBOUND, passwordHash: null, role, at: house.clock(), until: null, seesPersons: false };
        for (const name of [called, `${called} ${mark}`]) {
          const id = await insertPerson(tx, { ...one, name });
          if (id === null) continue;
          await setSubject(tx, id, subject);
          await this.told('account', name, `${name} came by ${this.name} for the first time, as ${role}.`, tx);
          return { id, name };
        }
        throw new Refusal('conflict', `${called} signs in here already, otherwise.`);
      }
      if (found.retired) throw new Refusal('conflict', `${found.name} is retired here. Ask an administrator.`);
      const isLast = found.role === 'administrator' && administrators.length === 1;
      if (found.role !== role && !isLast) {
        await setAccount(tx, found.id, { role });
        await endSessionsOf(tx, found.id, { allBut: null });
        await sessionsEnded(tx, found.id);
        await this.told('account', found.name, `${found.name} is ${role} by ${this.name} now (was ${found.role}).`, tx);
      }
      return found;
    });
  }

  private async told(kind: string, who: string | null, text: string, db = this.house.db): Promise<void> {
    await record(db, { at: this.house.clock(), kind, intakeId: null, who, text });
  }
}

const listOf = (claim: unknown): string[] =>
  Array.isArray(claim) ? claim.map(String) : typeof claim === 'string' ? [claim] : [];
