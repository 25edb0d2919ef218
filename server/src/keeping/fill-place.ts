import { standingOf } from '../drive/place.js';
import { inTransaction } from '../db/database.js';
import { setTimeout as sleep } from 'node:timers/promises';
import { formatBytes } from '@tally/core/logbook';
import { fillable, type Fillable, takenUp } from './store.js';
import { anybodyFiling, type House, intakeById, lockIntake, record, tell } from '../house/index.js';
import { fileBatch, settle, wholeButTroubled, writeOutcomes } from '../filing/index.js';
import { refreshTotals, touchItems } from '../seeing/index.js';
import { abilitiesOf, placesStanding, type StandingPlace } from '../driving/index.js';

/** Small enough that filing, which goes first, never waits long. */
const BATCH_ITEMS = 32;
const BATCH_BYTES = 64e6;

export interface Filled {
  readonly copies: number;
  readonly bytes: number;
  /** Copies that could not be made, each with why; they wait on. */
  readonly problems: readonly string[];
}

/**
 * Makes the copies a place waits for, from another place where they tally: no card is needed. Every copy is proven like
 * any other, against what was once read from the card. Filing goes first, and the place's own pace is kept.
 * Safe to be killed at any moment and called again.
 * @param signal ends it between batches; AbortError in the middle of one.
 */
export async function fillPlace(house: House, placeId: string, signal: AbortSignal, keepPace = true): Promise<Filled> {
  const { db } = house;
  const filled = { copies: 0, bytes: 0, problems: [] as string[] };
  const touched = new Set<number>();
  const failed = new Set<number>();
  const stopped = () => signal.aborted;
  while (!stopped()) {
    while (keepPace && !stopped() && (await anybodyFiling(db, house.settings.station)))
      await sleep(500, undefined, { signal }).catch(() => undefined);
    const places = (await placesStanding(house)).filter(({ standing }) => standing.online);
    const place = places.find(({ id }) => id === placeId);
    if (!place || stopped()) break;
    const sources = places.flatMap(({ id }) => (id === placeId ? [] : [id]));
    const began = Date.now();
    const turn = { batch: [] as readonly Fillable[], bytes: null as number | null };
    // While it is filled nobody gives it other names, writes beside its files, or judges them.
    await house.locks.holdInTurn('place', placeId, signal, async (inner) => {
      const waiting = await fillable(db, placeId, sources, BATCH_ITEMS + failed.size);
      const next = firstOfOneSource(waiting.filter(({ filedItemId }) => !failed.has(filedItemId)));
      turn.batch = await takenUp(db, placeId, next);
      const source = places.find(({ id }) => id === turn.batch[0]?.sourceId);
      if (source) turn.bytes = await fillBatch(house, place, source, turn.batch, filled, failed, inner);
      // Others gave these other names just now: the next look finds them under those.
      else if (next.length) turn.bytes = 0;
    });
    const { batch, bytes } = turn;
    if (bytes === null && !batch.length) break;
    for (const { intakeId } of batch) touched.add(intakeId);
    for (const intakeId of touched) {
      // Its turn is over: say so now, not when a long way has been filled.
      if (intakeId === batch[0]?.intakeId) continue;
      await afterwards(house, intakeId);
      touched.delete(intakeId);
    }
    if (bytes === null) break;
    await tell(db, { type: 'desk' });
    if (place.bytesPerSecond !== null && keepPace)
      await sleep(Math.max(0, (bytes * 1000) / place.bytesPerSecond - (Date.now() - began)), undefined, { signal }).catch(
        () => undefined,
      );
  }
  for (const intakeId of touched) await afterwards(house, intakeId);
  if (filled.copies) {
    const name = (await placesStanding(house)).find(({ id }) => id === placeId)?.name ?? placeId;
    const text = `${name} was filled up: ${filled.copies} copies tally there (${formatBytes(filled.bytes)}).`;
    await record(db, { at: house.clock(), kind: 'filled', intakeId: null, who: null, text, data: { placeId, ...filled } });
  }
  return filled;
}

/** As many as make one batch: of one intake, from one place. */
function firstOfOneSource(waiting: readonly Fillable[]): Fillable[] {
  const batch: Fillable[] = [];
  let bytes = 0;
  for (const one of waiting) {
    const first = batch[0] ?? one;
    if (one.sourceId !== first.sourceId || one.intakeId !== first.intakeId) continue;
    batch.push(one);
    bytes += one.bytes;
    if (batch.length >= BATCH_ITEMS || bytes >= BATCH_BYTES) break;
  }
  return batch;
}

/** @returns the bytes that were filled; null when the place or the source is not to be used any more. */
async function fillBatch(
  house: House,
  place: StandingPlace,
  source: StandingPlace,
  batch: readonly Fillable[],
  filled: { copies: number; bytes: number; problems: string[] },
  failed: Set<number>,
  signal: AbortSignal,
): Promise<number | null> {
  const able = { ...place, ...(await abilitiesOf(place)) };
  const outcome = await fileBatch(batch, {
    ...{ intakeId: batch[0]!.intakeId, from: 'copy', sourcePath: source.root, places: [able], files: house.files },
    sourceStands: async () => (await standingOf(source, source.mark)).online,
    ...{ now: house.clock, signal, onBytes: () => undefined },
    // It has its name elsewhere already.
    rename: () => Promise.resolve(false),
  });
  // A copy of a copy has inside it what that one has.
  const versionOf = new Map(batch.map((one) => [one.filedItemId, one.version]));
  const copies = outcome.copies.map((copy) => ({ ...copy, version: versionOf.get(copy.filedItemId) ?? 0 }));
  await writeOutcomes(house.db, copies, []);
  const bytesOf = new Map(batch.map((one) => [one.filedItemId, one.bytes]));
  let bytes = 0;
  for (const copy of outcome.copies) {
    if (copy.state === 'tallied') {
      filled.copies++;
      bytes += bytesOf.get(copy.filedItemId) ?? 0;
    } else {
      failed.add(copy.filedItemId);
      if (copy.problem) filled.problems.push(copy.problem);
    }
  }
  filled.bytes += bytes;
  // A place that is full or gone will not take the next batch either.
  return outcome.lostPlaces.size || outcome.cardGone ? null : bytes;
}

/** Intakes that still ask for attention though everything tallies: whoever filled their places was killed before saying so. */
export async function settleWhole(house: House): Promise<void> {
  for (const intakeId of await wholeButTroubled(house.db)) await afterwards(house, intakeId);
}

/** What became of an intake when some of its copies were made. */
async function afterwards(house: House, intakeId: number): Promise<void> {
  const { db } = house;
  const intake = await intakeById(db, intakeId);
  if (!intake) return;
  await inTransaction(db, async (tx) => {
    await lockIntake(tx, intakeId);
    await touchItems(tx, intakeId);
    await refreshTotals(tx, intakeId);
    await tell(tx, { type: 'intake', intakeId, state: intake.state });
    await tell(tx, { type: 'items', intakeId });
  });
  if ((await wholeButTroubled(db, intakeId)).length) await settle(house, intake, []);
}
