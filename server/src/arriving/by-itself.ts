import { houseDay } from '@tally/core/capture';
import { onlyProposal } from '@tally/core/plan';
import { inTransaction } from '../db/database.js';
import { type House, intakeById, lockIntake, record, Refusal, setSlip, tell, theIntake } from '../house/index.js';
import { itemsOf, refreshTotals, setTaken } from '../seeing/index.js';
import { assignmentBySlug, assignmentsOn, contributorByCode } from '../people/index.js';
import { answerByHabit } from '../slip/index.js';
import { beginFiling, dayBegins, planOf } from '../filing/index.js';

/** Who is named in the log when the house does something by itself. */
const ITSELF = 'by itself';

/** What a house was told to do with cards like this once it is read: take all that is new, or take and file it. */
export async function actByItself(house: House, intakeId: number): Promise<void> {
  const intake = await intakeById(house.db, intakeId);
  if (!intake || intake.state === 'filing' || intake.state === 'closed') return;
  const watched = house.settings.watched.find(({ folder }) => folder === intake.sourcePath);
  const habit = await habitOf(house, intakeId);
  const said = watched ? watched.fileByItself : intake.card.onInsert === 'file all new';
  const files = said || habit.fileByItself?.value === true;
  if (!files && intake.card.onInsert !== 'take all new' && habit.take?.value !== 'all') return;
  await takeAllNew(house, intakeId);
  if (!files) return;
  await proposeAssignment(house, intakeId);
  const { view } = await planOf(house, intakeId);
  // What nobody can answer by itself waits for a person; so does a drive that is away.
  if (view.missing.length || !view.placements.length || view.obstacles.length) return;
  await beginFiling(house, intakeId, view.seal, ITSELF).catch((error: unknown) => {
    if (!(error instanceof Refusal)) throw error;
  });
}

/** What habits answer for it now. */
const habitOf = (house: House, intakeId: number) =>
  inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    return answerByHabit(tx, house, intakeId);
  });

async function takeAllNew(house: House, intakeId: number): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const left = (await itemsOf(tx, intakeId)).filter(
      (item) => !item.taken && !item.filedAs && !item.alreadyFiled && !item.problem && !item.aside && !item.goneAt,
    );
    if (!left.length) return;
    await setTaken(tx, intakeId, [...new Set(left.map(({ leader }) => leader))], true);
    await refreshTotals(tx, intakeId);
    await tell(tx, { type: 'items', intakeId });
  });
}

/** Where only one assignment can be meant, it is meant. */
async function proposeAssignment(house: House, intakeId: number): Promise<void> {
  const intake = await intakeById(house.db, intakeId);
  if (!intake || intake.assignment) return;
  const captured = (await itemsOf(house.db, intakeId))
    .filter((item) => item.taken && !item.filedAs)
    .map((item) => item.captured.local);
  const begins = await dayBegins(house.db);
  const days = [...new Set(captured.map((local) => houseDay(local, begins)))];
  const proposed = onlyProposal(captured, await assignmentsOn(house.db, days), intake.contributor?.id ?? null, begins);
  if (!proposed) return;
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    if ((await theIntake({ db: tx }, intakeId)).assignment) return;
    await setSlip(tx, intakeId, { assignmentId: proposed.id });
    const text = `Slip: ${proposed.title}, the only assignment of these days.`;
    await record(tx, { at: house.clock(), kind: 'slip', intakeId, who: ITSELF, text });
  });
}

/** The slip that a watched folder's setting names. */
export async function slipOfWatched(
  house: House,
  watched: House['settings']['watched'][number],
): Promise<{ contributorId?: number; assignmentId?: number }> {
  const contributor = watched.contributor ? await contributorByCode(house.db, watched.contributor) : null;
  const assignment = watched.assignment ? await assignmentBySlug(house.db, watched.assignment) : null;
  return {
    ...(contributor ? { contributorId: contributor.id } : {}),
    ...(assignment ? { assignmentId: assignment.id } : {}),
  };
}
