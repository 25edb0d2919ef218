import type { Db } from '../db/database.js';
import { rebuildFormer } from '../filing/index.js';
import { addMend, addMoves, setMendState } from './store/mends.js';

/** A file that lies in the bin, as its record tells. */
export interface BinnedFile {
  readonly filedItemId: number;
  /** Where it lies, and where it stood. */
  readonly path: string;
  readonly from: string;
  readonly by: string;
  readonly at: string;
  readonly words: string;
  readonly until: string | null;
  readonly placeIds: readonly string[];
}

/** Puts back what put files into the bin, so that they can be restored, and go when their days are over. Call it in a transaction. */
export async function rebuildBin(tx: Db, files: readonly BinnedFile[]): Promise<void> {
  const mends = new Map<string, BinnedFile[]>();
  for (const file of files) {
    const key = JSON.stringify([file.by, file.at, file.words, file.until]);
    mends.set(key, [...(mends.get(key) ?? []), file]);
  }
  for (const some of mends.values()) {
    const { by, at, words, until } = some[0]!;
    const id = await addMend(tx, {
      ...{
        kind: 'put aside',
        words,
        who: by,
        at: new Date(at),
        items: some.length,
        takesBack: null,
        keptUntil: until,
        before: null,
      },
    });
    await addMoves(
      tx,
      id,
      some.flatMap(({ filedItemId, path, from, placeIds }) =>
        placeIds.map((placeId) => ({
          ...{ placeId, what: 'file' as const, filedItemId, fromPath: from, toPath: path, state: 'done' as const },
        })),
      ),
    );
    await setMendState(tx, id, 'done');
    await rebuildFormer(
      tx,
      id,
      some.map(({ filedItemId, from }) => ({ filedItemId, path: from, until: at })),
    );
  }
}

/** Where files stood before, by one mend that stands for all that moved them: it was told, and cannot be undone any more. */
export async function rebuildNames(
  tx: Db,
  former: readonly { readonly filedItemId: number; readonly path: string; readonly until: string }[],
  who: string,
  at: Date,
): Promise<void> {
  if (!former.length) return;
  const words = `${former.length} former names of files, rebuilt from the records on the drive`;
  const id = await addMend(tx, {
    ...{ kind: 'rebuilt', words, who, at, items: former.length, takesBack: null, keptUntil: null, before: null },
  });
  await setMendState(tx, id, 'done');
  await rebuildFormer(tx, id, former);
}
