import { EPOCH_DAYS } from '@tally/core/capture';
import pLimit from 'p-limit';
import { inTransaction } from '../db/database.js';
import { standsAt } from '../drive/card-identity.js';
import { hashFile } from '../drive/hashing.js';
import { joinBytes } from '../drive/list-card.js';
import {
  bodiesOf,
  comparing,
  likelyTwins,
  markAlreadyFiled,
  markNamesakes,
  type ReadItem,
  refreshTotals,
  reviewObjects,
  settleAlreadyFiled,
  setTwins,
  unreadItems,
  writeRead,
} from '../seeing/index.js';
import { answerByHabit } from '../slip/index.js';
import { keepingNow } from '../filing/index.js';
import { type House, intakeById, type IntakeRow, lockIntake, readThrough, setSlip, tell } from '../house/index.js';

const BATCH = 48;
const READ_AT_ONCE = 8;
const COMPARED_AT_ONCE = 2;

/**
 * Reads the metadata of an intake's items behind the list, in capture order, and tells what came in. Then looks for items
 * that stand on the drive already (likely by size and fast identity, proven by comparing all bytes, one by one) and for
 * twins. Safe to be killed at any moment and called again: it goes on with what is not read, not compared. When the card
 * is gone it ends; what is left waits until the card is back.
 * @param whenRead what is to happen once all of it is read, before the intake counts as read through.
 */
export async function readIntake(
  house: House,
  intakeId: number,
  signal: AbortSignal,
  whenRead: () => Promise<void> = () => Promise.resolve(),
): Promise<void> {
  const intake = await intakeById(house.db, intakeId);
  if (!intake?.present || !(await standsAt(intake.sourcePath, intake))) return;
  const card: Card = { house, intake, signal };
  await review(house, intakeId);
  if (!(await readMetadata(card))) return;
  await proposeContributor(house, intakeId);
  if (!(await compareWithFiled(card))) return;
  if (!(await findTwins(card))) return;
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    await markNamesakes(tx, intakeId);
    await refreshTotals(tx, intakeId);
    await tell(tx, { type: 'intake', intakeId });
    await tell(tx, { type: 'items', intakeId });
    await tell(tx, { type: 'desk' });
  });
  await whenRead();
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    // More may have come since: then it is read again.
    const left = (await unreadItems(tx, intakeId)).length + (await comparing(tx, intakeId)).length;
    if (!left) await readThrough(tx, intakeId);
  });
}

/** What belongs together is said anew: files came, or the house keeps structures another way by now. */
async function review(house: House, intakeId: number): Promise<void> {
  const keeping = await keepingNow(house.db);
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    if ((await intakeById(tx, intakeId))?.state === 'filing') return;
    if (!(await reviewObjects(tx, intakeId, keeping, house.settings.takeAtFirst === 'all new'))) return;
    await refreshTotals(tx, intakeId);
    await tell(tx, { type: 'items', intakeId });
  });
}

interface Card {
  readonly house: House;
  readonly intake: IntakeRow;
  readonly signal: AbortSignal;
}

/** Is it to go on? Not when it was told to stop, and not when the card is gone. */
const goesOn = async ({ intake, signal }: Card): Promise<boolean> =>
  !signal.aborted && (await standsAt(intake.sourcePath, intake));

/** @returns false when it did not come to the end. */
async function readMetadata(card: Card): Promise<boolean> {
  const { house, intake } = card;
  const unread = await unreadItems(house.db, intake.id);
  const limit = pLimit(READ_AT_ONCE);
  for (let from = 0; from < unread.length; from += BATCH) {
    if (card.signal.aborted) return false;
    await house.calm();
    const read = await Promise.all(
      unread.slice(from, from + BATCH).map((item) =>
        limit(async (): Promise<ReadItem> => {
          const path = joinBytes(intake.sourcePath, item.pathBytes);
          const { kind, bytes, modifiedAt } = item;
          return { id: item.id, ...(await house.reader.read({ path, kind, bytes, modifiedAt })) };
        }),
      ),
    );
    // A card pulled in the middle of reading makes every file unreadable: those are read again when it is back.
    if (read.some((item) => item.quickHash === null) && !(await standsAt(intake.sourcePath, intake))) return false;
    await inTransaction(house.db, async (tx) => {
      await lockIntake(tx, intake.id);
      await writeRead(tx, read);
      await tell(tx, { type: 'items', intakeId: intake.id });
    });
  }
  return goesOn(card);
}

/** The camera that took most of a card, known to be somebody's, says whose card this is, as long as nobody has said so. */
async function proposeContributor(house: House, intakeId: number): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    await lockIntake(tx, intakeId);
    const intake = await intakeById(tx, intakeId);
    if (intake?.state !== 'open') return;
    if (intake.contributor) {
      await answerByHabit(tx, house, intakeId);
      await refreshTotals(tx, intakeId);
      return;
    }
    const owned = new Map<number, number>();
    for (const { owner, items } of await bodiesOf(tx, intakeId, EPOCH_DAYS))
      if (owner) owned.set(owner.id, (owned.get(owner.id) ?? 0) + items);
    const [most, next] = [...owned].sort(([, a], [, b]) => b - a);
    if (most && most[1] > (next?.[1] ?? 0)) await setSlip(tx, intakeId, { contributorId: most[0] });
    await answerByHabit(tx, house, intakeId);
    await refreshTotals(tx, intakeId);
  });
}

/**
 * Marks what looks as if it were filed, then compares each of these whole, and settles it at once: a kill in between loses
 * one comparison. What cannot be read is not taken for filed.
 */
async function compareWithFiled(card: Card): Promise<boolean> {
  const { house, intake, signal } = card;
  const { db } = house;
  await inTransaction(db, async (tx) => {
    await lockIntake(tx, intake.id);
    if (!(await markAlreadyFiled(tx, intake.id))) return;
    await refreshTotals(tx, intake.id);
    await tell(tx, { type: 'items', intakeId: intake.id });
  });
  const limit = pLimit(COMPARED_AT_ONCE);
  const settled = await Promise.all(
    (await comparing(db, intake.id)).map((item) =>
      limit(async () => {
        if (signal.aborted) return false;
        const hash = await hashFile(joinBytes(intake.sourcePath, item.pathBytes), signal).catch(() => null);
        // Neither a wish to stop nor a card that was pulled says anything about the file.
        if (hash === null && !(await goesOn(card))) return false;
        await inTransaction(db, async (tx) => {
          await lockIntake(tx, intake.id);
          await settleAlreadyFiled(tx, item.id, hash);
          await tell(tx, { type: 'items', intakeId: intake.id });
        });
        return true;
      }),
    ),
  );
  return !settled.includes(false) && goesOn(card);
}

/** The same bytes twice on one card: likely by size and fast identity, told only when all bytes are the same. */
async function findTwins(card: Card): Promise<boolean> {
  const { house, intake, signal } = card;
  const first = new Map<string, number>();
  const twins: { id: number; of: number }[] = [];
  for (const { id, pathBytes, group } of await likelyTwins(house.db, intake.id)) {
    if (signal.aborted) return false;
    const hash = await hashFile(joinBytes(intake.sourcePath, pathBytes), signal).catch(() => null);
    if (!hash) {
      if (!(await goesOn(card))) return false;
      continue;
    }
    const key = `${group} ${hash.toString('hex')}`;
    const before = first.get(key);
    if (before === undefined) first.set(key, id);
    else twins.push({ id, of: before });
  }
  if (twins.length)
    await inTransaction(house.db, async (tx) => {
      await lockIntake(tx, intake.id);
      await setTwins(tx, twins);
    });
  return goesOn(card);
}
