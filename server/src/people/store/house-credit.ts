import type { HouseCreditChange, HouseCreditView } from '@tally/contract';
import type { z } from 'zod';
import { HouseCredit } from '../../db/entities/credit.js';
import type { Db } from '../../db/database.js';

export async function readHouseCredit(db: Db, hold = false): Promise<HouseCreditView> {
  const repository = db.getRepository(HouseCredit);
  const row = await repository.findOneOrFail({ where: { id: 1 }, ...(hold ? { lock: { mode: 'pessimistic_write' } } : {}) });
  const { id: _id, followBelow: _below, ...said } = row;
  return said;
}

export async function writeHouseCredit(db: Db, change: z.infer<typeof HouseCreditChange>, revision: number): Promise<void> {
  await db.getRepository(HouseCredit).update(1, { ...change, revision });
}
