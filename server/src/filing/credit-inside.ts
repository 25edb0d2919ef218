import { creditPlan, insertionFor, keepVersions, keptEdit, versionsOf } from '../crediting/index.js';
import type { House } from '../house/index.js';
import type { PuttingIn } from './file-batch.js';

/** What the house says of the items of an intake goes into their JPEGs in the pass that copies them. */
export async function creditInside(house: House, intakeId: number): Promise<PuttingIn> {
  const planned = await creditPlan(house, intakeId);
  return {
    plan: ({ itemId }, head) => {
      const plan = planned(itemId);
      if (plan?.how !== 'inside') return null;
      const insertion = insertionFor(plan, head);
      // What cannot carry it has it beside: written with the records, when all of it is filed.
      return typeof insertion === 'string' ? null : insertion;
    },
    keep: (put) =>
      keepVersions(
        house.db,
        put.map(({ filedItemId, itemId, insertion, bytes, hash, quickHash }) => ({
          ...{ filedItemId, how: 'inside', fingerprint: planned(itemId)!.fingerprint, bytes, hash, quickHash },
          ...{ undo: keptEdit(insertion.undo), said: null, reason: null, questions: insertion.questions },
        })),
      ),
    before: async ({ filedItemId }) =>
      (await versionsOf(house.db, [filedItemId])).flatMap(({ how, hash, version }) =>
        how === 'inside' && hash ? [{ hash, version }] : [],
      ),
  };
}
