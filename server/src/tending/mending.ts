import type { MendAnswer, MendAsk, MendPlan } from '@tally/contract';
import { inTurn, isAside, isHalfMade, isOurs, temporaryName } from '@tally/core/drive';
import { sidecarOf } from '@tally/core/fields';
import { foldName, folderOf, nameOf, pathIn } from '@tally/core/rule';
import { type Db, inTransaction } from '../db/database.js';
import { holdUntilEnd } from '../db/locks.js';
import { setStands } from '../crediting/index.js';
import { folderDue } from '../proving/index.js';
import { askCopiesAgain, type NewName, renameFiled, wishCopies } from '../filing/index.js';
import { advanceNumbers, type House, lockIntake, nextNumbers, record, Refusal, tell } from '../house/index.js';
import { correctFiled, refreshTotals, touchItems } from '../seeing/index.js';
import type { SaidBefore } from '../db/entities/tending.js';
import { type Drawn, type Draft, drawn, type Here, placesHere, placesOfCopies, type SaidChange } from './draft.js';
import { draftFor } from './drafting.js';
import { groupedBy } from './grouped.js';
import { foundNoMore } from './store/findings.js';
import { filedAtNow, filedBelow, holdFiled, listsIn, saidNow } from './store/known.js';
import {
  addMend,
  addMoves,
  beingEmptied,
  beingMoved,
  mendById,
  movesOf,
  type MoveRow,
  namesBefore,
  type NewMove,
  retryMoves,
} from './store/mends.js';

const TRIES = 4;

/** What a mend would do. Nothing is written. */
export async function planMend(house: House, ask: MendAsk): Promise<MendPlan> {
  return (await drawn(house, await draftFor(house, ask))).plan;
}

/**
 * Begins what the plan with this seal shows: all new names are promised in one transaction, and what each place has to do
 * is written down; then places follow, those that are away when they are back. If the plan is another one by now, nothing
 * happens and that plan is the answer.
 */
export async function beginMend(house: House, ask: MendAsk, seal: string, who: string): Promise<MendAnswer> {
  for (let tries = 0; tries < TRIES; tries++) {
    const draft = await drawn(house, await draftFor(house, ask));
    if (draft.plan.seal !== seal) return { outcome: 'changed', plan: draft.plan };
    const id = await begin(house, draft, who);
    if (id !== null) return { outcome: 'begun', id };
  }
  throw new Refusal('conflict', 'Others are changing the same files just now. Nothing was begun: look at the plan again.');
}

/** Carries out a draft that nobody needs to be shown. @returns the mend's id. @throws Refusal when something is in its way. */
export async function mendNow(house: House, draft: Draft, who: string): Promise<number> {
  const id = await begin(house, await drawn(house, draft), who);
  if (id === null) throw new Refusal('conflict', 'Others are changing the same files just now. Nothing was begun.');
  return id;
}

/** @returns null when the logbook has them elsewhere by now, or others drew the same numbers. */
async function begin(house: House, draft: Drawn, who: string): Promise<number | null> {
  const [fault] = draft.plan.faults;
  if (fault) throw new Refusal('conflict', `${fault.path}: ${fault.why}. Nothing was begun.`);
  if (!draft.plan.items && !draft.folders.length)
    throw new Refusal('conflict', draft.plan.also[0] ?? 'There is nothing to mend: everything is called as it should be.');
  return inTransaction(house.db, (tx) => promised(house, tx, draft, who)).catch((error: unknown) => {
    // Somebody filed under one of these names a moment ago.
    if ((error as { code?: string }).code === '23505') return null;
    throw error;
  });
}

async function promised(house: House, tx: Db, draft: Drawn, who: string): Promise<number | null> {
  const at = house.clock();
  await holdUntilEnd(tx, 'mending', 0);
  const ids = draft.names.map(({ filedItemId }) => filedItemId);
  const intakes = [...new Set(draft.names.map(({ intakeId }) => intakeId))].sort((a, b) => a - b);
  for (const intakeId of intakes) await lockIntake(tx, intakeId);
  const now = new Map((await holdFiled(tx, ids)).map((one) => [one.filedItemId, one]));
  if (draft.names.some((one) => now.get(one.filedItemId)?.path !== pathIn(one.folder, one.name))) return null;
  if ([...now.values()].some(({ state }) => state === 'filing'))
    throw new Refusal('conflict', 'Some of these are being filed just now: wait until their copies tally.');
  if ((await beingMoved(tx, ids, placesHere(draft.places))).length)
    throw new Refusal('conflict', 'Another mend is moving some of these just now.');
  if ((await beingEmptied(tx, ids)).length)
    throw new Refusal('conflict', 'Some of these are being removed from the tray for good just now.');
  // What was filed into a folder since stays where it is: the folder cannot go as a whole.
  for (const { from } of draft.folders)
    if ((await filedBelow(tx, from)) !== draft.names.filter(({ folder }) => isIn(folder, from)).length) return null;
  if (!(await drawNumbers(tx, draft))) return null;
  const before = draft.said?.length ? withSaid(await correctFiled(tx, draft.said), draft.said) : null;
  const mendId = await addMend(tx, {
    ...{ kind: draft.kind, words: draft.words, who, at, items: draft.plan.items, takesBack: draft.takesBack ?? null },
    ...{ keptUntil: draft.keptUntil ?? null, before },
  });
  await renameFiled(tx, mendId, at, draft.names.map(newName));
  // Copies that are being made since the draft was drawn get their new names, too.
  await addMoves(tx, mendId, movesFor({ ...draft, placesOf: await placesOfCopies(tx, ids) }, mendId));
  for (const [placeId, some] of groupedBy(draft.wish ?? [], (one) => one.placeId))
    await wishCopies(
      tx,
      some.map(({ filedItemId }) => filedItemId),
      placeId,
    );
  if (draft.again?.length) await askCopiesAgain(tx, draft.again);
  await dueAnew(tx, draft);
  await dueWhereDone(tx, draft);
  if (draft.toPlace)
    await wishCopies(
      tx,
      draft.toPlace.files.map(({ id }) => id),
      draft.toPlace.to,
    );
  if (draft.findings?.length) await foundNoMore(tx, draft.findings);
  for (const intakeId of intakes) {
    await touchItems(tx, intakeId);
    await refreshTotals(tx, intakeId);
    await tell(tx, { type: 'items', intakeId });
    await record(tx, { at, kind: 'mend', intakeId, who, text: `${draft.words}.`, data: { mend: mendId } });
  }
  if (!intakes.length)
    await record(tx, { at, kind: 'mend', intakeId: null, who, text: `${draft.words}.`, data: { mend: mendId } });
  for (const { id } of draft.places) await tell(tx, { type: 'drive', placeId: id });
  return mendId;
}

/** What explains some folders is due at a place; a sidecar that is to be written anew is known no more. */
async function dueAnew(tx: Db, { anew = [] }: Drawn): Promise<void> {
  for (const [placeId, some] of groupedBy(anew, (one) => one.placeId)) {
    const sidecars = some.flatMap(({ sidecarsOf }) => sidecarsOf);
    await setStands(
      tx,
      sidecars.map((filedItemId) => ({ filedItemId, placeId, version: 0 })),
    );
    await listsDue(
      tx,
      placeId,
      some.map(({ folder }) => folder),
    );
  }
}

/** Where names were given by hand nobody carries anything out: what explains the files there is due at once. */
async function dueWhereDone(tx: Db, { doneAt: placeId, names }: Drawn): Promise<void> {
  if (placeId === undefined) return;
  const folders = [...new Set(names.flatMap(({ listFolder, toList }) => [listFolder, toList]))];
  await listsDue(tx, placeId, folders);
}

/** What explains folders is due, of every intake that has something in them. */
async function listsDue(tx: Db, placeId: string, folders: readonly string[]): Promise<void> {
  const lists = await listsIn(tx, placeId, folders);
  await folderDue(
    tx,
    lists.flatMap(({ folder, intakes }) => intakes.map((intakeId) => ({ intakeId, folder, placeId }))),
  );
}

const isIn = (folder: string, above: string) => folder === above || folder.startsWith(`${above}/`);

/** What was said before, with what is said instead: whoever takes it back overwrites nothing that was said later. */
function withSaid(before: readonly SaidBefore[], said: readonly SaidChange[]): SaidBefore[] {
  const now = new Map(said.map(({ itemId, ...lines }) => [itemId, lines]));
  return before.map((one) => ({ ...one, set: now.get(one.itemId) ?? {} }));
}

/** Holds the counters. @returns false when others drew from them since the draft was made. */
async function drawNumbers(tx: Db, { numbers = [] }: Drawn): Promise<boolean> {
  if (!numbers.length) return true;
  const scopes = numbers.map(({ scope }) => scope);
  const now = await nextNumbers(tx, scopes, true);
  if (numbers.some(({ scope, first }) => (now.get(scope) ?? 0) > first)) return false;
  await advanceNumbers(tx, numbers);
  return true;
}

const newName = ({ filedItemId, to, toList, toN }: Drawn['names'][number]): NewName => ({
  ...{ filedItemId, folder: folderOf(to), name: nameOf(to), listFolder: toList, n: toN },
});

/** What each place has to do: folders first, then files in their turn, then what is done there alone. */
function movesFor(draft: Drawn, mendId: number): NewMove[] {
  const state = (placeId: string) => (placeId === draft.doneAt ? ('done' as const) : ('waiting' as const));
  const moves: NewMove[] = [];
  const placesOfAll = new Set([...draft.placesOf.values()].flat());
  for (const { from, to } of draft.folders) {
    const below = draft.names.filter(({ folder }) => isIn(folder, from));
    const holders = new Set(below.flatMap(({ filedItemId }) => draft.placesOf.get(filedItemId) ?? []));
    // A folder of strays only is renamed wherever it may stand.
    for (const { id } of draft.places)
      if (holders.has(id) || (!below.length && draft.whole) || (draft.whole && placesOfAll.has(id)))
        moves.push({ placeId: id, what: 'folder', filedItemId: null, fromPath: from, toPath: to, state: state(id) });
  }
  const turns = inTurn(draft.rest, (n) => temporaryName(mendId, n));
  for (const { filedItemId, from, to } of turns)
    for (const placeId of draft.placesOf.get(filedItemId!) ?? [])
      moves.push({ placeId, what: 'file', filedItemId, fromPath: from, toPath: to, state: state(placeId) });
  for (const { placeId, what, filedItemId, from, to } of draft.here ?? [])
    moves.push({ placeId, what, filedItemId, fromPath: from, toPath: to, state: 'waiting' });
  const { toPlace } = draft;
  if (toPlace && toPlace.from !== null)
    for (const { id, path } of toPlace.files)
      moves.push({
        placeId: toPlace.from,
        what: 'leaves',
        filedItemId: id,
        fromPath: path,
        toPath: toPlace.to,
        state: 'waiting',
      });
  return moves;
}

/** How a mend is taken back: the same names the other way, as long as nothing else came in between. */
export async function planTakingBack(house: House, id: number): Promise<MendPlan> {
  return (await drawn(house, await backDraft(house, id))).plan;
}

export async function takeBack(house: House, id: number, who: string): Promise<number> {
  return mendNow(house, await backDraft(house, id), who);
}

async function backDraft(house: House, id: number): Promise<Draft> {
  const { db } = house;
  const mend = await mendById(db, id);
  if (!mend) throw new Refusal('not found', 'There is no such mend.');
  if (mend.takesBack !== null) throw new Refusal('conflict', 'This took something back itself: mend it again instead.');
  if (mend.emptyingAt && !mend.emptiedAt)
    throw new Refusal('conflict', 'What was put aside is being removed for good just now: it cannot be taken back.');
  if (mend.emptiedAt) throw new Refusal('conflict', 'What was put aside was removed for good.');
  const moves = await movesOf(db, id);
  const rows = await namesBefore(db, id);
  const faults: { path: string; why: string }[] = [];
  const wentTo = new Map(moves.filter(({ what }) => what === 'file').map(({ filedItemId, toPath }) => [filedItemId, toPath]));
  const folders = moves.filter(({ what, filedItemId }) => what === 'folder' && filedItemId === null);
  const names = rows.map((row): Draft['names'][number] => {
    const by = folders.find(({ fromPath }) => row.was === fromPath || row.was.startsWith(`${fromPath}/`));
    const went = by ? `${by.toPath}${row.was.slice(by.fromPath.length)}` : wentTo.get(row.filedItemId);
    if (went !== undefined && foldName(went) !== foldName(row.now))
      faults.push({ path: row.now, why: 'it was renamed again since' });
    const kept = row.folder === row.listFolder ? '' : row.folder.slice(row.listFolder.length);
    const list = folderOf(row.was).slice(0, folderOf(row.was).length - kept.length);
    return {
      ...{
        filedItemId: row.filedItemId,
        itemId: 0,
        intakeId: row.intakeId,
        folder: row.folder,
        listFolder: row.listFolder,
        n: null,
      },
      ...{ name: nameOf(row.now), to: row.was, toList: list, toN: row.n },
    };
  });
  const renamed = new Set(rows.map(({ filedItemId }) => filedItemId));
  const writtenAnew = await ownAmong(db, moves);
  const here = moves
    .filter(
      ({ what, filedItemId, state }) =>
        state === 'done' && what !== 'leaves' && what !== 'empty folder' && (filedItemId === null || !renamed.has(filedItemId)),
    )
    .filter((move) => !writtenAnew.has(move))
    .filter(({ what, fromPath }) => what !== 'folder' || !rows.some(({ was }) => was.startsWith(`${fromPath}/`)))
    .map(({ placeId, what, filedItemId, fromPath, toPath }): Here => ({
      ...{ placeId, filedItemId, from: toPath, to: fromPath },
      what: what as Here['what'],
    }))
    .reverse();
  const leaves = moves.filter(({ what }) => what === 'leaves');
  const { said, also } = await saidBack(db, mend.before ?? []);
  const whole = wholeFolders(moves, rows.length > 0);
  if (!names.length && !here.length && !leaves.length && !said.length && !whole.length)
    throw new Refusal('conflict', 'Nothing of this mend can be taken back.');
  return {
    ...{ kind: 'take back', words: `Taken back: ${mend.words}`, names, here, faults, also, takesBack: id },
    ...(said.length ? { said } : {}),
    ...(whole.length ? { whole } : {}),
    ...(leaves[0]
      ? {
          toPlace: {
            files: leaves.flatMap(({ filedItemId: id, fromPath: path }) => (id === null ? [] : [{ id, path }])),
            from: leaves[0].toPath,
            to: leaves[0].placeId,
          },
        }
      : {}),
  };
}

/** What was put aside because it was spoilt, and was written anew since: that stays. */
async function ownAmong(db: Db, moves: readonly MoveRow[]): Promise<Set<MoveRow>> {
  const strays = moves.filter(({ filedItemId, toPath }) => filedItemId === null && isAside(toPath));
  const own = new Set(strays.filter(({ fromPath }) => isOurs(fromPath) && !isHalfMade(fromPath)));
  const sidecars = strays.filter(({ fromPath }) => fromPath.endsWith(SIDECAR));
  for (const [placeId, some] of groupedBy(sidecars, (one) => one.placeId)) {
    const of = ({ fromPath }: MoveRow) => fromPath.slice(0, -SIDECAR.length);
    const filed = new Set(await filedAtNow(db, placeId, some.map(of)));
    for (const one of some) if (filed.has(of(one))) own.add(one);
  }
  return own;
}

const SIDECAR = sidecarOf('');

const LINES = { contributorId: 'contributor', assignmentId: 'assignment', capturedLocal: 'time' } as const;
type Line = keyof typeof LINES;

/** What a mend said is said no more, where it is what is said still: what somebody said since stays, and is told. */
async function saidBack(db: Db, before: readonly SaidBefore[]): Promise<{ said: SaidChange[]; also: string[] }> {
  const now = new Map(
    (
      await saidNow(
        db,
        before.map(({ itemId }) => itemId),
      )
    ).map((one) => [one.itemId, one]),
  );
  const kept = new Map<Line, number>();
  const said: SaidChange[] = [];
  for (const { set, ...was } of before) {
    const lines = (Object.keys(LINES) as Line[]).filter((line) => {
      if (set === undefined) return true;
      if (set[line] === undefined) return false;
      const isSo = now.get(was.itemId)?.[line] === set[line];
      if (!isSo) kept.set(line, (kept.get(line) ?? 0) + 1);
      return isSo;
    });
    if (lines.length) said.push({ itemId: was.itemId, ...Object.fromEntries(lines.map((line) => [line, was[line]])) });
  }
  const also = [...kept].map(
    ([line, count]) => `The ${LINES[line]} of ${count} ${count === 1 ? 'file' : 'files'} was said anew since: it stays.`,
  );
  return { said, also };
}

/** Folders that were renamed as a whole, the other way. */
function wholeFolders(
  moves: readonly { what: string; fromPath: string; toPath: string; filedItemId: number | null }[],
  named: boolean,
) {
  if (!named || moves.some(({ what }) => what === 'file')) return [];
  const pairs = new Map(moves.filter(({ what }) => what === 'folder').map(({ fromPath, toPath }) => [toPath, fromPath]));
  return [...pairs].map(([from, to]) => ({ from, to }));
}

/** What could not be done is tried again. */
export async function tryMendAgain(house: House, id: number): Promise<void> {
  await inTransaction(house.db, async (tx) => {
    if (!(await mendById(tx, id))) throw new Refusal('not found', 'There is no such mend.');
    if (!(await retryMoves(tx, id))) throw new Refusal('conflict', 'Nothing of this mend waits to be tried again.');
  });
}
