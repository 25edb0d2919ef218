import { eventText, GENESIS, linkText } from '@tally/core/audit';
import { createHash, randomBytes } from 'node:crypto';
import type { House } from '../house/index.js';
import { addLinks, eventsAfter, lastLink, type NewLink, type Told } from './store/chain.js';

/** Events that are chained in one go. */
const BATCH = 1_000;

/** The hash of a link. @param digest, @returns 64 hexadecimal digits */
export const linkHash = (before: string, position: number, digest: string): string =>
  createHash('sha256')
    .update(linkText(before, position, digest))
    .digest('hex');

/** What a link holds of its event: SHA-256 of salt and event, 64 hexadecimal digits. */
export const digestOf = (salt: Buffer, { id, at, kind, intakeId, who, text, data }: Told): string =>
  createHash('sha256')
    .update(salt)
    .update(eventText({ id, at: at.toISOString(), kind, intakeId, who, text, data }))
    .digest('hex');

const SALT_BYTES = 16;
export const newSalt = (): Buffer => randomBytes(SALT_BYTES);

/** Chains what was told since the last time, one process at a time. @returns how many events. */
export async function chainLog(house: Pick<House, 'db' | 'locks'>, signal: AbortSignal): Promise<number> {
  let chained = 0;
  await house.locks.hold('chaining', 0, signal, async (inner) => {
    chained = await chainAll(house, inner);
  });
  return chained;
}

/** The same, for whoever holds the chain. */
export async function chainAll(house: Pick<House, 'db'>, signal: AbortSignal): Promise<number> {
  let chained = 0;
  for (let more = true; more && !signal.aborted;) {
    const added = await chainSome(house);
    chained += added;
    more = added === BATCH;
  }
  return chained;
}

async function chainSome({ db }: Pick<House, 'db'>): Promise<number> {
  const last = await lastLink(db);
  const events = await eventsAfter(db, last ?? { epoch: 0, xact: -1, id: 0 }, BATCH);
  if (!events.length) return 0;
  let [before, position] = [last?.hash.toString('hex') ?? GENESIS, last?.position ?? 0];
  const links = events.map((event): NewLink => {
    const salt = newSalt();
    const digest = digestOf(salt, event);
    before = linkHash(before, ++position, digest);
    return { eventId: event.id, hash: Buffer.from(before, 'hex'), digest: Buffer.from(digest, 'hex'), salt };
  });
  await addLinks(db, (last?.position ?? 0) + 1, links);
  return events.length;
}
