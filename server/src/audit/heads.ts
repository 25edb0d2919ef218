import { headLine, readHeads, type Head } from '@tally/core/audit';
import { LOG_HEADS_FILE } from '@tally/core/drive';
import { readOwn, writeOwn } from '../drive/own-file.js';
import { abilitiesOf, placesStanding } from '../driving/index.js';
import { record, type House } from '../house/index.js';
import { chainAll } from './chaining.js';
import { lastEventAt, lastLink } from './store/chain.js';

const REMARK = `# Where the log ended, each night: when, how many events, the hash of the last one (SHA-256), the epoch of the log.
# Compare with: tally log --verify. Keep copies of this file where nobody of this house can change them.
`;

/** What the heads file of a place says; null: there is none. */
export async function headsAt(root: string): Promise<{ heads: Head[]; odd: number } | null> {
  const text = await readOwn(root, LOG_HEADS_FILE);
  return text === null ? null : readHeads(text);
}

/**
 * Once a day: chains what was told, then writes where that ends. One station does it for all: whoever comes second finds it done.
 * @param isDone was it done on this day of the house?
 */
export async function writeNightly(house: House, isDone: (lastAt: Date) => boolean, signal: AbortSignal): Promise<void> {
  await house.locks.holdInTurn('chaining', 0, signal, async (inner) => {
    const last = await lastEventAt(house.db, 'chain');
    if (last && isDone(last)) return;
    await chainAll(house, inner);
    await writeHeads(house, inner);
  });
}

/**
 * Writes where the chain ends to every place that is there. What stands in the file already stays: a head that was changed
 * there is somebody's doing, and is told by whoever verifies.
 * @returns names of the places it was written to
 */
export async function writeHeads(house: House, signal: AbortSignal): Promise<string[]> {
  const last = await lastLink(house.db);
  if (!last) return [];
  const { position, epoch } = last;
  const head = headLine({ position, hash: last.hash.toString('hex'), at: house.clock().toISOString(), epoch });
  const written: string[] = [];
  for (const place of await placesStanding(house)) {
    if (!place.standing.online) continue;
    try {
      const { links } = await abilitiesOf(place);
      await house.locks.holdInTurn('place', place.id, signal, async () => {
        const before = await readOwn(place.root, LOG_HEADS_FILE);
        const text = `${before ?? REMARK}${head}\n`;
        if (await writeOwn(place.root, LOG_HEADS_FILE, text, before !== null, links)) written.push(place.name);
      });
    } catch (error) {
      house.log.warn({ place: place.id, error: String(error) }, 'the head of the log could not be written');
    }
  }
  const text = written.length
    ? `The log's head after ${last.position} events was written to ${written.join(', ')}.`
    : `The log's head after ${last.position} events could be written nowhere.`;
  await record(house.db, { at: house.clock(), kind: 'chain', intakeId: null, who: null, text });
  return written;
}
