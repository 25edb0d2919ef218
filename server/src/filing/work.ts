import pLimit from 'p-limit';
import type { Work } from '../work/worker.js';
import type { Once } from '../work/once.js';
import { carryOut } from './carry-out.js';
import { tryAgain } from './file.js';
import { intakesFailedAt, intakesWaitingAt } from './store/filed.js';
import { placesThere } from '../driving/index.js';
import { type House, intakesWhere, Refusal } from '../house/index.js';

/** Cards worked on at once; their batches take turns (`House.turns`), so that a small card need not wait for a large one. */
const CARDS_AT_ONCE = 8;
/** What failed is tried again by itself at least so often, as long as it is wanted. */
const MOST_RETRY_MS = 600_000;

/** Filing what was promised; what nobody files; and what waits for a place that is back. */
export function filingWork(house: House): Work {
  const limit = pLimit(CARDS_AT_ONCE);
  const file = (id: number, once: Once) =>
    once.run(`filing ${id}`, (signal) =>
      limit(() => house.locks.hold('filing', id, signal, (inner) => carryOut(house, id, inner))),
    );
  /** Places that were not there at the last look. */
  const away = new Set<string>();
  const waits = new Map<number, Waits>();
  return {
    jobs: [{ kind: 'file', run: file }],
    sweep: async (once) => {
      const { db, settings } = house;
      const left = await intakesWhere(db, `i.state = 'filing' and i.halt is distinct from 'pause' and i.station = $1`, [
        settings.station,
      ]);
      for (const intake of left) file(intake.id, once);
      await catchUp(house, away, waits);
    },
  };
}

/** When an intake is tried again by itself: later each time that nothing comes of it. */
interface Waits {
  readonly atMs: number;
  readonly ms: number;
}

/** What waits for a place that was away is filed by itself when that is back; and, backing off, for one that failed and is here. */
async function catchUp(house: House, away: Set<string>, waits: Map<number, Waits>): Promise<void> {
  const { db, settings, intervals } = house;
  const there = await placesThere(house);
  const back = [...there].filter((id) => away.has(id));
  for (const { id } of settings.places) if (!there.has(id)) away.add(id);
  for (const id of back) away.delete(id);
  const returned = new Set(back.length ? await intakesWaitingAt(db, settings.station, back) : []);
  const failed = new Set(await intakesFailedAt(db, settings.station, [...there]));
  for (const id of waits.keys()) if (!failed.has(id)) waits.delete(id);
  for (const intakeId of new Set([...returned, ...failed])) {
    const { atMs, ms } = waits.get(intakeId) ?? { atMs: Date.now() + intervals.retryMs, ms: intervals.retryMs };
    const isDue = returned.has(intakeId) || Date.now() >= atMs;
    const next = Math.min(ms * 2, MOST_RETRY_MS);
    waits.set(intakeId, isDue ? { atMs: Date.now() + next, ms: next } : { atMs, ms });
    if (!isDue) continue;
    // Another worker of this station may have been quicker.
    await tryAgain(house, intakeId, settings.station, true).catch((error: unknown) => {
      if (!(error instanceof Refusal)) throw error;
    });
  }
}
