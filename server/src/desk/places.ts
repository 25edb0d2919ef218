import type { PlaceView } from '@tally/contract';
import { probe, standingOf, type Abilities, type Standing } from '../drive/place.js';
import type { Db } from '../store/database.js';
import { listPlaces, placeTotals, type PlaceRow } from '../store/places.js';

export interface StandingPlace extends PlaceRow {
  readonly standing: Standing;
}

/** Places with how they stand now. A place that nothing was filed to yet is marked when it is first seen. */
export async function placesNow(db: Db): Promise<(StandingPlace & { copies: number; bytes: number })[]> {
  const [places, totals] = await Promise.all([listPlaces(db), placeTotals(db)]);
  return Promise.all(
    places.map(async (place) => {
      const total = totals.get(place.id) ?? { copies: 0, bytes: 0 };
      const standing = await standingOf(place, place.mark, total.copies === 0);
      const said = standing.online && place.device !== null ? { ...standing, device: place.device } : standing;
      return { ...place, ...total, standing: said };
    }),
  );
}

/** Which places are there now, without counting what they hold: cheap enough to ask every few seconds. */
export async function placesThere(db: Db): Promise<Set<string>> {
  const places = await listPlaces(db);
  const standing = await Promise.all(places.map((place) => standingOf(place, place.mark)));
  return new Set(places.filter((_, index) => standing[index]!.online).map((place) => place.id));
}

export async function placeViews(db: Db): Promise<PlaceView[]> {
  return (await placesNow(db)).map(({ standing, mark: _mark, ...place }) => ({
    ...place,
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
