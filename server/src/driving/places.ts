import type { PlaceView } from '@tally/contract';
import { probe, standingOf, type Abilities, type Standing } from '../drive/place.js';
import type { House } from '../house/index.js';
import { hoursAtRisk } from '@tally/core/copies';
import { listPlaces, NOTHING_YET, placeTotals, type PlaceRow } from './store.js';

export interface StandingPlace extends PlaceRow {
  readonly standing: Standing;
}

type Of = Pick<House, 'db' | 'settings'>;

/** How a place stands here; the house's own word for its device wins. One that nothing was filed to yet is marked when it is first seen. */
async function standingHere(place: PlaceRow): Promise<Standing> {
  if (!place.known) return { online: false, problem: "is in nobody's settings any more" };
  if (!place.root) {
    const fills = place.stations.length === 1 ? 'fills' : 'fill';
    return { online: false, problem: `is not mounted at this station: ${place.stations.join(' and ')} ${fills} it` };
  }
  const standing = await standingOf(place, place.mark, !place.used);
  return standing.online && place.device !== null ? { ...standing, device: place.device } : standing;
}

/** Places with how they stand now. Looks at files: not for transactions. */
export async function placesStanding(house: Of): Promise<StandingPlace[]> {
  const places = await listPlaces(house);
  return Promise.all(places.map(async (place) => ({ ...place, standing: await standingHere(place) })));
}

/** Which places are there now. */
export async function placesThere(house: Of): Promise<Set<string>> {
  return new Set((await placesStanding(house)).flatMap(({ id, standing }) => (standing.online ? [id] : [])));
}

export async function placeViews(house: Of & Pick<House, 'clock'>): Promise<PlaceView[]> {
  const now = house.clock();
  const [places, totals] = [await placesStanding(house), await placeTotals(house.db)];
  return places.map(({ standing, ...row }) => {
    const place = { ...row, ...(totals.get(row.id) ?? NOTHING_YET) };
    return {
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
    };
  });
}

const known = new Map<string, Abilities>();

/** What a place's file system can do; tried once a process and root. */
export async function abilitiesOf(place: PlaceRow): Promise<Abilities> {
  const key = `${place.root}\0${place.mark}`;
  const abilities = known.get(key) ?? (await probe(place));
  known.set(key, abilities);
  return abilities;
}
