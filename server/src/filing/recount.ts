import { isDeepStrictEqual } from 'node:util';
import { inTransaction } from '../db/database.js';
import { holdPlaceTotals, keptPlaces, recountPlaces } from '../driving/index.js';
import { byWhose, type House, intakeById, intakesAfter, keptTotals, lockIntake, partsKept } from '../house/index.js';
import { countIntake, refreshTotals } from '../seeing/index.js';
import { holdFolders, recountFolders, wrongFolders } from './store/folders.js';

/** Something that was kept and is not so. */
export interface Difference {
  /** `place`, `folder` or `intake`, and which. */
  readonly of: string;
  readonly what: string;
  readonly kept: string;
  readonly counted: string;
}

const AT_A_TIME = 100;

/**
 * Counts everything that is kept as a total anew, from the items and copies themselves, and mends what differs. Places and
 * folders are counted at one moment, intakes one after the other; meanwhile the house goes on.
 */
export async function* recount(house: House): AsyncGenerator<Difference, void, undefined> {
  yield* await inTransaction(house.db, async (tx) => {
    await holdPlaceTotals(tx);
    const before = await keptPlaces(tx);
    await recountPlaces(tx);
    const after = new Map((await keptPlaces(tx)).map((place) => [place.id, place]));
    return before.flatMap((kept) => differences(`place ${kept.id}`, kept, after.get(kept.id)!));
  });
  yield* await inTransaction(house.db, async (tx) => {
    await holdFolders(tx);
    const wrong = await wrongFolders(tx);
    if (wrong.length) await recountFolders(tx);
    return wrong.flatMap(({ folder, kept, counted }) => differences(`folder ${folder}`, kept, counted));
  });
  for (let after = 0; ;) {
    const ids = await intakesAfter(house.db, after, AT_A_TIME);
    for (const id of ids) yield* await recountIntake(house, id);
    if (ids.length < AT_A_TIME) return;
    after = ids.at(-1)!;
  }
}

async function recountIntake(house: House, id: number): Promise<Difference[]> {
  return inTransaction(house.db, async (tx) => {
    await lockIntake(tx, id);
    const [intake, kept, counted] = [await intakeById(tx, id), await keptTotals(tx, id), await countIntake(tx, id)];
    if (!intake || !kept || !counted) return [];
    const { items, filed, bytes } = counted.totals;
    const parts = [...counted.parts].sort(byWhose);
    const was = await partsKept(tx, id);
    const found = [
      ...differences(`intake ${intake.number}`, kept.totals, counted.totals),
      // What the logbook is ordered by beside them.
      ...differences(`intake ${intake.number}, in order`, kept.ordered, { items, filed, bytes }),
      ...(isDeepStrictEqual(was, parts) ? [] : differences(`intake ${intake.number}`, { parts: was }, { parts })),
    ];
    if (found.length) await refreshTotals(tx, id);
    return found;
  });
}

function differences(of: string, kept: object, counted: object): Difference[] {
  const [before, after] = [kept as Record<string, unknown>, counted as Record<string, unknown>];
  return Object.keys(after)
    .filter((what) => !isDeepStrictEqual(before[what], after[what]))
    .map((what) => ({ of, what, kept: shown(before[what]), counted: shown(after[what]) }));
}

const shown = (value: unknown): string => {
  const text = value === undefined ? 'nothing' : JSON.stringify(value);
  return text.length > 80 ? `${text.slice(0, 79)}…` : text;
};
