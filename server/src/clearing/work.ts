import { ClearRequest, LetGoRequest } from '@tally/contract';
import { z } from 'zod';
import { isHeld } from '../db/locks.js';
import { type House, Refusal } from '../house/index.js';
import type { Once } from '../work/once.js';
import type { Work } from '../work/worker.js';
import { clearanceNow } from './clearance.js';
import { clearCard, clearingWasInterrupted } from './clear-card.js';
import { letGo, letGoByItself, lettingGoWasInterrupted } from './let-go.js';
import { restoreToCard } from './restore.js';
import { beginWork, endWork, forgetWork, heldAs, openWork, workById, type WorkRow } from './store/card-work.js';

const LOOK_AGAIN = 'Looking at the card was interrupted. Look again.';
const LookAsked = z.object({ full: z.boolean(), items: z.array(z.number()).nullable() });

/** Does what was asked of this station's cards, and finds what somebody was killed at. */
export function clearingWork(house: House): Work {
  const { db, settings } = house;
  const run = (id: number, once: Once) => once.run(`card work ${id}`, (signal) => carryOut(house, id, signal));
  return {
    jobs: [{ kind: 'card', run }],
    sweep: async (once) => {
      await forgetWork(db, settings.station);
      for (const work of await openWork(db, settings.station)) {
        if (work.state === 'waiting') run(work.id, once);
        else if (!(await isHeld(db, 'card', heldAs(work))))
          once.run(`card work ${work.id}`, (signal) => goOn(house, work, signal));
      }
      for (const id of await letGoByItself(house))
        once.run(`letting go ${id}`, async (signal) => {
          await letGo(house, id, { anyway: false }, { who: settings.station }, signal).catch((error: unknown) => {
            // Whoever is at it, or has it open, will have done in a moment: it is found again.
            if (!(error instanceof Refusal)) throw error;
          });
        });
    },
  };
}

async function carryOut(house: House, id: number, signal: AbortSignal): Promise<void> {
  const work = await workById(house.db, id);
  if (work?.state === 'waiting') await answering(house, work, signal);
}

/** Somebody was killed at it, and nobody holds the card. Restoring goes on where it was; clearing and looking end. */
async function goOn(house: House, { id }: WorkRow, signal: AbortSignal): Promise<void> {
  const work = await workById(house.db, id);
  if (work?.state !== 'doing') return;
  if (work.kind === 'restore') await answering(house, work, signal);
  else if (work.kind === 'look') await endWork(house.db, id, null, { kind: 'not possible now', message: LOOK_AGAIN });
  else {
    const said = work.kind === 'clear' ? clearingWasInterrupted : lettingGoWasInterrupted;
    await house.locks.hold('card', work.intakeId, signal, () => said(house, work.intakeId, id));
  }
}

/** Whoever asked is told also when it was refused. What broke off is found by a sweep. */
async function answering(house: House, work: WorkRow, signal: AbortSignal): Promise<void> {
  try {
    await carriedOut(house, work, signal);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await endWork(house.db, work.id, null, error);
  }
}

async function carriedOut(house: House, work: WorkRow, signal: AbortSignal): Promise<unknown> {
  const asking = { who: work.who, workId: work.id };
  if (work.kind === 'clear') return clearCard(house, work.intakeId, ClearRequest.parse(work.ask), asking, null, signal);
  if (work.kind === 'let go') return letGo(house, work.intakeId, LetGoRequest.parse(work.ask), asking, signal);
  if (work.kind === 'restore') return restoreToCard(house, work.ofIntakeId, work.intakeId, asking, signal);
  const { full, items } = LookAsked.parse(work.ask);
  return house.locks.hold('card', heldAs(work), signal, async () => {
    await beginWork(house.db, work, work.id);
    await endWork(house.db, work.id, await clearanceNow(house, work.intakeId, full, items));
  });
}
