import type { TrackAnswer } from '@tally/contract';
import { zoneOffsetMinutes } from '@tally/core/capture';
import { nearKnown, positionAt, readGpx } from '@tally/core/location';
import { inTransaction } from '../db/database.js';
import { itemsOf } from '../seeing/index.js';
import { followItems, houseList } from '../people/index.js';
import { type House, lockIntake, record, Refusal, theIntake } from '../house/index.js';
import { setPositions } from './store/credit.js';

/**
 * Matches a track that somebody handed in with the items of an intake, by their corrected capture times, and keeps the
 * positions. What is known to be near is proposed; nobody's location is changed by it.
 */
export async function matchTrack(house: House, intakeId: number, gpx: string, who: string): Promise<TrackAnswer> {
  const track = readGpx(gpx);
  if (typeof track === 'string') throw new Refusal('conflict', track);
  await theIntake(house, intakeId);
  const items = (await itemsOf(house.db, intakeId)).filter((item) => item.setAside === null);
  const positions = items.flatMap(({ id, captured }) => {
    const at = positionAt(track, instantOf(captured.local, captured.offsetMinutes, house.settings.zone));
    return at ? [{ id, ...at }] : [];
  });
  const near = nearKnown(await houseList(house.db, 'locations'), positions);
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await setPositions(tx, positions);
    const text = `A track of ${track.length} points says where ${positions.length} of ${items.length} items were taken.`;
    await record(tx, { at: house.clock(), kind: 'credit', intakeId, who, text });
    const ids = positions.map(({ id }) => id);
    await followItems(tx, 'select unnest($1::int[]) as item_id', [ids], true);
  });
  return {
    points: track.length,
    matched: positions.length,
    items: items.length,
    near: near.map(({ locationId, taken, metres }) => ({ locationId, itemIds: taken.map(({ id }) => id), metres })),
  };
}

/** The moment of a wall clock time, by its own offset, else by the house's zone. Milliseconds since 1970, UTC. */
function instantOf(local: string, offsetMinutes: number | null, zone: string): number {
  const asUtc = Date.parse(`${local.slice(0, 19)}Z`);
  const offset = offsetMinutes ?? zoneOffsetMinutes(zone, new Date(asUtc));
  return asUtc - offset * 60_000;
}
