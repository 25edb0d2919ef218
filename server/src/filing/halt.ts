import type { FilingWish } from '@tally/contract';
import { join } from 'node:path';
import { stands } from '../drive/final-name.js';
import { inTransaction } from '../db/database.js';
import { unfinished, withdraw } from './store/filed.js';
import { haltOf, happens, type House, lockIntake, record, takeBackNumbers, tell, theIntake } from '../house/index.js';
import { refreshTotals, touchItems } from '../seeing/index.js';
import { placesStanding } from '../driving/index.js';

const WORDS: Readonly<Record<FilingWish, string>> = {
  pause: 'Filing pauses.',
  'go on': 'Filing goes on.',
  stop: 'Filing stops: what is whole stays, the rest is not filed.',
};

/** Lets a filing pause, go on or stop. Whoever carries it out, on whatever machine, heeds it within a second. */
export async function haltFiling(house: House, intakeId: number, wish: FilingWish, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const intake = await happens(tx, house, intakeId, { what: 'wished', wish: wish === 'go on' ? null : wish });
    // Nobody may be working on it: then this ends it, or goes on.
    if (wish !== 'pause') await house.jobs.file(tx, intakeId, intake.station);
    await record(tx, { at: house.clock(), kind: 'filing', intakeId, who, text: WORDS[wish] });
  });
}

/** A signal that also fires when somebody wants the filing to pause or stop. Call `done` afterwards. */
export function heedHalt(house: House, intakeId: number, outer: AbortSignal): { signal: AbortSignal; done: () => void } {
  const halted = new AbortController();
  const timer = setInterval(() => {
    void haltOf(house.db, intakeId).then(
      (halt) => halt !== null && halted.abort(new Error(`asked to ${halt}`)),
      // Asked again in a moment; a database that is away stops the filing by its own lock.
      (error: unknown) => house.log.debug({ intakeId, error: String(error) }, 'looking for a wish'),
    );
  }, house.intervals.haltMs);
  return { signal: AbortSignal.any([outer, halted.signal]), done: () => clearInterval(timer) };
}

/**
 * Ends a filing as if what is not whole had never begun: its names are free again, and its numbers too as far as nobody
 * drew later ones. What an interrupted run may have named already stays promised, so that no file is lost sight of.
 */
export async function endFiling(house: House, intakeId: number): Promise<void> {
  const places = (await placesStanding(house)).filter(({ standing }) => standing.online);
  // Whoever ends it holds its filing: nothing changes between this look and the transaction, which touches no file.
  const gone: number[] = [];
  let kept = 0;
  for (const item of await unfinished(house.db, intakeId)) {
    // What cannot be looked at may stand there.
    const standing = await Promise.all(places.map(({ root }) => stands(join(root, item.folder, item.name)).catch(() => true)));
    if (item.tallied.length || standing.includes(true)) kept++;
    else gone.push(item.filedItemId);
  }
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    if ((await theIntake({ db: tx }, intakeId)).state !== 'filing') return;
    await withdraw(tx, gone);
    await takeBackNumbers(tx, intakeId);
    await touchItems(tx, intakeId);
    const note = kept ? `Stopped: ${kept} items are in some places only. Try again to finish them.` : null;
    await happens(tx, house, intakeId, { what: 'stopped', kept: kept > 0 }, { note });
    const { filed } = await refreshTotals(tx, intakeId);
    const text = `Filing stopped: ${filed} items are filed, ${gone.length} are not.`;
    await record(tx, { at: house.clock(), kind: 'stopped', intakeId, who: null, text });
    await tell(tx, { type: 'items', intakeId });
  });
}
