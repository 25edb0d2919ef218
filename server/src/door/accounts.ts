import type { AccountChange, AccountView, CodeView, NewAccount, Role } from '@tally/contract';
import { NewAccount as NewAccountSchema } from '@tally/contract';
import { inTransaction, type Db } from '../db/database.js';
import { record, Refusal, type House } from '../house/index.js';
import { mustExist } from '../people/index.js';
import { sessionsEnded } from './access.js';
import { hashPassword } from './passwords.js';
import { codeHash, removeSecondFactor, spokenCode } from './second-factor.js';
import {
  accountsOf,
  anybodySignsIn,
  insertPerson,
  lockAdministrators,
  nameTaken,
  retirePerson,
  setAccount,
  setCode,
} from './store/accounts.js';
import { isOfLink } from './store/links.js';
import { endSessionsOf } from './store/sessions.js';

/** How long a code is good by which somebody chooses a password. */
const CODE_MS = 3 * 24 * 3_600_000;

const UNBOUND = { contributorId: null, ofKind: null, assignmentId: null, quotaBytes: null, quotaFiles: null };

/** Adds somebody with a password: for stories and tests. @returns false when the name is taken. */
export async function addPerson(db: Db, name: string, password: string, role: Role, at: Date): Promise<boolean> {
  const passwordHash = await hashPassword(password);
  return (await insertPerson(db, { ...UNBOUND, name, passwordHash, role, at, until: null, seesPersons: false })) !== null;
}

/**
 * Makes the first administrator where nobody can sign in yet: with the password of the environment, else with a code, by
 * which one is chosen. @returns the name and the code, to show once; null when somebody exists.
 */
export async function ensureAdministrator(
  db: Db,
  env: NodeJS.ProcessEnv,
  at: Date,
): Promise<{ name: string; code: string | null } | null> {
  if (await anybodySignsIn(db)) return null;
  const name = env['TALLY_ADMIN_NAME'] ?? 'admin';
  const given = env['TALLY_ADMIN_PASSWORD'];
  if (given) {
    await addPerson(db, name, given, 'administrator', at);
    return { name, code: null };
  }
  return inTransaction(db, async (tx) => {
    const one = { ...UNBOUND, name, passwordHash: null, role: 'administrator', at, until: null, seesPersons: false } as const;
    const id = await insertPerson(tx, one);
    return id === null ? null : { name, code: (await newCode(tx, id, at)).code };
  });
}

/** One account. @throws Refusal when there is none, or it is a link's. */
export async function account(house: Pick<House, 'db' | 'clock'>, id: number): Promise<AccountView> {
  const [found] = await accountsOf(house.db, house.clock(), id);
  if (!found) throw new Refusal('not found', 'There is no such account.');
  return found;
}

/** Adds somebody who signs in: by a code, with which a password is chosen. @throws Refusal when the name is taken. */
export async function makeAccount(house: House, said: NewAccount, who: string): Promise<CodeView> {
  const one = NewAccountSchema.parse(said);
  const { clock } = house;
  return inTransaction(house.db, async (tx) => {
    await boundTo(tx, one);
    const until = one.until === null ? null : new Date(one.until);
    const id = await insertPerson(tx, { ...one, until, passwordHash: null, at: clock() });
    if (id === null) throw new Refusal('conflict', `${one.name} signs in here already.`);
    const text = `${one.name} may sign in as ${one.role}.`;
    await record(tx, { at: clock(), kind: 'account', intakeId: null, who, text, data: one });
    return newCode(tx, id, clock());
  });
}

async function boundTo(tx: Db, { contributorId, assignmentId }: AccountChange): Promise<void> {
  await mustExist(tx, 'contributor', contributorId ?? null);
  await mustExist(tx, 'assignment', assignmentId ?? null);
}

async function newCode(tx: Db, id: number, now: Date): Promise<CodeView> {
  const code = spokenCode(4);
  const until = new Date(now.getTime() + CODE_MS);
  await setCode(tx, id, codeHash(code), until);
  return { id, code, until: until.toISOString() };
}

/** Gives somebody who forgot the password a code: the old password and every session end. */
export async function giveCode(house: House, id: number, who: string): Promise<CodeView> {
  const { name, retired } = await account(house, id);
  if (retired) throw new Refusal('conflict', `${name} is retired: put them back first.`);
  return inTransaction(house.db, async (tx) => {
    const code = await newCode(tx, id, house.clock());
    await endSessionsOf(tx, id, { allBut: null });
    await sessionsEnded(tx, id);
    const text = `${name} got a code to choose a password by.`;
    await record(tx, { at: house.clock(), kind: 'account', intakeId: null, who, text });
    return code;
  });
}

/**
 * Says something of an account anew. One administrator at least remains, whoever acts at the same time.
 * @throws Refusal when it is the last one, when the name is taken, when there is no such account.
 */
export async function changeAccount(house: House, id: number, change: AccountChange, who: string): Promise<AccountView> {
  const before = await account(house, id);
  const { retired, secondFactor, until, ...rest } = change;
  await inTransaction(house.db, async (tx) => {
    const administrators = await lockAdministrators(tx);
    const leaves =
      retired === true || (rest.role !== undefined && rest.role !== 'administrator') || (until !== undefined && until !== null);
    if (leaves && administrators.length === 1 && administrators[0] === id)
      throw new Refusal('conflict', `${before.name} is the only administrator: make somebody else one first.`);
    if (await isOfLink(tx, id)) throw new Refusal('not found', 'There is no such account.');
    if (rest.name !== undefined && (await nameTaken(tx, rest.name, id)))
      throw new Refusal('conflict', `${rest.name} signs in here already.`);
    await boundTo(tx, rest);
    await setAccount(tx, id, { ...rest, ...(until === undefined ? {} : { until: until === null ? null : new Date(until) }) });
    if (retired !== undefined && retired !== before.retired) await retirePerson(tx, id, retired ? house.clock() : null);
    // Whoever may less from now on begins anew: nothing that was opened before goes on.
    const ends = retired === true || (rest.role !== undefined && rest.role !== before.role);
    if (ends) {
      await endSessionsOf(tx, id, { allBut: null });
      await sessionsEnded(tx, id);
    }
    const text = inWords(before, change);
    if (text) await record(tx, { at: house.clock(), kind: 'account', intakeId: null, who, text, data: change });
  });
  if (secondFactor === false) await removeSecondFactor(house, before, who);
  return account(house, id);
}

function inWords(before: AccountView, change: AccountChange): string | null {
  const { retired, role, name, until, seesPersons, secondFactor: _, ...rest } = change;
  const parts = [
    retired === undefined || retired === before.retired ? '' : retired ? 'retired' : 'put back',
    role === undefined || role === before.role ? '' : `made ${role} (was ${before.role})`,
    name === undefined || name === before.name ? '' : `called ${name} from now on`,
    until === undefined || until === before.until ? '' : until === null ? 'good for ever' : `good until ${until}`,
    seesPersons === undefined || seesPersons === before.seesPersons
      ? ''
      : `sees persons ${seesPersons ? 'from now on' : 'no more'}`,
    isBoundOtherwise(before, rest) ? 'bound otherwise' : '',
  ].filter(Boolean);
  return parts.length ? `${before.name}: ${parts.join(', ')}.` : null;
}

/** The interface says everything of an account each time: what was so before is no change. */
function isBoundOtherwise(
  { contributor, assignment, ofKind, quotaBytes, quotaFiles }: AccountView,
  change: AccountChange,
): boolean {
  const before = { contributorId: contributor?.id ?? null, assignmentId: assignment?.id ?? null, ofKind, quotaBytes, quotaFiles };
  return (Object.keys(before) as (keyof typeof before)[]).some((key) => change[key] !== undefined && change[key] !== before[key]);
}

/** Ends sessions of somebody, one or all. @returns how many there were. */
export async function endSessions(house: House, id: number, one: string | null, who: string): Promise<number> {
  const { name } = await account(house, id);
  return inTransaction(house.db, async (tx) => {
    const ended = await endSessionsOf(tx, id, one === null ? { allBut: null } : { one });
    if (!ended) return 0;
    await sessionsEnded(tx, id);
    const text = `${ended === 1 ? 'A session' : `${ended} sessions`} of ${name} ended.`;
    await record(tx, { at: house.clock(), kind: 'session', intakeId: null, who, text });
    return ended;
  });
}
