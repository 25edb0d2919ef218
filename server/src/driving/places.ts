import { setTimeout as sleep } from 'node:timers/promises';
import type { PlaceView } from '@tally/contract';
import {
  carriesMark,
  isOnSystemDisk,
  markPlace,
  probe,
  standingOf,
  type Abilities,
  type MarkedBy,
  type Standing,
} from '../drive/place.js';
import { type House, houseId } from '../house/index.js';
import { hoursAtRisk } from '@tally/core/copies';
import { listPlaces, NOTHING_YET, placeTotals, type PlaceRow, setMarked } from './store.js';

export interface StandingPlace extends PlaceRow {
  readonly standing: Standing;
}

type Of = Pick<House, 'db' | 'settings'>;

const ON_SYSTEM_DISK =
  'is on the disk of the system: is its drive mounted? If that is meant, say "systemDisk": "knowingly" in the settings';

/** Does the root of a place stand on the disk of the system, and was it never used? What cannot be told is said by how it stands. */
const isMountPoint = async ({ root, mark }: PlaceRow): Promise<boolean> =>
  isOnSystemDisk(root)
    .then(async (isIt) => isIt && !(await carriesMark(root, mark)))
    .catch(() => false);

const markedBy = async ({ db, settings }: Of): Promise<MarkedBy> => ({ house: settings.house, houseId: await houseId(db) });

/** How a place stands here; the house's own word for its device wins. One that was never marked is marked when it is first seen; never again. */
async function standingHere({ db, settings }: Of, place: PlaceRow): Promise<Standing> {
  if (!place.known) return { online: false, problem: "is in nobody's settings any more" };
  if (!place.root) {
    const fills = place.stations.length === 1 ? 'fills' : 'fill';
    return { online: false, problem: `is not mounted at this station: ${place.stations.join(' and ')} ${fills} it` };
  }
  if (!place.marked && settings.systemDisk === undefined && (await isMountPoint(place)))
    return { online: false, problem: `${place.root} ${ON_SYSTEM_DISK}` };
  // What is wrong with its root says how it stands.
  if (!place.marked && (await markPlace(place, place.mark, await markedBy({ db, settings })).catch(() => false)))
    await setMarked(db, place.id);
  const standing = await standingOf(place, place.mark);
  if (!standing.online && !place.marked && standing.problem === `${place.root} is not there`)
    return { online: false, problem: `${standing.problem}: make that folder, or correct the path in the settings` };
  return standing.online && place.device !== null ? { ...standing, device: place.device } : standing;
}

/** A place that does not answer within this is away. */
const ANSWER_MS = 3_000;
/** While a look waits longer than this for an answer, nobody else waits for one of their own. */
const SLOW_MS = 500;
/** The oldest look at a place that has not come back. A file system that hangs keeps the thread that looks. */
const looking = new Map<string, { readonly sinceMs: number; readonly standing: Promise<Standing> }>();

/** How a place stands, or that it does not answer: nobody waits for a file system that hangs, and few threads are held by it. */
async function standingSoon(house: Of, place: PlaceRow): Promise<Standing> {
  const key = `${place.root}\0${place.mark}`;
  const before = looking.get(key);
  const isSlow = before !== undefined && Date.now() - before.sinceMs > SLOW_MS;
  const look = isSlow ? before : { sinceMs: Date.now(), standing: standingHere(house, place) };
  if (!before) {
    looking.set(key, look);
    const over = () => void looking.delete(key);
    look.standing.then(over, over);
  }
  const late = new AbortController();
  const silent: Standing = { online: false, problem: `${place.root} does not answer: look at its server, or at its disk` };
  try {
    const left = Math.max(0, look.sinceMs + ANSWER_MS - Date.now());
    return await Promise.race([look.standing, sleep(left, silent, { signal: late.signal })]);
  } finally {
    late.abort();
  }
}

/** Places with how they stand now. Looks at files: not for transactions. */
export async function placesStanding(house: Of): Promise<StandingPlace[]> {
  const places = await listPlaces(house);
  return Promise.all(places.map(async (place) => ({ ...place, standing: await standingSoon(house, place) })));
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
      asks: standing.online || !standing.unknown ? null : standing.unknown.mark ? 'another mark' : 'no mark',
      freeBytes: standing.online ? knownRoom(standing.freeBytes) : null,
      totalBytes: standing.online ? knownRoom(standing.totalBytes) : null,
      device: standing.online ? standing.device : null,
    };
  });
}

const knownRoom = (bytes: number) => (Number.isFinite(bytes) ? bytes : null);

const known = new Map<string, Abilities>();

/** What a place's file system can do; tried once a process and root. */
export async function abilitiesOf(place: PlaceRow): Promise<Abilities> {
  const key = `${place.root}\0${place.mark}`;
  const abilities = known.get(key) ?? (await probe(place));
  known.set(key, abilities);
  return abilities;
}
