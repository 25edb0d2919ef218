import { setTimeout as sleep } from 'node:timers/promises';
import { houseTime, type House, Refusal } from '../house/index.js';
import { placesStanding } from '../driving/index.js';
import type { Work } from '../work/worker.js';
import { runAdoption } from './adopting.js';
import { adoptByItself } from './asking-to-adopt.js';
import { carryOutAll } from './carrying.js';
import { askCheck, placeHere, Rounds, runCheck } from './checking.js';
import { movedTogether } from './drafting.js';
import type { Place } from './looking.js';
import { mendNow } from './mending.js';
import { adoptionsGoing } from './store/adoptions.js';
import { checksGoing, lastCheck } from './store/checks.js';
import { movesAt } from './store/mends.js';
import { straysToGather } from './store/stood.js';
import { goOnEmptying } from './tray.js';

/** Rests between rounds, so many times as long as the last one took: a slow drive is not kept busy by us. */
const REST = 8;
/** So many strays are moved together in one go. */
const GATHERED_AT_ONCE = 500;

/** Looks after the places that are mounted here: mends, checks, adoptions, and what others put there by hand. */
export function tendingWork(house: House): Work {
  return {
    sweep: async (once) => {
      once.run('mends', (signal) => carryOutAll(house, signal));
      const here = (await placesStanding(house)).filter(({ standing }) => standing.online);
      for (const { id, placeId } of await checksGoing(
        house.db,
        here.map((place) => place.id),
      ))
        once.run(`check ${id}`, (signal) => house.locks.hold('checking', placeId, signal, (inner) => runCheck(house, id, inner)));
      for (const { id } of await adoptionsGoing(
        house.db,
        here.map((place) => place.id),
      ))
        once.run(`adoption ${id}`, (signal) =>
          house.locks.hold('adopting', id, signal, (inner) => runAdoption(house, id, inner)),
        );
      once.run('tray', (signal) => goOnEmptying(house, signal));
      once.run('daily check', () => checkDaily(house, here));
    },
    loops: [(signal) => watchPlaces(house, signal)],
  };
}

/** Once a day each place that is here is checked: at the house's hour, or as soon afterwards as somebody is there to do it. */
async function checkDaily(house: House, here: readonly { id: string }[]): Promise<void> {
  const { checkAt } = house.settings;
  const now = houseTime(house, house.clock());
  if (checkAt === null || Number(now.slice(11, 13)) < checkAt) return;
  for (const { id } of here) {
    const last = await lastCheck(house.db, id);
    if (last && houseTime(house, last.begunAt).slice(0, 10) === now.slice(0, 10)) continue;
    await askCheck(house, id, { how: 'size and time', names: true, strict: false }, 'the house').catch((error: unknown) => {
      // Another station was quicker, or the place went away: it is asked again.
      if (!(error instanceof Refusal)) throw error;
    });
  }
}

/** Goes round the places that are here. One station does it for each. */
async function watchPlaces(house: House, signal: AbortSignal): Promise<void> {
  const rounds = new Rounds();
  try {
    while (!signal.aborted) {
      const began = Date.now();
      for (const place of await placesStanding(house).catch(() => [])) {
        // A database that is away is back in the next round.
        if (!place.standing.online) continue;
        await house.locks
          .hold('checking', place.id, signal, async (inner) => {
            await goRound(house, rounds, await placeHere(house, place.id), inner);
          })
          .catch((error: unknown) => house.log.warn({ place: place.id, error: (error as Error).message }, 'a round'));
      }
      const rest = Math.max(house.intervals.roundsMs, (Date.now() - began) * REST);
      // Ends early when told to stop.
      await sleep(rest, undefined, { signal }).catch(() => undefined);
    }
  } finally {
    await rounds.close();
  }
}

async function goRound(house: House, rounds: Rounds, place: Place, signal: AbortSignal): Promise<void> {
  await rounds.round(house, place, signal);
  const { strays = 'show' } = house.settings.places.find(({ id }) => id === place.id) ?? {};
  if (strays === 'show') return;
  if (strays === 'adopt') {
    if (!(await adoptionsGoing(house.db, [place.id])).length) await adoptByItself(house, place);
    return;
  }
  // What is under way is not begun again; what could not be moved is a person's to look at.
  if ((await movesAt(house.db, place.id)).moving) return;
  const found = await straysToGather(house.db, place.id, GATHERED_AT_ONCE);
  if (found.length)
    await mendNow(
      house,
      movedTogether(
        house,
        place.id,
        found.map(({ path }) => path),
      ),
      'the house',
    );
}
