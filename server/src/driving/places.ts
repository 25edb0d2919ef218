import type { PlaceView } from '@tally/contract';
import { probe, standingOf, type Abilities, type Standing } from '../drive/place.js';
import type { Db } from '../db/database.js';
import { hoursAtRisk } from '@tally/core/copies';
import { listPlaces, NOTHING_YET, placeTotals, type PlaceRow, type PlaceTotals } from './store.js';

export interface StandingPlace extends PlaceRow {
  readonly standing: Standing;
}

/** Places with how they stand now. A place that nothing was filed to yet is marked when it is first seen. */
export async function placesNow(db: Db): Promise<(StandingPlace & PlaceTotals)[]> {
  const [places, totals] = await Promise.all([listPlaces(db), placeTotals(db)]);
  return Promise.all(
    places.map(async (place) => {
      const total = totals.get(place.id) ?? NOTHING_YET;
      const standing = await standingOf(place, place.mark, total.copies === 0);
      const said = standing.online && place.device !== null ? { ...standing, device: place.device } : standing;
      return { ...place, ...total, standing: said };
    }),
  );
}

/** Places with how they stand now, without counting what they hold: cheap enough to ask every few seconds. */
export async function placesStanding(db: Db): Promise<StandingPlace[]> {
  const places = await listPlaces(db);
  return Promise.all(
    places.map(async (place) => {
      const standing = await standingOf(place, place.mark);
      return { ...place, standing: standing.online && place.device !== null ? { ...standing, device: place.device } : standing };
    }),
  );
}

/** Which places are there now. */
export async function placesThere(db: Db): Promise<Set<string>> {
  return new Set((await placesStanding(db)).flatMap(({ id, standing }) => (standing.online ? [id] : [])));
}

export async function placeViews(db: Db, now: Date): Promise<PlaceView[]> {
  return (await placesNow(db)).map(({ standing, ...place }) => ({
    ...{ id: place.id, name: place.name, kind: place.kind, root: place.root, required: place.required, fill: place.fill },
    holds: {
      kinds: place.holds.kinds && [...place.holds.kinds],
      assignments: place.holds.assignments && [...place.holds.assignments],
    },
    ...{ copies: place.copies, bytes: place.bytes },
    waiting: {
      ...{ copies: place.waiting, bytes: place.waitingBytes },
      hoursAtRisk: hoursAtRisk(place.oldestWaiting?.getTime() ?? null, now.getTime()),
    },
    online: standing.online,
    problem: standing.online ? null : standing.problem,
    freeBytes: standing.online ? standing.freeBytes : null,
    totalBytes: standing.online ? standing.totalBytes : null,
    device: standing.online ? standing.device : null,
  }));
}

const known = new Map<string, Abilities>();

/** What a place's file system can do; tried once a process and root. */
export async function abilitiesOf(place: PlaceRow): Promise<Abilities> {
  const key = `${place.root}\0${place.mark}`;
  const abilities = known.get(key) ?? (await probe(place));
  known.set(key, abilities);
  return abilities;
}
