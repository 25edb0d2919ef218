import type { FilingWish } from '@tally/contract';
import { join } from 'node:path';
import { stands } from '../drive/final-name.js';
import { type Db, inTransaction } from '../db/database.js';
import { takeBackNumbers, unfinished, withdraw } from './store/filed.js';
import { haltOf, type House, lockIntake, record, Refusal, setHalt, setState, tell, theIntake } from '../house/index.js';
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
    const intake = await theIntake({ db: tx }, intakeId);
    if (intake.state !== 'filing') throw new Refusal('conflict', 'This card is not being filed.');
    await setHalt(tx, intakeId, wish === 'go on' ? null : wish);
    // Nobody may be working on it: then this ends it, or goes on.
    if (wish !== 'pause') await house.jobs.file(tx, intakeId, intake.station);
    await record(tx, { at: house.clock(), kind: 'filing', intakeId, who, text: WORDS[wish] });
    await tell(tx, { type: 'intake', intakeId, state: 'filing' });
    await tell(tx, { type: 'desk' });
  });
}

const LOOK_MS = 400;

/** A signal that also fires when somebody wants the filing to pause or stop. Call `done` afterwards. */
export function heedHalt(db: Db, intakeId: number, outer: AbortSignal): { signal: AbortSignal; done: () => void } {
  const halted = new AbortController();
  const timer = setInterval(() => {
    void haltOf(db, intakeId).then(
      (halt) => halt !== null && halted.abort(new Error(`asked to ${halt}`)),
      () => undefined,
    );
  }, LOOK_MS);
  return { signal: AbortSignal.any([outer, halted.signal]), done: () => clearInterval(timer) };
}

/**
 * Ends a filing as if what is not whole had never begun: its names are free again, and its numbers too as far as nobody
 * drew later ones. What an interrupted run may have named already stays promised, so that no file is lost sight of.
 */
export async function endFiling(house: House, intakeId: number): Promise<void> {
  const places = (await placesStanding(house.db)).filter(({ standing }) => standing.online);
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    if ((await theIntake({ db: tx }, intakeId)).state !== 'filing') return;
    const gone: number[] = [];
    let kept = 0;
    for (const item of await unfinished(tx, intakeId)) {
      const standing = await Promise.all(places.map(({ root }) => stands(join(root, item.folder, item.name)).catch(() => true)));
      if (item.tallied.length || standing.includes(true)) kept++;
      else gone.push(item.filedItemId);
    }
    await withdraw(tx, gone);
    await takeBackNumbers(tx, intakeId);
    await touchItems(tx, intakeId);
    await setHalt(tx, intakeId, null);
    const note = kept ? `Stopped: ${kept} items are in some places only. Try again to finish them.` : null;
    await setState(tx, intakeId, kept ? 'needs attention' : 'open', note);
    const { filed } = await refreshTotals(tx, intakeId);
    const text = `Filing stopped: ${filed} items are filed, ${gone.length} are not.`;
    await record(tx, { at: house.clock(), kind: 'stopped', intakeId, who: null, text });
    await tell(tx, { type: 'intake', intakeId, state: kept ? 'needs attention' : 'open' });
    await tell(tx, { type: 'items', intakeId });
    await tell(tx, { type: 'desk' });
  });
}
