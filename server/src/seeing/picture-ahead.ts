import { standsAt } from '../drive/card-identity.js';
import { inTransaction } from '../db/database.js';
import type { Look } from '../media/pixels.js';
import { isThere } from '../media/previews.js';
import { unpictured, unseenFiled, writeLooks, type Looked } from './store/judgements.js';
import type { Db } from '../db/database.js';
import { pictureSource } from './items.js';
import { anybodyFiling, type House, intakeById, lockIntake, tell } from '../house/index.js';

const BATCH = 6;

/**
 * Makes the next few previews before anybody asks for them, and keeps what they show. Yields to filing and to what
 * somebody is looking at.
 * @returns how many were made; 0 when there is nothing to do or filing goes first.
 */
export async function pictureAhead(house: House): Promise<number> {
  const { db } = house;
  if (await anybodyFiling(db, house.settings.station)) return 0;
  const next = await stillThere(house, await unpictured(db, house.settings.station, BATCH));
  await house.calm();
  const looked = await Promise.all(
    next.map(async ({ id, intakeId }): Promise<LookedAt> => {
      const source = await pictureSource(house, id);
      const look = await house.previews.ahead(source).catch((error: unknown) => {
        house.log.debug({ item: id, error: String(error) }, 'no preview');
        return null;
      });
      return { id, intakeId, ...looksOf(look) };
    }),
  );
  // A card that was pulled in the middle says nothing about its pictures.
  await keepLooks(db, await stillThere(house, looked));
  return next.length;
}

/** Above every intake: where looking at what is filed begins. */
export const FROM_THE_NEWEST = 2_147_483_647;

/**
 * Makes the next few previews of what is filed and was never seen, from its copies, so that the shelf can show it while its
 * place is away and knows what looks like what. What stands on no place that is here is passed.
 * @returns the intake to go on below; null at the end, or when filing goes first.
 */
export async function filedPicturesAhead(house: House, belowIntake: number): Promise<number | null> {
  const { db } = house;
  if (await anybodyFiling(db, house.settings.station)) return null;
  const next = await unseenFiled(db, belowIntake, BATCH);
  if (!next.length) return null;
  await house.calm();
  const looked: LookedAt[] = [];
  for (const { id, intakeId } of next) {
    const source = await pictureSource(house, id);
    if (!(await isThere(source.path))) continue;
    const look = await house.previews.ahead(source).catch((error: unknown) => {
      house.log.debug({ item: id, error: String(error) }, 'no preview');
      return null;
    });
    looked.push({ id, intakeId, ...looksOf(look) });
  }
  await keepLooks(db, looked);
  return looked.length ? belowIntake : next.at(-1)!.intakeId;
}

/** Those whose card is there: what cannot be seen now is looked at when the card is back. */
async function stillThere<T extends { readonly intakeId: number }>(house: House, items: readonly T[]): Promise<T[]> {
  const stands = new Map<number, boolean>();
  for (const intakeId of new Set(items.map((item) => item.intakeId))) {
    const intake = await intakeById(house.db, intakeId);
    stands.set(intakeId, intake !== null && (await standsAt(intake.sourcePath, intake)));
  }
  return items.filter(({ intakeId }) => stands.get(intakeId));
}

type LookedAt = Looked & { readonly intakeId: number };

const looksOf = (look: Look | null) => ({ sharpness: look?.sharpness ?? null, look: look?.look ?? null });

/** One intake after the other, in one order for all, each under its lock: like every change of items. */
async function keepLooks(db: Db, looked: readonly LookedAt[]): Promise<void> {
  const ids = [...new Set(looked.map(({ intakeId }) => intakeId))].sort((a, b) => a - b);
  for (const intakeId of ids) {
    await inTransaction(db, async (tx) => {
      await lockIntake(tx, intakeId);
      await writeLooks(
        tx,
        looked.filter((one) => one.intakeId === intakeId),
      );
      await tell(tx, { type: 'items', intakeId });
    });
  }
}

/** Keeps what previews showed that were made because somebody looked, some at a time. */
export class LookKeeper {
  private waiting: LookedAt[] = [];
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly db: Db,
    private readonly onTrouble: (error: unknown) => void,
  ) {}

  readonly add = (source: { itemId: number; intakeId: number }, look: Look | null): void => {
    // Nothing seen may mean that the card is away: making ahead finds out.
    if (!look) return;
    this.waiting.push({ id: source.itemId, intakeId: source.intakeId, ...looksOf(look) });
    this.timer ??= setTimeout(() => void this.flush().catch(this.onTrouble), 300);
  };

  async flush(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    await keepLooks(this.db, this.waiting.splice(0));
  }
}
