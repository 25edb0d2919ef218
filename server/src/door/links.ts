import { NewHandInLink, type HandInLinkView } from '@tally/contract';
import { randomBytes } from 'node:crypto';
import { inTransaction } from '../db/database.js';
import { squareCode } from '../paper/code.js';
import { record, Refusal, type House } from '../house/index.js';
import { mustExist } from '../people/index.js';
import { hashOf, sessionsEnded } from './access.js';
import { insertPerson, retirePerson } from './store/accounts.js';
import { addLink, revokeLink } from './store/links.js';
import { endSessionsOf } from './store/sessions.js';

/**
 * Makes a link by which anybody who has it may hand in until it ends, bound as was said.
 * @param base where people reach this server, such as `https://tally.example.org`. @returns its secret, which is kept nowhere.
 */
export async function makeLink(house: House, said: NewHandInLink, base: string, who: string): Promise<HandInLinkView> {
  const { hours, name, ...bounds } = NewHandInLink.parse(said);
  const token = randomBytes(24).toString('base64url');
  const madeAt = house.clock();
  const expiresAt = new Date(madeAt.getTime() + hours * 3_600_000);
  const id = await inTransaction(house.db, async (tx) => {
    await mustExist(tx, 'contributor', bounds.contributorId);
    await mustExist(tx, 'assignment', bounds.assignmentId);
    // Nobody signs in as this person: it has no password.
    const called = `Hand-in link ${name || madeAt.toISOString().slice(0, 10)} ${randomBytes(4).toString('hex')}`;
    const person = { ...bounds, name: called, passwordHash: null, role: 'hand-in', at: madeAt, until: expiresAt } as const;
    const personId = (await insertPerson(tx, { ...person, seesPersons: false }))!;
    await addLink(tx, { tokenHash: hashOf(token), personId, name, madeBy: who, madeAt, expiresAt });
    const text = `A hand-in link${name ? ` for ${name}` : ''} was made, good for ${hours} hours.`;
    await record(tx, { at: madeAt, kind: 'hand-in link', intakeId: null, who, text, data: { hours, ...bounds } });
    return personId;
  });
  const address = `${base}/hand-in#k=${token}`;
  return { id, token, address, picture: await squareCode(address), expiresAt: expiresAt.toISOString() };
}

/** A link is good for nothing from now on, and whoever came by it is out. @throws Refusal when it was ended before. */
export async function endLink(house: House, id: number, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    const name = await revokeLink(tx, id, house.clock());
    if (name === null) throw new Refusal('not found', 'There is no such link, or it was ended before.');
    await retirePerson(tx, id, house.clock());
    await endSessionsOf(tx, id, { allBut: null });
    await sessionsEnded(tx, id);
    const text = `The hand-in link${name ? ` for ${name}` : ''} was ended.`;
    await record(tx, { at: house.clock(), kind: 'hand-in link', intakeId: null, who, text });
  });
}

/** Where people reach this server, for addresses on paper and in codes. */
export function baseOf(house: Pick<House, 'settings'>, asked: string | null): string {
  const { publicUrl, host, port } = house.settings;
  return (publicUrl ?? asked ?? `http://${host}:${port}`).replace(/\/+$/, '');
}
