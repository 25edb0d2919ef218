import type { SlipChange, TakeChange } from '@tally/contract';
import { whyNotTo } from '@tally/core/trays';
import { inTransaction, type Db } from '../db/database.js';
import { record, tell } from '../house/store/events.js';
import { intakeById, lockIntake, setOnInsert, setSlip, setTray, type IntakeRow } from '../house/store/intakes.js';
import { setTaken } from '../seeing/store/items.js';
import { refreshTotals } from '../seeing/totals.js';
import { Refusal, type House } from '../house/house.js';
import { moveCard, sayLabel } from '../counter/trays.js';

/** An intake that must exist. */
export async function theIntake(house: Pick<House, 'db'>, intakeId: number): Promise<IntakeRow> {
  const intake = await intakeById(house.db, intakeId);
  if (!intake) throw new Refusal('not found', 'There is no such intake.');
  return intake;
}

/** Says whose and what a card is. Once items are filed, contributor and assignment stay as they were filed. */
export async function changeSlip(house: House, intakeId: number, change: SlipChange, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const intake = await theIntake({ db: tx }, intakeId);
    const speaksOfFiling = change.contributorId !== undefined || change.assignmentId !== undefined;
    if (speaksOfFiling && intake.state !== 'open') {
      throw new Refusal('conflict', 'This card is being filed or has been filed: contributor and assignment stand.');
    }
    await mustExist(tx, 'contributor', change.contributorId);
    await mustExist(tx, 'assignment', change.assignmentId);
    await setSlip(tx, intakeId, change);
    if (change.cardLabel !== undefined) await sayLabel(tx, house, intakeId, change.cardLabel, who);
    const { card, tray } = await theIntake({ db: tx }, intakeId);
    if (change.onInsert !== undefined) await setOnInsert(tx, card.id, change.onInsert);
    if (tray === 'in') await setTray(tx, card.id, 'on the desk', house.clock());
    await refreshTotals(tx, intakeId);
    const after = await theIntake({ db: tx }, intakeId);
    const said = [after.card.label && `card ${after.card.label}`, after.contributor?.name, after.assignment?.title]
      .filter(Boolean)
      .join(', ');
    await record(tx, { at: house.clock(), kind: 'slip', intakeId, who, text: `Slip: ${said || 'emptied'}.` });
    await tell(tx, { type: 'intake', intakeId });
    await tell(tx, { type: 'desk' });
  });
}

/** @throws Refusal when there is no such one. */
export async function mustExist(db: Db, table: 'contributor' | 'assignment', id: number | null | undefined): Promise<void> {
  if (id === undefined || id === null) return;
  const found = await db.query<unknown[]>(`select 1 from ${table} where id = $1`, [id]);
  if (!found.length) throw new Refusal('not found', `There is no such ${table}.`);
}

/** Takes or leaves items, companions together. */
export async function takeItems(house: House, intakeId: number, change: TakeChange): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await theIntake({ db: tx }, intakeId);
    await setTaken(tx, intakeId, change.itemIds, change.taken);
    await refreshTotals(tx, intakeId);
    await tell(tx, { type: 'items', intakeId });
  });
}

/** Hands the card back to its owner: it leaves the trays. */
export async function giveBack(house: House, intakeId: number, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const intake = await theIntake({ db: tx }, intakeId);
    const why = intake.tray === 'to give back' ? null : whyNotTo({ tray: 'on the desk', intake }, 'to give back');
    if (why !== null) throw new Refusal('conflict', why);
    await setTray(tx, intake.card.id, 'to give back', house.clock());
    await moveCard({ ...house, db: tx }, intake.card.id, 'out', who);
  });
}
