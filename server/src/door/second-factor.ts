import type { RecoveryCodes, SecondFactorOffer } from '@tally/contract';
import { createHash, randomBytes } from 'node:crypto';
import { generateSecret, generateURI, verify } from 'otplib';
import { inTransaction, type Db } from '../db/database.js';
import { squareCode } from '../paper/code.js';
import { record, Refusal, type House } from '../house/index.js';
import { confirmSecond, dropSecond, keepRecoveryCodes, offerSecond, secondOf, useRecoveryCode, useStep } from './store/second.js';

/** One step before and one after count, too: clocks differ, and fingers are slow (RFC 6238, section 5.2). */
const STEP_SECONDS = 30;
const CODES = 10;

/** Without O, I, 0 and 1, which people take for each other. */
const LETTERS = 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789';

/** A code that people copy by hand: groups of four of 32 letters, 5 bits each. */
export function spokenCode(groups: number): string {
  const letters = Array.from(randomBytes(groups * 4), (byte) => LETTERS[byte % 32]!);
  return Array.from({ length: groups }, (_, i) => letters.slice(i * 4, i * 4 + 4).join('')).join('-');
}

/** The same however it was typed: small letters, blanks, without hyphens. It has 60 bits and more: no slow hash is needed. */
export const codeHash = (code: string): Buffer =>
  createHash('sha256')
    .update(code.toUpperCase().replace(/[^A-Z0-9]/g, ''))
    .digest();

/** Which time step a code is of; null: of none that counts now. @param at milliseconds since 1970 */
export async function stepOf(secret: string, code: string, at: number): Promise<number | null> {
  const digits = code.replace(/\s/g, '');
  if (!/^\d{6}$/.test(digits)) return null;
  const epoch = Math.floor(at / 1000);
  const result = await verify({ secret, token: digits, epoch, epochTolerance: STEP_SECONDS });
  return result.valid ? Math.floor(epoch / STEP_SECONDS) + result.delta : null;
}

/** Is this the second factor of somebody who has one? Each code counts once (RFC 6238, section 5.2). */
export async function secondFits(db: Db, personId: number, code: string, at: Date): Promise<boolean> {
  const second = await secondOf(db, personId);
  if (!second?.secret) return false;
  const step = await stepOf(second.secret, code, at.getTime());
  if (step !== null) return useStep(db, personId, step);
  return useRecoveryCode(db, personId, codeHash(code));
}

/** Offers a second factor: it counts once a code of it was given. @throws Refusal when there is one. */
export async function offerSecondFactor(house: House, person: { id: number; name: string }): Promise<SecondFactorOffer> {
  const secret = generateSecret();
  if (!(await offerSecond(house.db, person.id, secret)))
    throw new Refusal('conflict', 'There is a second factor already. Take it away first.');
  const address = generateURI({ issuer: `Tally Stick ${house.settings.house}`, label: person.name, secret });
  return { secret, address, picture: await squareCode(address) };
}

/** From now on it is asked for. @returns codes that sign in once each, where it is lost. */
export async function confirmSecondFactor(
  house: House,
  person: { id: number; name: string },
  code: string,
): Promise<RecoveryCodes> {
  const second = await secondOf(house.db, person.id);
  if (!second?.secret || second.at) throw new Refusal('conflict', 'No second factor waits for its first code.');
  const step = await stepOf(second.secret, code, house.clock().getTime());
  if (step === null)
    throw new Refusal('conflict', 'This is not the code of this moment. Look again: it changes every 30 seconds.');
  const codes = Array.from({ length: CODES }, () => spokenCode(3));
  await inTransaction(house.db, async (tx) => {
    if (!(await confirmSecond(tx, person.id, second.secret!, step, house.clock())))
      throw new Refusal('conflict', 'No second factor waits for its first code.');
    await keepRecoveryCodes(tx, person.id, codes.map(codeHash));
    const text = 'A second factor is asked for from now on.';
    await record(tx, { at: house.clock(), kind: 'second factor', intakeId: null, who: person.name, text });
  });
  return { codes };
}

/** Takes a second factor away, with its recovery codes. */
export async function removeSecondFactor(house: House, of: { id: number; name: string }, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    if (!(await dropSecond(tx, of.id))) return;
    const text = `The second factor of ${of.name} was taken away.`;
    await record(tx, { at: house.clock(), kind: 'second factor', intakeId: null, who, text });
  });
}
