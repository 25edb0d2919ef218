import { GENESIS, linkText, type ChainedEvent } from '@tally/core/audit';
import { createHash } from 'node:crypto';
import type { House } from '../house/index.js';
import { addLinks, eventsAfter, lastLink, type OrderedEvent } from './store.js';

/** Events that are chained in one go. */
const BATCH = 1_000;

/** The hash of a link, 64 hexadecimal digits. */
export const linkHash = (before: string, position: number, event: ChainedEvent): string =>
  createHash('sha256')
    .update(linkText(before, position, event))
    .digest('hex');

const plain = ({ xact: _, at, ...event }: OrderedEvent): ChainedEvent => ({ ...event, at: at.toISOString() });

/** Chains what was told since the last time, one process at a time. @returns how many events. */
export async function chainLog(house: Pick<House, 'db' | 'locks'>, signal: AbortSignal): Promise<number> {
  let chained = 0;
  await house.locks.hold('chaining', 0, signal, async (inner) => {
    for (let more = true; more && !inner.aborted;) {
      const added = await chainSome(house);
      chained += added;
      more = added === BATCH;
    }
  });
  return chained;
}

async function chainSome({ db }: Pick<House, 'db'>): Promise<number> {
  const last = await lastLink(db);
  const events = await eventsAfter(db, last ?? { xact: -1, id: 0 }, BATCH);
  if (!events.length) return 0;
  let [before, position] = [last?.hash.toString('hex') ?? GENESIS, last?.position ?? 0];
  const hashes = events.map((event) => {
    before = linkHash(before, ++position, plain(event));
    return Buffer.from(before, 'hex');
  });
  await addLinks(
    db,
    (last?.position ?? 0) + 1,
    events.map(({ id }) => id),
    hashes,
  );
  return events.length;
}
