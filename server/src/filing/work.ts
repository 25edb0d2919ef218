import pLimit from 'p-limit';
import type { Work } from '../work/worker.js';
import type { Once } from '../work/once.js';
import { carryOut } from './carry-out.js';
import { tryAgain } from './file.js';
import { intakesWaitingAt } from './store/filed.js';
import { placesThere } from '../driving/index.js';
import { type House, intakesWhere, Refusal } from '../house/index.js';

/** Cards worked on at once; their batches take turns (`House.turns`), so that a small card need not wait for a large one. */
const CARDS_AT_ONCE = 8;

/** Filing what was promised; what nobody files; and what waits for a place that is back. */
export function filingWork(house: House): Work {
  const limit = pLimit(CARDS_AT_ONCE);
  const file = (id: number, once: Once) =>
    once.run(`filing ${id}`, (signal) =>
      limit(() => house.locks.hold('filing', id, signal, (inner) => carryOut(house, id, inner))),
    );
  /** Places that were not there at the last look. */
  const away = new Set<string>();
  return {
    jobs: [{ kind: 'file', run: file }],
    sweep: async (once) => {
      const { db, settings } = house;
      const left = await intakesWhere(db, `i.state = 'filing' and i.halt is distinct from 'pause' and i.station = $1`, [
        settings.station,
      ]);
      for (const intake of left) file(intake.id, once);
      await catchUp(house, away);
    },
  };
}

/** A place that was away is back: what waits for it is filed by itself. */
async function catchUp(house: House, away: Set<string>): Promise<void> {
  const { db, settings } = house;
  const there = await placesThere(house);
  const back = [...there].filter((id) => away.has(id));
  for (const { id } of settings.places) if (!there.has(id)) away.add(id);
  for (const id of back) away.delete(id);
  if (!back.length) return;
  for (const intakeId of await intakesWaitingAt(db, settings.station, back)) {
    // Another worker of this station may have been quicker.
    await tryAgain(house, intakeId, settings.station).catch((error: unknown) => {
      if (!(error instanceof Refusal)) throw error;
    });
  }
}
