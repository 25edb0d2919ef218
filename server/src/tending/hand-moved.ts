import { sidecarOf } from '@tally/core/fields';
import { pathIn } from '@tally/core/rule';
import { join } from 'node:path';
import { setStands } from '../crediting/index.js';
import { inTransaction } from '../db/database.js';
import { stands } from '../drive/final-name.js';
import { moveFile } from '../drive/move-file.js';
import { standingOf } from '../drive/place.js';
import { isOurSidecar } from '../drive/sidecar-file.js';
import type { House } from '../house/index.js';
import { folderDue } from '../proving/index.js';
import type { MovedCopy, Place } from './looking.js';
import { clearLists } from './own-lists.js';
import { copiesOfFiled, listsIn } from './store/known.js';

/**
 * What stands beside files that somebody moved by hand follows them, once the log has: sidecars that stayed behind, or new ones
 * where they are gone; and what explained a folder goes when nothing of it is there any more. Where this is not reached, a
 * check finds what is missing.
 */
export async function followBeside(house: House, place: Place, moved: readonly MovedCopy[], signal: AbortSignal): Promise<void> {
  await house.locks.holdInTurn('place', place.id, signal, async () => {
    const lost: number[] = [];
    for (const one of moved) if (one.row.hasSidecar && !(await sidecarFollows(house, place, one))) lost.push(one.row.filedItemId);
    // What was not found at a place that went away in the middle is not gone.
    if (!(await standingOf(place, place.mark)).online) return;
    if (lost.length) await writtenAnew(house, place, lost);
    const left = [...new Set(moved.map(({ row }) => row.listFolder))];
    await clearLists(house, place, left, await listsIn(house.db, place.id, left));
  });
}

/** @returns false when there is none that could follow. */
async function sidecarFollows(house: House, { root, links }: Place, { row, to }: MovedCopy): Promise<boolean> {
  const from = pathIn(row.folder, row.name);
  // Most people take along what lies beside a file.
  if (await stands(join(root, sidecarOf(to)))) return true;
  // Whatever stands there was this file's; where another file has its name by now, only what we wrote.
  const isTaken = await stands(join(root, from));
  if (isTaken && !(await isOurSidecar(join(root, sidecarOf(from)), row.sidecarStands))) return false;
  const way = { root, from: sidecarOf(from), to: sidecarOf(to), links, files: house.files };
  return (await moveFile(way, () => Promise.resolve(true))) === 'moved';
}

async function writtenAnew({ db }: House, { id: placeId }: Place, filedItemIds: readonly number[]): Promise<void> {
  await inTransaction(db, async (tx) => {
    await setStands(
      tx,
      filedItemIds.map((filedItemId) => ({ filedItemId, placeId, version: 0 })),
    );
    const now = await copiesOfFiled(tx, placeId, filedItemIds);
    await folderDue(
      tx,
      now.map(({ intakeId, listFolder }) => ({ intakeId, folder: listFolder, placeId })),
    );
  });
}
