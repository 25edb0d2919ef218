import pLimit from 'p-limit';
import { EPOCH_DAYS } from '@tally/core/capture';
import { hashFile } from '../drive/hashing.js';
import { isFolder, joinBytes } from '../drive/list-card.js';
import { inTransaction } from '../db/database.js';
import { type House, intakeById, lockIntake, setSlip, tell } from '../house/index.js';
import {
  bodiesOf,
  likelyTwins,
  markAlreadyFiled,
  markNamesakes,
  type ReadItem,
  refreshTotals,
  settleAlreadyFiled,
  setTwins,
  unreadItems,
  writeRead,
} from '../seeing/index.js';

const BATCH = 48;
const AT_ONCE = 8;

/**
 * Reads the metadata of an intake's items behind the list, in capture order, and tells what came in. Then looks for items
 * that stand on the drive already: likely by size and fast identity, confirmed by comparing all bytes.
 */
export async function readIntake(house: House, intakeId: number, signal: AbortSignal): Promise<void> {
  const { db, reader } = house;
  const intake = await intakeById(db, intakeId);
  if (!intake?.present) return;
  const unread = await unreadItems(db, intakeId);
  const limit = pLimit(AT_ONCE);
  for (let from = 0; from < unread.length; from += BATCH) {
    if (signal.aborted) return;
    await house.calm();
    const read = await Promise.all(
      unread.slice(from, from + BATCH).map((item) =>
        limit(async (): Promise<ReadItem> => {
          const path = joinBytes(intake.sourcePath, item.pathBytes);
          return {
            id: item.id,
            ...(await reader.read({ path, kind: item.kind, bytes: item.bytes, modifiedAt: item.modifiedAt })),
          };
        }),
      ),
    );
    // A card pulled in the middle of reading makes every file unreadable: those are read again when it is back.
    if (read.some((item) => item.quickHash === null) && !(await isFolder(intake.sourcePath))) return;
    await inTransaction(db, async (tx) => {
      await lockIntake(tx, intakeId);
      await writeRead(tx, read);
      await tell(tx, { type: 'items', intakeId });
    });
  }
  await proposeContributor(house, intakeId);
  await findAlreadyFiled(house, intakeId, intake.sourcePath, signal);
  await findTwins(house, intakeId, intake.sourcePath, signal);
  await markNamesakes(db, intakeId);
  await refreshTotals(db, intakeId);
  await tell(db, { type: 'intake', intakeId });
  await tell(db, { type: 'desk' });
}

/** The camera that took most of a card, known to be somebody's, says whose card this is, as long as nobody has said so. */
async function proposeContributor(house: House, intakeId: number): Promise<void> {
  const intake = await intakeById(house.db, intakeId);
  if (!intake || intake.contributor) return;
  const owned = new Map<number, number>();
  for (const { owner, items } of await bodiesOf(house.db, intakeId, EPOCH_DAYS))
    if (owner) owned.set(owner.id, (owned.get(owner.id) ?? 0) + items);
  const [most, next] = [...owned].sort(([, a], [, b]) => b - a);
  if (most && most[1] > (next?.[1] ?? 0)) await setSlip(house.db, intakeId, { contributorId: most[0] });
}

async function findAlreadyFiled(house: House, intakeId: number, sourcePath: string, signal: AbortSignal): Promise<void> {
  const { db } = house;
  const likely = await markAlreadyFiled(db, intakeId);
  if (!likely.length) return;
  await tell(db, { type: 'items', intakeId });
  const limit = pLimit(2);
  const same: number[] = [];
  const different: number[] = [];
  await Promise.all(
    likely.map((item) =>
      limit(async () => {
        if (signal.aborted) return;
        const hash = await hashFile(joinBytes(sourcePath, item.pathBytes), signal).catch(() => null);
        if (hash) (hash.equals(item.hash) ? same : different).push(item.id);
      }),
    ),
  );
  await settleAlreadyFiled(db, same, different);
}

/** The same bytes twice on one card: likely by size and fast identity, told only when all bytes are the same. */
async function findTwins(house: House, intakeId: number, sourcePath: string, signal: AbortSignal): Promise<void> {
  const likely = await likelyTwins(house.db, intakeId);
  const first = new Map<string, number>();
  const twins: { id: number; of: number }[] = [];
  for (const { id, pathBytes, group } of likely) {
    if (signal.aborted) return;
    const hash = await hashFile(joinBytes(sourcePath, pathBytes), signal).catch(() => null);
    if (!hash) continue;
    const key = `${group} ${hash.toString('hex')}`;
    const before = first.get(key);
    if (before === undefined) first.set(key, id);
    else twins.push({ id, of: before });
  }
  if (twins.length) await setTwins(house.db, twins);
}
