import { nearest, type Position } from './position.js';

/** A location as the house keeps it. */
export interface KnownLocation {
  readonly id: number;
  readonly lat: number | null;
  readonly lon: number | null;
  /** So far from it, in metres, a picture still counts as taken there. */
  readonly reachM: number;
  readonly retired: boolean;
}

/** A known location with what was taken near it. */
export interface TakenNear<T> {
  readonly locationId: number;
  readonly taken: readonly T[];
  /** The farthest of it, in metres. */
  readonly metres: number;
}

/** Which known locations things were taken near, the one with the most first. Retired ones are not proposed. */
export function nearKnown<T extends Position>(locations: readonly KnownLocation[], taken: readonly T[]): TakenNear<T>[] {
  const known = locations.flatMap(({ id, lat, lon, reachM, retired }) =>
    lat === null || lon === null || retired ? [] : [{ id, reachM, position: { lat, lon } }],
  );
  const near = new Map<number, { taken: T[]; metres: number }>();
  for (const one of taken) {
    const found = nearest(known, one);
    if (!found) continue;
    const at = near.get(found.location.id) ?? { taken: [], metres: 0 };
    at.taken.push(one);
    near.set(found.location.id, { ...at, metres: Math.max(at.metres, found.metres) });
  }
  return [...near].map(([locationId, at]) => ({ locationId, ...at })).sort((a, b) => b.taken.length - a.taken.length);
}
