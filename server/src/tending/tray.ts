import { isAside } from '@tally/core/drive';
import { sidecarOf } from '@tally/core/fields';
import { folderOf } from '@tally/core/rule';
import { join } from 'node:path';
import { inTransaction } from '../db/database.js';
import { stands } from '../drive/final-name.js';
import { fastIdentityOf } from '../drive/hashing.js';
import { removeEmptyUpwards, sizeAndTime } from '../drive/move-file.js';
import { removeFile } from '../drive/remove-file.js';
import { everythingBelow } from '../drive/walk.js';
import { placesStanding } from '../driving/index.js';
import { forgetFiled } from '../filing/index.js';
import { type House, houseTime, record, tell } from '../house/index.js';
import { refreshTotals } from '../seeing/index.js';
import { copiesOfFiled, holdFiled, listsIn } from './store/known.js';
import { clearLists } from './own-lists.js';
import { groupedBy } from './grouped.js';
import { movesOf, setEmptied, trayOver } from './store/mends.js';
import { listAgain } from './store/stood.js';

/** What emptying the tray comes to. */
export interface Emptied {
  readonly mends: number;
  readonly files: number;
  /** Why something stays, in words. */
  readonly stays: readonly string[];
}

/**
 * Removes for good what was put aside and whose days are over. Only what lies in the tray still, and only at places that
 * are all here: what is filed is forgotten when its last copy is gone. @param dry nothing is removed.
 */
export async function emptyTray(house: House, who: string, dry = false): Promise<Emptied> {
  const today = houseTime(house, house.clock()).slice(0, 10);
  const places = new Map((await placesStanding(house)).map((place) => [place.id, place]));
  const stays: string[] = [];
  let [mends, files] = [0, 0];
  for (const mend of await trayOver(house.db, today)) {
    const moves = (await movesOf(house.db, mend.id)).filter(
      ({ what, toPath, state }) => (what === 'file' || what === 'folder') && state === 'done' && isAside(toPath),
    );
    const away = new Set(moves.map(({ placeId }) => placeId).filter((id) => !places.get(id)?.standing.online));
    if (away.size) {
      stays.push(
        `What was put aside by mend ${mend.id} waits for ${[...away].map((id) => places.get(id)?.name ?? id).join(' and ')}.`,
      );
      continue;
    }
    mends++;
    const kept: string[] = [];
    for (const [placeId, some] of groupedBy(moves, (move) => move.placeId)) {
      const { root, name } = places.get(placeId)!;
      const ids = some.flatMap(({ filedItemId }) => filedItemId ?? []);
      const copies = await copiesOfFiled(house.db, placeId, ids);
      const withSidecar = new Set<number | null>(copies.filter((one) => one.hasSidecar).map((one) => one.filedItemId));
      for (const { what, toPath, filedItemId } of some) {
        const [paths, folders] = what === 'file' ? [[toPath], []] : await everythingBelow(root, toPath);
        files += paths.length;
        if (dry) continue;
        if (withSidecar.has(filedItemId)) paths.push(sidecarOf(toPath));
        for (const path of paths) {
          const why = await removeAside(root, path);
          if (why !== null) kept.push(`${name}: ${path}: ${why}`);
        }
        for (const folder of folders) await removeEmptyUpwards(root, folder);
        if (what === 'folder' && (await stands(join(root, toPath)))) kept.push(`${name}: ${toPath}: something stays in it`);
      }
      if (dry) continue;
      const left = [...new Set(some.map(({ toPath }) => folderOf(toPath)))];
      await clearLists(house, { root }, left, await listsIn(house.db, placeId, left, ids));
    }
    stays.push(...kept);
    if (!dry && !kept.length) await forget(house, mend.id, moves, files, who);
  }
  return { mends, files, stays };
}

/** The file that lies there now: it was put aside, whatever it is. */
async function removeAside(root: string, path: string): Promise<string | null> {
  const here = await sizeAndTime(join(root, path));
  if (!here) return null;
  return removeFile(root, {
    ...here,
    pathBytes: Buffer.from(path),
    quickHash: await fastIdentityOf(join(root, path), here.bytes),
  });
}

async function forget(
  house: House,
  mendId: number,
  moves: readonly { filedItemId: number | null; placeId: string; toPath: string }[],
  files: number,
  who: string,
): Promise<void> {
  const at = house.clock();
  await inTransaction(house.db, async (tx) => {
    const ids = [...new Set(moves.flatMap(({ filedItemId }) => filedItemId ?? []))];
    // A changed file of somebody's was put aside in its stead: the filed one goes on.
    const inTray = (await holdFiled(tx, ids)).filter(({ path }) => isAside(path));
    await forgetFiled(
      tx,
      inTray.map(({ filedItemId }) => filedItemId),
    );
    for (const intakeId of new Set(inTray.map((row) => row.intakeId))) {
      await refreshTotals(tx, intakeId);
      await tell(tx, { type: 'items', intakeId });
    }
    await setEmptied(tx, mendId, at);
    for (const { placeId, toPath } of moves) await listAgain(tx, placeId, [folderOf(toPath)]);
    const text = `${files} ${files === 1 ? 'file that was' : 'files that were'} put aside ${files === 1 ? 'was' : 'were'} removed for good.`;
    await record(tx, { at, kind: 'tray emptied', intakeId: null, who, text, data: { mend: mendId } });
  });
}
