import { type AnswerField, answersFor, type AnswersGiven, type Habit } from '@tally/core/credit';
import { dirname } from 'node:path';
import type { AnsweredBy } from '../db/entities/intake.js';
import type { Db } from '../db/database.js';
import { itemsOf, setTaken } from '../seeing/index.js';
import { houseList } from '../people/index.js';
import {
  type House,
  type IntakeRow,
  record,
  setAnsweredBy,
  setSlip,
  setSlipCredit,
  type SlipCredit,
  tell,
  theIntake,
} from '../house/index.js';
import { changeSlipWords, slipCredit } from './store/credit.js';

const FIELDS: readonly AnswerField[] = [
  ...(['contributorId', 'assignmentId', 'wordIds', 'locationId', 'termsId'] as const),
  ...(['creditLine', 'copyrightNotice', 'take', 'fileByItself'] as const),
];

async function habits(db: Db): Promise<Habit[]> {
  const kept = await houseList(db, 'habits');
  return kept
    .filter(({ retired }) => !retired)
    .map(({ id, name, belongs, of, answers }) => ({
      ...{ id, name, belongs, answers },
      of: belongs === 'house' ? null : belongs === 'reader' ? of : Number(of),
    }));
}

/**
 * Fills the slip of an open intake by habits: what nobody said, and what a habit said before, as it is answered now.
 * What a person said stays. Call it in a transaction that holds the intake.
 * @param said fields that a person says in the same step. @returns what is answered.
 */
export async function answerByHabit(
  tx: Db,
  house: Pick<House, 'clock'>,
  intakeId: number,
  said: readonly AnswerField[] = [],
): Promise<AnswersGiven> {
  const intake = await theIntake({ db: tx }, intakeId);
  const slip = await slipCredit(tx, intakeId);
  if (!slip) return {};
  const answered: AnsweredBy = Object.fromEntries(
    Object.entries(slip.answeredBy).filter(([field]) => !said.includes(field as AnswerField)),
  );
  if (intake.state !== 'open') {
    if (said.length) await setAnsweredBy(tx, intakeId, answered);
    return {};
  }
  const byHand = {
    contributorId: answered.contributorId ? null : (intake.contributor?.id ?? null),
    assignmentId: answered.assignmentId ? null : (intake.assignment?.id ?? null),
  };
  const given = answersFor(await habits(tx), { cardId: intake.card.id, reader: readerOf(intake), ...byHand });
  const open = (field: AnswerField, value: unknown) =>
    !said.includes(field) && (answered[field] !== undefined || value === null || (Array.isArray(value) && value.length === 0));
  const now: Partial<Record<AnswerField, unknown>> = {
    contributorId: intake.contributor?.id ?? null,
    assignmentId: intake.assignment?.id ?? null,
    wordIds: slip.words.map(({ id }) => id),
    ...{ locationId: slip.locationId, termsId: slip.termsId, creditLine: slip.creditLine, copyrightNotice: slip.copyrightNotice },
    // Those two are no words of the slip: that they were answered is all that is kept.
    ...{ take: answered.take ? given.take?.value : null, fileByItself: answered.fileByItself ? given.fileByItself?.value : null },
  };
  const change: Partial<Record<AnswerField, unknown>> = {};
  const by: Partial<Record<AnswerField, NonNullable<AnsweredBy[AnswerField]>>> = {};
  for (const field of FIELDS) {
    if (!open(field, now[field])) continue;
    const answer = given[field];
    if (answer) by[field] = answer.habit;
    const value = answer?.value ?? null;
    if (JSON.stringify(value) !== JSON.stringify(now[field] ?? null)) change[field] = value;
  }
  await setSlip(tx, intakeId, {
    ...('contributorId' in change ? { contributorId: change.contributorId as number | null } : {}),
    ...('assignmentId' in change ? { assignmentId: change.assignmentId as number | null } : {}),
  });
  await setSlipCredit(tx, intakeId, change as SlipCredit);
  if ('wordIds' in change) {
    const wanted = (change.wordIds as number[] | null) ?? [];
    const had = slip.words.map(({ id }) => id);
    await changeSlipWords(
      tx,
      intakeId,
      wanted,
      had.filter((id) => !wanted.includes(id)),
    );
  }
  // Only once: what a person takes afterwards stays taken.
  if (given.take?.value === 'none' && by.take && !slip.answeredBy.take) await takeNone(tx, intakeId);
  await setAnsweredBy(tx, intakeId, by);
  const names = [...new Set(Object.values(by).map(({ name }) => name))];
  const news = FIELDS.filter((field) => field in change && by[field] !== undefined);
  if (news.length) {
    const text = `Slip filled by the habit ${names.map((name) => `“${name}”`).join(' and ')}.`;
    await record(tx, { at: house.clock(), kind: 'slip', intakeId, who: 'by itself', text, data: { change, by } });
    await tell(tx, { type: 'intake', intakeId });
  }
  return given;
}

/** The reader that a habit may belong to: as the system calls it, else the folder in which its cards appear. */
const readerOf = (intake: IntakeRow): string => intake.reader?.reader ?? dirname(intake.sourcePath);

async function takeNone(tx: Db, intakeId: number): Promise<void> {
  const taken = (await itemsOf(tx, intakeId)).filter((item) => item.taken && !item.filedAs);
  if (!taken.length) return;
  await setTaken(tx, intakeId, [...new Set(taken.map(({ leader }) => leader))], false);
  await tell(tx, { type: 'items', intakeId });
}
