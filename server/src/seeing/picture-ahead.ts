import type { Look } from '../media/previews.js';
import { unpictured, writeLooks, type Looked } from './store/judgements.js';
import type { Db } from '../db/database.js';
import { pictureSource } from './items.js';
import { anybodyFiling, type House, tell } from '../house/index.js';

const BATCH = 6;

/**
 * Makes the next few previews before anybody asks for them, and keeps what they show. Yields to filing and to what
 * somebody is looking at.
 * @returns how many were made; 0 when there is nothing to do or filing goes first.
 */
export async function pictureAhead(house: House): Promise<number> {
  const { db } = house;
  if (await anybodyFiling(db, house.settings.station)) return 0;
  const next = await unpictured(db, BATCH);
  await house.calm();
  const looked = await Promise.all(
    next.map(async ({ id, intakeId }): Promise<Looked & { intakeId: number }> => {
      const look = await house.previews.ahead(await pictureSource(house, id)).catch(() => null);
      return { id, intakeId, ...looksOf(look) };
    }),
  );
  await keepLooks(db, looked);
  return next.length;
}

const looksOf = (look: Look | null) => ({ sharpness: look?.sharpness ?? null, look: look?.look ?? null });

async function keepLooks(db: Db, looked: readonly (Looked & { intakeId: number })[]): Promise<void> {
  if (!looked.length) return;
  await writeLooks(db, looked);
  for (const intakeId of new Set(looked.map((one) => one.intakeId))) await tell(db, { type: 'items', intakeId });
}

/** Keeps what previews showed that were made because somebody looked, some at a time. */
export class LookKeeper {
  private waiting: (Looked & { intakeId: number })[] = [];
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly db: Db,
    private readonly onTrouble: (error: unknown) => void,
  ) {}

  readonly add = (source: { itemId: number; intakeId: number }, look: Look | null): void => {
    this.waiting.push({ id: source.itemId, intakeId: source.intakeId, ...looksOf(look) });
    this.timer ??= setTimeout(() => void this.flush().catch(this.onTrouble), 300);
  };

  async flush(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    await keepLooks(this.db, this.waiting.splice(0));
  }
}
