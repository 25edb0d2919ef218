import type { AgreementSaid, AgreementView } from '@tally/contract';
import type { z } from 'zod';
import { Agreement } from '../../db/entities/credit.js';
import type { Db } from '../../db/database.js';

export async function agreementsOf(db: Db, contributorId: number): Promise<AgreementView[]> {
  const rows = await db.getRepository(Agreement).find({ where: { contributorId }, order: { signedOn: 'DESC', id: 'DESC' } });
  return rows.map(({ id, what, signedOn, until, scanType }) => ({ id, what, signedOn, until, scanned: scanType !== null }));
}

export async function insertAgreement(db: Db, contributorId: number, said: z.infer<typeof AgreementSaid>): Promise<number> {
  const repository = db.getRepository(Agreement);
  return (await repository.save(repository.create({ contributorId, ...said }))).id;
}

/** An agreement, kept against others until the transaction ends. */
export const holdAgreement = (db: Db, id: number): Promise<Agreement | null> =>
  db.getRepository(Agreement).findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });

export async function updateAgreement(
  db: Db,
  id: number,
  change: Partial<Pick<Agreement, 'what' | 'signedOn' | 'until' | 'scan' | 'scanType'>>,
): Promise<void> {
  await db.getRepository(Agreement).update(id, change);
}

export async function deleteAgreement(db: Db, id: number): Promise<void> {
  await db.getRepository(Agreement).delete(id);
}

export const scanOf = (db: Db, id: number): Promise<Agreement | null> =>
  db.getRepository(Agreement).findOne({ where: { id }, select: { id: true, scan: true, scanType: true, what: true } });
