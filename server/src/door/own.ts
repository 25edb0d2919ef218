import type { PasswordChange } from '@tally/contract';
import { inTransaction } from '../db/database.js';
import { record, Refusal, type House } from '../house/index.js';
import type { Caller } from '../http/caller.js';
import { sessionsEnded } from './access.js';
import type { Guessing } from './guessing.js';
import { hashPassword, mustDo, passwordFits } from './passwords.js';
import { passwordHashOf, setPassword } from './store/accounts.js';
import { endSessionsOf } from './store/sessions.js';

/**
 * Another password of one's own: who came by a code chooses one, anybody else gives the old one too. All other sessions end.
 * @throws Refusal when the old one is wrong, or the new one will not do.
 */
export async function changePassword(
  house: House,
  guessing: Guessing,
  caller: Caller,
  { now, wish }: PasswordChange,
  address: string,
): Promise<void> {
  if (!caller.byCode) {
    const wait = await guessing.count(caller.name, address);
    if (wait !== null) throw new Refusal('too often', `Too many wrong passwords: try again in ${Math.ceil(wait / 60)} minutes.`);
    if (!(await passwordFits(await passwordHashOf(house.db, caller.id), now ?? '')))
      throw new Refusal('conflict', 'The password you have now is another one.');
    await guessing.forgive(caller.name, address);
  }
  await mustDo(wish);
  const passwordHash = await hashPassword(wish);
  await inTransaction(house.db, async (tx) => {
    await setPassword(tx, caller.id, passwordHash, caller.sessionId);
    await endSessionsOf(tx, caller.id, { allBut: caller.sessionId });
    await sessionsEnded(tx, caller.id);
    const text = 'Chose another password; every other session ended.';
    await record(tx, { at: house.clock(), kind: 'password', intakeId: null, who: caller.name, text });
  });
}

/** Ends sessions of one's own: one, or all but this one. */
export async function endOwnSessions(house: House, caller: Caller, one: string | null): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const ended = await endSessionsOf(tx, caller.id, one === null ? { allBut: caller.sessionId } : { one });
    if (!ended) return;
    await sessionsEnded(tx, caller.id);
    const text = `Ended ${ended === 1 ? 'a session' : `${ended} sessions`} of their own.`;
    await record(tx, { at: house.clock(), kind: 'session', intakeId: null, who: caller.name, text });
  });
}
