import type { SlipChange } from '@tally/contract';
import type { AnswerField } from '@tally/core/credit';
import { inTransaction } from '../db/database.js';
import {
  happens,
  type House,
  lockIntake,
  record,
  Refusal,
  setNote,
  setOnInsert,
  setSlip,
  setSlipCredit,
  tell,
  theIntake,
} from '../house/index.js';
import { refreshTotals } from '../seeing/index.js';
import { sayLabel } from '../counter/index.js';
import { followItems, mustExist, wordsCalled } from '../people/index.js';
import { changeInWords, mustBeListed } from './credit.js';
import { answerByHabit } from './habits.js';
import { changeSlipWords, slipCredit } from './store/credit.js';

/** How the note of a hand-in begins that is from somebody whom the list does not know. */
export const UNKNOWN_NOTE = 'Handed in by “';

/** What of a slip somebody speaks of, by the fields that habits answer. */
const saidIn = (change: SlipChange): AnswerField[] => [
  ...(['contributorId', 'assignmentId', 'creditLine', 'copyrightNotice', 'termsId', 'locationId'] as const).filter(
    (field) => change[field] !== undefined,
  ),
  ...((change.addWords ?? change.removeWordIds) ? (['wordIds'] as const) : []),
];

/** Says whose and what a card is. Once items are filed, contributor and assignment stay as they were filed. */
export async function changeSlip(house: House, intakeId: number, change: SlipChange, who: string): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    // The word list before the intake, as everywhere: whoever corrects a word goes on to intakes.
    const wordIds = await wordsCalled(tx, house, change.addWords ?? []);
    await lockIntake(tx, intakeId);
    const intake = await theIntake({ db: tx }, intakeId);
    const speaksOfFiling = change.contributorId !== undefined || change.assignmentId !== undefined;
    if (speaksOfFiling && intake.state !== 'open') {
      throw new Refusal('conflict', 'This card is being filed or has been filed: contributor and assignment stand.');
    }
    await mustExist(tx, 'contributor', change.contributorId);
    await mustExist(tx, 'assignment', change.assignmentId);
    await mustBeListed(tx, change);
    const before = await slipCredit(tx, intakeId);
    await setSlip(tx, intakeId, change);
    await setSlipCredit(tx, intakeId, change);
    await changeSlipWords(tx, intakeId, wordIds, change.removeWordIds ?? []);
    // Whoever handed in and was not known is known now.
    if (change.contributorId && intake.note?.startsWith(UNKNOWN_NOTE)) await setNote(tx, intakeId, null);
    if (change.cardLabel !== undefined) await sayLabel(tx, house, intakeId, change.cardLabel, who);
    const said = saidIn(change);
    // What was said brings in what goes with it: whose card it is says the words, and its label which card it is.
    if (said.length || change.cardLabel !== undefined) await answerByHabit(tx, house, intakeId, said);
    const { card } = await happens(tx, house, intakeId, { what: 'said' });
    if (change.onInsert !== undefined) await setOnInsert(tx, card.id, change.onInsert);
    await refreshTotals(tx, intakeId);
    const after = await theIntake({ db: tx }, intakeId);
    const credit = await changeInWords(tx, { ...change, contributorId: undefined }, wordIds, before ? [before] : []);
    if (credit) await followItems(tx, 'select id as item_id from item where intake_id = $1', [intakeId]);
    const slip = [after.card.label && `card ${after.card.label}`, after.contributor?.name, after.assignment?.title]
      .filter(Boolean)
      .join(', ');
    await record(tx, {
      at: house.clock(),
      kind: 'slip',
      intakeId,
      who,
      text: `Slip: ${[slip || 'emptied', credit].filter(Boolean).join('; ')}.`,
    });
    await tell(tx, { type: 'intake', intakeId });
    await tell(tx, { type: 'desk' });
  });
}
