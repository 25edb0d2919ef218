import { isTemporary } from '@tally/core/drive';
import { sidecarOf } from '@tally/core/fields';
import { folderOf, pathIn } from '@tally/core/rule';
import { join } from 'node:path';
import { inTransaction } from '../db/database.js';
import { fastIdentityOf } from '../drive/hashing.js';
import { stands } from '../drive/final-name.js';
import { codeOf } from '../drive/list-card.js';
import { flushMoved, moveFile, moveFolder, removeEmptyUpwards, sizeAndTime, type Moved } from '../drive/move-file.js';
import { isOurSidecar, removeSidecar } from '../drive/sidecar-file.js';
import { removeFile } from '../drive/remove-file.js';
import { abilitiesOf, placesStanding } from '../driving/index.js';
import { dropCopies } from '../filing/index.js';
import { type House, record, tell } from '../house/index.js';
import { folderDue } from '../proving/index.js';
import type { Place } from './looking.js';
import { clearLists, removeOwnLists } from './own-lists.js';
import { copiesOfFiled, type CopyRow, listsBelow, listsIn } from './store/known.js';
import {
  mendById,
  mendsToSettle,
  movesLeft,
  movesOf,
  type MoveRow,
  movesWaiting,
  placesMoving,
  setMendState,
  setMoves,
} from './store/mends.js';
import { forgetStrays, listAgain } from './store/stood.js';

/** So many are moved before it is written down: a run that dies looks at as many again. */
const BATCH = 200;

type Outcome = Pick<MoveRow, 'id' | 'state' | 'problem'>;

/**
 * Does at a place what mends want of it, in their order. Nothing is replaced; a file that is not what it was filed as stays
 * where it is, and says so. Safe to be killed at any moment and called again.
 * @returns how many moves were made.
 */
export async function carryOutAt(house: House, placeId: string, signal: AbortSignal): Promise<number> {
  const found = (await placesStanding(house)).find(({ id }) => id === placeId);
  if (!found?.standing.online) return 0;
  const place: Place = { ...found, ...(await abilitiesOf(found)) };
  let made = 0;
  while (!signal.aborted) {
    const waiting = await movesWaiting(house.db, placeId, BATCH);
    if (!waiting.length) break;
    const done = await carryOut(house, place, inOneMend(waiting), signal);
    made += done;
    if (!done) break;
  }
  return made;
}

/** Moves of one mend only: the next one may build upon what this one leaves. */
const inOneMend = (moves: readonly MoveRow[]) => moves.filter(({ mendId }) => mendId === moves[0]!.mendId);

async function carryOut(house: House, place: Place, moves: readonly MoveRow[], signal: AbortSignal): Promise<number> {
  const ids = moves.flatMap(({ filedItemId }) => filedItemId ?? []);
  const copies = new Map((await copiesOfFiled(house.db, place.id, ids)).map((row) => [row.filedItemId, row]));
  const outcomes: Outcome[] = [];
  for (const move of moves) {
    if (signal.aborted) break;
    const copy = move.filedItemId === null ? undefined : copies.get(move.filedItemId);
    const outcome = await one(place, move, copy).catch((error: unknown): Outcome | null => {
      // A place that went away is no fault of the move: it waits.
      if (['EIO', 'ENODEV', 'ENOTCONN', 'ESTALE'].includes(codeOf(error))) return null;
      return {
        id: move.id,
        state: 'failed',
        problem: `${place.name}: ${move.fromPath || move.toPath} cannot be moved (${codeOf(error)})`,
      };
    });
    if (!outcome) break;
    outcomes.push(outcome);
  }
  const done = new Set(outcomes.filter(({ state }) => state === 'done').map(({ id }) => id));
  const made = moves.filter(({ id }) => done.has(id));
  await flushMoved(
    place.root,
    made
      .filter(({ what }) => what === 'file' || what === 'folder')
      .map(({ fromPath, toPath }) => ({ from: fromPath, to: toPath })),
  );
  await inTransaction(house.db, async (tx) => {
    await setMoves(tx, outcomes);
    const left = made.flatMap(({ what, filedItemId }) =>
      what === 'leaves' && filedItemId !== null ? [{ filedItemId, placeId: place.id }] : [],
    );
    if (left.length) await dropCopies(tx, left);
    await forgetStrays(
      tx,
      place.id,
      made.map(({ fromPath }) => fromPath),
    );
    await listAgain(tx, place.id, [...new Set(made.flatMap(({ fromPath, toPath }) => [folderOf(fromPath), folderOf(toPath)]))]);
    await tell(tx, { type: 'drive', placeId: place.id });
  });
  await afterwards(house, place, moves[0]!.mendId);
  return outcomes.length;
}

const outcomeOf = (move: MoveRow, moved: Moved, place: Place): Outcome => {
  const problem = {
    moved: null,
    gone: `${place.name}: ${move.fromPath} is not there any more`,
    taken: `${place.name}: something else stands at ${move.toPath}`,
  }[moved];
  return { id: move.id, state: moved === 'moved' ? 'done' : 'failed', problem };
};

async function one(place: Place, move: MoveRow, copy: CopyRow | undefined): Promise<Outcome> {
  const { root, links } = place;
  const { fromPath: from, toPath: to } = move;
  if (move.what === 'leaves') return leave(place, move, copy);
  if (move.what === 'empty folder') {
    await removeOwnLists(root, from);
    const gone = !(await stands(join(root, from)));
    return { id: move.id, state: gone ? 'done' : 'failed', problem: gone ? null : `${place.name}: something stands in ${from}` };
  }
  if (move.what === 'folder') {
    const moved = await moveFolder({ root, from, to });
    // A folder that is not at this place need not be renamed there.
    return moved === 'gone' ? { id: move.id, state: 'void', problem: null } : outcomeOf(move, moved, place);
  }
  const isRename = copy !== undefined && (to === pathIn(copy.folder, copy.name) || isTemporary(to) || isTemporary(from));
  if (isRename && copy.state === 'tallied') {
    const here = await sizeAndTime(join(root, from));
    if (here && here.bytes !== copy.bytes)
      return { id: move.id, state: 'failed', problem: `${place.name}: ${from} was changed by somebody else: it stays` };
  }
  const moved = await moveFile({ root, from, to, links }, (path) => isCopy(path, isRename ? copy : undefined));
  if (moved === 'moved' && isRename && copy.hasSidecar) await moveSidecar(place, from, to);
  return outcomeOf(move, moved, place);
}

/** Where only the new name stands, a run that died has moved it: if it is that file. */
async function isCopy(path: string, copy: CopyRow | undefined): Promise<boolean> {
  if (!copy) return true;
  const here = await sizeAndTime(path);
  if (here?.bytes !== copy.bytes) return false;
  return copy.quickHash === null || (await fastIdentityOf(path, here.bytes)).equals(copy.quickHash);
}

/** What we wrote beside a file goes with it; whatever stands in its way stays, and the next round of credit writes it anew. */
async function moveSidecar({ root, links }: Place, from: string, to: string): Promise<void> {
  await moveFile({ root, from: sidecarOf(from), to: sidecarOf(to), links }, () => Promise.resolve(true));
}

/** A copy leaves its place once it tallies where it goes; only the very file that was filed, with the sidecar that we wrote. */
async function leave(place: Place, move: MoveRow, copy: CopyRow | undefined): Promise<Outcome> {
  if (!copy) return { id: move.id, state: 'void', problem: null };
  const path = pathIn(copy.folder, copy.name);
  const here = await sizeAndTime(join(place.root, path));
  if (!here) return { id: move.id, state: 'done', problem: null };
  const expected = {
    pathBytes: Buffer.from(path),
    bytes: copy.bytes,
    modifiedAt: here.modifiedAt,
    quickHash: copy.quickHash!,
  };
  const sidecar = join(place.root, sidecarOf(path));
  const stays = async (): Promise<string | null> => {
    if (copy.quickHash === null) return 'it was never read';
    if (copy.hasSidecar && !(await isOurSidecar(sidecar, copy.sidecarHash))) return 'somebody else changed its sidecar';
    return removeFile(place.root, expected);
  };
  const why = await stays();
  if (why !== null) return { id: move.id, state: 'failed', problem: `${place.name}: ${path} stays: ${why}` };
  if (copy.hasSidecar) await removeSidecar(sidecar, copy.sidecarHash);
  return { id: move.id, state: 'done', problem: null };
}

/** Once nothing of a mend waits at a place, what explains the files there follows, and folders that were left go. */
async function afterwards(house: House, place: Place, mendId: number): Promise<void> {
  const left = await movesLeft(house.db, [mendId]);
  if (left.some(({ placeId, waiting }) => placeId === place.id && waiting > 0)) return;
  const moves = (await movesOf(house.db, mendId)).filter(({ placeId, state }) => placeId === place.id && state === 'done');
  const files = moves.filter(({ what }) => what === 'file');
  const folders = moves.filter(({ what }) => what === 'folder');
  const outOf = new Set([...files, ...moves.filter(({ what }) => what === 'leaves')].map(({ fromPath }) => folderOf(fromPath)));
  const copies = await copiesOfFiled(
    house.db,
    place.id,
    files.flatMap(({ filedItemId }) => filedItemId ?? []),
  );
  const touched = [...new Set([...outOf, ...copies.map(({ folder }) => folder)])];
  const lists = await listsIn(house.db, place.id, touched);
  await clearLists(house, place, outOf, lists);
  for (const { fromPath } of folders) await removeEmptyUpwards(place.root, folderOf(fromPath));
  const below = await Promise.all(folders.map(({ toPath }) => listsBelow(house.db, toPath)));
  await folderDue(
    house.db,
    [...lists, ...below.flat()].flatMap(({ folder, intakes }) =>
      intakes.map((intakeId) => ({ intakeId, folder, placeId: place.id })),
    ),
  );
}

/** Whatever any place that is here has to do, in whichever process gets to it first. */
export async function carryOutAll(house: House, signal: AbortSignal): Promise<number> {
  let made = 0;
  const here = new Set((await placesStanding(house)).flatMap(({ id, standing }) => (standing.online ? [id] : [])));
  for (const placeId of await placesMoving(house.db))
    if (here.has(placeId))
      await house.locks.hold('mending', placeId, signal, async (inner) => {
        made += await carryOutAt(house, placeId, inner);
      });
  await settleMends(house);
  return made;
}

/** Says of mends of which nothing waits any more what became of them. */
async function settleMends(house: House): Promise<void> {
  for (const id of await mendsToSettle(house.db)) {
    const problems = (await movesLeft(house.db, [id])).flatMap(({ failed, problem }) => (failed ? [problem ?? ''] : []));
    await inTransaction(house.db, async (tx) => {
      const mend = await mendById(tx, id);
      if (mend?.state !== 'doing') return;
      await setMendState(tx, id, problems.length ? 'needs attention' : 'done');
      const text = problems.length
        ? `Not everything of a mend could be done: ${problems.join('; ')}.`
        : `Done everywhere: ${mend.words}.`;
      await record(tx, { at: house.clock(), kind: 'mend', intakeId: null, who: null, text, data: { mend: id } });
      await tell(tx, { type: 'drive', placeId: '' });
    });
  }
}
