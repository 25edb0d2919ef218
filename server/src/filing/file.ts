import type { FileAnswer } from '@tally/contract';
import { formatBytes } from '@tally/core/logbook';
import { type Db, inTransaction } from '../db/database.js';
import { holdIfFree } from '../db/locks.js';
import { promise, unfinished } from './store/filed.js';
import { driveFor, type DriveNow, planInTransaction } from './plan.js';
import {
  advanceNumbers,
  happens,
  type House,
  keepDrawn,
  lockIntake,
  record,
  Refusal,
  setRule,
  theIntake,
} from '../house/index.js';
import { refreshTotals } from '../seeing/index.js';

/**
 * Begins to file what the plan with this seal promises. If the plan is another one by now (somebody filed in between),
 * nothing happens and the plan as it is now is the answer. Names and numbers are promised in one transaction.
 */
export async function beginFiling(house: House, intakeId: number, seal: string, who: string): Promise<FileAnswer> {
  for (let tries = 0; tries < TRIES; tries++) {
    // Looked at before the transaction, which touches no file; if it goes elsewhere by then, looked at again.
    const drive = await driveFor(house, intakeId);
    const answer = await inTransaction(house.db, (tx) => promised(house, tx, intakeId, seal, who, drive));
    if (answer) return answer;
  }
  throw new Refusal('conflict', 'Others are changing this card just now. Nothing was begun: look at the plan again.');
}

const TRIES = 4;

/** @returns null when the drive was not looked at where this goes. */
async function promised(
  house: House,
  tx: Db,
  intakeId: number,
  seal: string,
  who: string,
  drive: DriveNow,
): Promise<FileAnswer | null> {
  const { clock, jobs } = house;
  await lockIntake(tx, intakeId);
  const intake = await theIntake({ db: tx }, intakeId);
  if (intake.state === 'filing') throw new Refusal('conflict', 'This card is being filed already.');
  await mustBeUntouched(tx, intakeId);
  const sealed = await planInTransaction(house, tx, intakeId, drive);
  if (!sealed) return null;
  const { plan, view, revision, places, placesOf } = sealed;
  if (plan.missing.length) throw new Refusal('conflict', `The slip does not say the ${plan.missing.join(' and the ')} yet.`);
  if (!plan.placements.length) throw new Refusal('conflict', 'Nothing is taken: take at least one item to file.');
  const shared = places.find((place) => place.kind === 'shared drive') ?? places[0]!;
  if (!shared.standing.online) throw new Refusal('not possible now', `${shared.name}: ${shared.standing.problem}`);
  if (view.seal !== seal) return { outcome: 'changed', plan: view };
  const full = view.tooFull[0];
  if (full !== undefined) throw new Refusal('not possible now', `${full}. Nothing was begun.`);

  await promise(tx, intakeId, plan.placements, placesOf);
  await advanceNumbers(tx, plan.numbers);
  await keepDrawn(tx, intakeId, plan.numbers);
  await setRule(tx, intakeId, revision);
  await happens(tx, house, intakeId, { what: 'begun' }, { note: null });
  await refreshTotals(tx, intakeId);
  const where = plan.folders.map((folder) => folder.path || 'the root').join(', ');
  const text = `Filing ${plan.placements.length} items (${formatBytes(plan.bytes)}) into ${where}.`;
  await record(tx, {
    at: clock(),
    kind: 'filing',
    intakeId,
    who,
    text,
    data: { rule: revision, items: plan.placements.length, bytes: plan.bytes, numbers: plan.numbers },
  });
  for (const clash of plan.clashes) {
    const because =
      clash.with === 'every system'
        ? `${clash.wanted} is no name on every system: filed as ${clash.given}.`
        : `${clash.wanted} stands on ${clash.with} already: filed as ${clash.given}.`;
    await record(tx, { at: clock(), kind: 'clash', intakeId, who: null, text: because });
  }
  await jobs.file(tx, intakeId, intake.station);
  return { outcome: 'begun', items: plan.placements.length };
}

/** Nobody clears a card that is being filed, nobody files one that is being cleared: until this transaction ends. */
async function mustBeUntouched(tx: Db, intakeId: number): Promise<void> {
  if (!(await holdIfFree(tx, 'card', intakeId)))
    throw new Refusal('conflict', 'This card is being cleared or restored: wait until that is done.');
}

/**
 * Goes on with an intake that needs attention: what does not tally yet is tried again.
 * @param byItself nobody asked for it: nothing is told unless something else comes of it than the last time.
 */
export async function tryAgain(house: House, intakeId: number, who: string, byItself = false): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await mustBeUntouched(tx, intakeId);
    const waiting = await unfinished(tx, intakeId);
    if (!waiting.length) throw new Refusal('conflict', 'There is nothing to try again.');
    const intake = await happens(tx, house, intakeId, { what: 'tried again' }, byItself ? {} : { note: null });
    if (!byItself)
      await record(tx, { at: house.clock(), kind: 'filing', intakeId, who, text: `Trying ${waiting.length} items again.` });
    await house.jobs.file(tx, intakeId, intake.station);
  });
}
