import { explainedBy } from '@tally/core/drive';
import { folderOf } from '@tally/core/rule';
import { inTransaction } from '../db/database.js';
import { codeOf } from '../drive/list-card.js';
import { flushMoved, removeEmptyUpwards } from '../drive/move-file.js';
import { standingOf } from '../drive/place.js';
import { abilitiesOf, placesStanding } from '../driving/index.js';
import { dropCopies } from '../filing/index.js';
import { type House, record, tell } from '../house/index.js';
import { folderDue, forgetWrittenBelow } from '../proving/index.js';
import type { Place } from './looking.js';
import { Carrier, type Outcome } from './one-move.js';
import { clearLists } from './own-lists.js';
import { copiesOfFiled, listsBelow, listsIn } from './store/known.js';
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

/**
 * Does at a place what mends want of it, in their order, a batch at a time while it holds the place. Nothing is replaced; a
 * file that is not what it was filed as stays where it is, and says so. Safe to be killed at any moment and called again.
 * @returns how many moves were made.
 */
export async function carryOutAt(house: House, placeId: string, outer: AbortSignal): Promise<number> {
  let made = 0;
  for (let goesOn = true; goesOn && !outer.aborted;) {
    goesOn = false;
    await house.locks.holdInTurn('place', placeId, outer, async (signal) => {
      const places = await placesStanding(house);
      const found = places.find(({ id }) => id === placeId);
      if (!found?.standing.online) return;
      const here = places.flatMap(({ id, standing }) => (standing.online ? [id] : []));
      const waiting = await movesWaiting(house.db, placeId, here, BATCH);
      if (!waiting.length) return;
      const carrier = new Carrier(house, { ...found, ...(await abilitiesOf(found)) }, places);
      const done = await carryOut(house, carrier, inOneMend(waiting), signal);
      made += done;
      goesOn = done > 0;
    });
  }
  return made;
}

/** Moves of one mend only: the next one may build upon what this one leaves. */
const inOneMend = (moves: readonly MoveRow[]) => moves.filter(({ mendId }) => mendId === moves[0]!.mendId);

async function carryOut(house: House, carrier: Carrier, moves: readonly MoveRow[], signal: AbortSignal): Promise<number> {
  const { place } = carrier;
  const ids = moves.flatMap(({ filedItemId }) => filedItemId ?? []);
  const copies = new Map((await copiesOfFiled(house.db, place.id, ids)).map((row) => [row.filedItemId, row]));
  const outcomes: Outcome[] = [];
  for (const move of moves) {
    if (signal.aborted) break;
    const copy = move.filedItemId === null ? undefined : copies.get(move.filedItemId);
    const outcome = await carrier.one(move, copy).catch((error: unknown) => failure(place, move, error));
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

/** @returns null when the place itself is not there any more: then the move waits for it. */
async function failure(place: Place, move: MoveRow, error: unknown): Promise<Outcome | null> {
  if (!(await standingOf(place, place.mark)).online) return null;
  return {
    id: move.id,
    state: 'failed',
    problem: `${place.name}: ${move.fromPath || move.toPath} cannot be moved (${codeOf(error)})`,
  };
}

/** Once nothing of a mend waits at a place, what explains the files there follows, and folders that were left go. */
async function afterwards(house: House, place: Place, mendId: number): Promise<void> {
  const left = await movesLeft(house.db, [mendId]);
  if (left.some(({ placeId, waiting }) => placeId === place.id && waiting > 0)) return;
  const moves = (await movesOf(house.db, mendId)).filter(({ placeId, state }) => placeId === place.id && state === 'done');
  const files = moves.filter(({ what }) => what === 'file');
  const folders = moves.filter(({ what }) => what === 'folder');
  const outOf = new Set(
    [...files, ...moves.filter(({ what }) => what === 'leaves')].map(({ fromPath }) => explainedBy(folderOf(fromPath))),
  );
  const copies = await copiesOfFiled(
    house.db,
    place.id,
    files.flatMap(({ filedItemId }) => filedItemId ?? []),
  );
  const touched = [...new Set([...outOf, ...copies.map(({ folder }) => folder)])];
  const lists = await listsIn(house.db, place.id, touched);
  await clearLists(house, place, outOf, lists);
  for (const { fromPath } of folders) {
    await forgetWrittenBelow(house.db, place.id, fromPath);
    await removeEmptyUpwards(place.root, folderOf(fromPath));
  }
  const below = await Promise.all(folders.map(({ toPath }) => listsBelow(house.db, toPath)));
  const due = [...lists, ...below.flat()].flatMap(({ folder, intakes }) =>
    intakes.map((intakeId) => ({ intakeId, folder, placeId: place.id })),
  );
  await inTransaction(house.db, (tx) => folderDue(tx, due));
}

/** Whatever any place that is here has to do, in whichever process gets to it first. */
export async function carryOutAll(house: House, signal: AbortSignal): Promise<number> {
  const here = new Set((await placesStanding(house)).flatMap(({ id, standing }) => (standing.online ? [id] : [])));
  const moving = (await placesMoving(house.db)).filter((id) => here.has(id));
  // A place that is busy keeps no other waiting.
  const ends = await Promise.allSettled(moving.map((placeId) => carryOutAt(house, placeId, signal)));
  await settleMends(house);
  for (const end of ends) if (end.status === 'rejected') throw end.reason;
  return ends.reduce((sum, end) => sum + (end.status === 'fulfilled' ? end.value : 0), 0);
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
