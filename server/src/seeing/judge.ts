import type { BelongChange, BodyView, ClockChange, JudgeChange } from '@tally/contract';
import { cameraName } from '@tally/core/card';
import { EPOCH_DAYS, shiftInWords } from '@tally/core/capture';
import { type Db, inTransaction } from '../db/database.js';
import {
  assignmentsOfItems,
  bodiesOf,
  intakesOfItems,
  rememberCorrection,
  setBelonging,
  setJudgement,
  shiftBody,
} from './store/judgements.js';
import { refreshTotals } from './totals.js';
import { mustExist, nameOf } from '../people/index.js';
import { type House, lockIntake, record, Refusal, tell, theIntake } from '../house/index.js';

/** Keeps what somebody thinks of items: select, reshoot, hold, a description, a rotation, the part of use. */
export async function judgeItems(house: House, intakeId: number, change: JudgeChange): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await theIntake({ db: tx }, intakeId);
    await setJudgement(tx, intakeId, change);
    await tell(tx, { type: 'items', intakeId });
  });
}

/** The same for items of several intakes, one after the other in one order. @returns how many items there are of these. */
export async function judgeAcross(house: House, change: JudgeChange): Promise<number> {
  return inTransaction(house.db, async (tx) => {
    const intakes = await intakesOfItems(tx, change.itemIds);
    for (const { intakeId, ids } of intakes) await judgeItems({ ...house, db: tx }, intakeId, { ...change, itemIds: ids });
    return intakes.reduce((sum, { ids }) => sum + ids.length, 0);
  });
}

/**
 * Gives items to another assignment or contributor than the slip says: how one card feeds several.
 * @throws Refusal when somebody else split the same items since the person looked, or the intake is being filed.
 */
export async function splitItems(house: House, intakeId: number, change: BelongChange, who: string): Promise<number> {
  return inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await notWhileFiling(tx, intakeId);
    await mustExist(tx, 'contributor', change.contributorId);
    await mustExist(tx, 'assignment', change.assignmentId);
    const was = change.wasAssignmentIds;
    if (was && (await assignmentsOfItems(tx, intakeId, change.itemIds)).some((id) => !was.includes(id)))
      throw new Refusal('conflict', 'Somebody else has just given some of these to another assignment. Look again, then decide.');
    const count = await setBelonging(tx, intakeId, change);
    await refreshTotals(tx, intakeId);
    const to = await namesOf(tx, change);
    await record(tx, { at: house.clock(), kind: 'split', intakeId, who, text: `${count} items: ${to.join(', ')}.` });
    await tell(tx, { type: 'items', intakeId });
    await tell(tx, { type: 'intake', intakeId });
    return count;
  });
}

async function namesOf(db: Db, change: BelongChange): Promise<string[]> {
  const name = async (table: 'assignment' | 'contributor', id: number | null | undefined, none: string) => {
    if (id === undefined) return [];
    return [id === null ? none : ((await nameOf(db, table, id)) ?? none)];
  };
  return [
    ...(await name('assignment', change.assignmentId, 'assignment as on the slip')),
    ...(await name('contributor', change.contributorId, 'contributor as on the slip')),
  ];
}

export async function cameraBodies(house: House, intakeId: number): Promise<BodyView[]> {
  await theIntake(house, intakeId);
  return bodiesOf(house.db, intakeId, EPOCH_DAYS);
}

/** Moves the time of one camera's items, keeps the correction for that camera, and never touches what the camera wrote. */
export async function correctClock(house: House, intakeId: number, change: ClockChange, who: string): Promise<number> {
  const { make, model, serial, shift } = change;
  return inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await notWhileFiling(tx, intakeId);
    const count = await shiftBody(tx, intakeId, { make, model, serial }, shift);
    if (!count) throw new Refusal('not found', 'No unfiled item on this card was taken with that camera.');
    const at = house.clock();
    if (serial) await rememberCorrection(tx, { make: make ?? '', model: model ?? '', serial }, shift, who, at);
    await refreshTotals(tx, intakeId);
    const camera = [cameraName({ make, model }), serial && `no. ${serial}`].filter(Boolean).join(' ');
    const text = `Clock of ${camera}: ${count} items ${shiftInWords(shift.seconds)}${shift.kind === 'zone' ? ' (time zone)' : ''}.`;
    await record(tx, { at, kind: 'clock', intakeId, who, text, data: change });
    await tell(tx, { type: 'items', intakeId });
    await tell(tx, { type: 'intake', intakeId });
    return count;
  });
}

async function notWhileFiling(db: Db, intakeId: number): Promise<void> {
  if ((await theIntake({ db }, intakeId)).state === 'filing')
    throw new Refusal('conflict', 'This card is being filed: wait until its copies tally.');
}
