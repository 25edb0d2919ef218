import { isAside } from '@tally/core/drive';
import { sidecarOf } from '@tally/core/fields';
import { folderOf } from '@tally/core/rule';
import { join } from 'node:path';
import { inTransaction } from '../db/database.js';
import { stands } from '../drive/final-name.js';
import { fastIdentityOf, hashFile } from '../drive/hashing.js';
import { removeEmptyUpwards, sizeAndTime } from '../drive/move-file.js';
import { standingOf } from '../drive/place.js';
import { removeFile } from '../drive/remove-file.js';
import { removeSidecar } from '../drive/sidecar-file.js';
import { everythingBelow } from '../drive/walk.js';
import { placesStanding, type StandingPlace } from '../driving/index.js';
import { dropCopies, forgetFiled } from '../filing/index.js';
import { type House, houseTime, record, tell } from '../house/index.js';
import { refreshTotals } from '../seeing/index.js';
import { copiesOfFiled, type CopyRow, filedAtNow, holdFiled, listsIn } from './store/known.js';
import { clearLists } from './own-lists.js';
import { groupedBy } from './grouped.js';
import {
  type MendRow,
  movesOf,
  type MoveRow,
  movesPendingFrom,
  type PendingMoves,
  pendingOfItems,
  setEmptied,
  setEmptying,
  trayBegun,
  trayOver,
} from './store/mends.js';
import { listAgain } from './store/stood.js';

/** What emptying the tray comes to. */
export interface Emptied {
  readonly mends: number;
  readonly files: number;
  /** Why something stays, in words. */
  readonly stays: readonly string[];
}

const NEVER = new AbortController().signal;

/**
 * Removes for good what was put aside and whose days are over, at places that are all here. Only what lies in the tray now, is
 * what was put there (by all its bytes), and is not to be moved out of it; what is filed is forgotten when its last copy is gone.
 * That it begins is written down first: whoever dies in the middle is followed by a sweep. @param dry nothing is removed.
 */
export async function emptyTray(house: House, who: string, dry = false, signal: AbortSignal = NEVER): Promise<Emptied> {
  const today = houseTime(house, house.clock()).slice(0, 10);
  return emptied(house, await trayOver(house.db, today), who, dry, signal);
}

/** Ends what somebody began to remove and did not end. */
export async function goOnEmptying(house: House, signal: AbortSignal): Promise<void> {
  const begun = await trayBegun(house.db);
  if (begun.length) await emptied(house, begun, 'the house', false, signal);
}

async function emptied(house: House, over: readonly MendRow[], who: string, dry: boolean, signal: AbortSignal): Promise<Emptied> {
  const places = new Map((await placesStanding(house)).map((place) => [place.id, place]));
  const named = (ids: Iterable<string>) => [...ids].map((id) => places.get(id)?.name ?? id).join(' and ');
  const stays: string[] = [];
  let [mends, files] = [0, 0];
  for (const mend of over) {
    const moves = (await movesOf(house.db, mend.id)).filter(
      ({ what, toPath, state }) => (what === 'file' || what === 'folder') && state === 'done' && isAside(toPath),
    );
    const concerned = [...new Set(moves.map(({ placeId }) => placeId))].sort();
    const away = concerned.filter((id) => !places.get(id)?.standing.online);
    if (away.length) {
      stays.push(`What was put aside by mend ${mend.id} waits for ${named(away)}.`);
      continue;
    }
    const emptying = new Emptying(house, places, mend, moves, who);
    const held = dry ? await emptying.count().then(() => true) : await holdPlaces(house, concerned, signal, () => emptying.run());
    if (!held) stays.push(`What was put aside by mend ${mend.id} waits: ${named(concerned)} is busy just now.`);
    else mends++;
    files += emptying.files;
    stays.push(...emptying.stays);
  }
  return { mends, files, stays };
}

/** Holds several places, in the order of their ids. @returns false when one of them did not come free in time. */
async function holdPlaces(house: House, ids: readonly string[], signal: AbortSignal, run: () => Promise<void>): Promise<boolean> {
  const [first, ...others] = ids;
  if (first === undefined) {
    await run();
    return true;
  }
  let held = false;
  await house.locks.holdInTurn('place', first, signal, async (inner) => {
    held = await holdPlaces(house, others, inner, run);
  });
  return held;
}

/** One mend whose tray is emptied. */
class Emptying {
  files = 0;
  readonly stays: string[] = [];
  /** Copies that stand no more. */
  private removed: { filedItemId: number; placeId: string; how: 'removed' | 'not found' }[] = [];
  /** Items of which something stays somewhere. */
  private readonly kept = new Set<number>();

  constructor(
    private readonly house: House,
    private readonly places: ReadonlyMap<string, StandingPlace>,
    private readonly mend: MendRow,
    private readonly moves: readonly MoveRow[],
    private readonly who: string,
  ) {}

  private get ids(): number[] {
    return [...new Set(this.moves.flatMap(({ filedItemId }) => filedItemId ?? []))];
  }

  /** How many files would go. */
  async count(): Promise<void> {
    const lying = await this.lyingNow(this.house.db);
    for (const move of this.moves) {
      const { root } = this.places.get(move.placeId)!;
      if (move.what === 'folder') this.files += (await everythingBelow(root, move.toPath))[0].length;
      else if (this.isFile(move, lying)) this.files++;
    }
  }

  private isFile(move: MoveRow, lying: ReadonlySet<number>): boolean {
    return move.filedItemId === null || move.bytes !== null || lying.has(move.filedItemId);
  }

  /** Whoever calls holds the places. */
  async run(): Promise<void> {
    const { house, mend } = this;
    const lying = await inTransaction(house.db, async (tx) => {
      const now = await this.lyingNow(tx);
      await setEmptying(tx, mend.id, house.clock());
      return now;
    });
    for (const [placeId, some] of groupedBy(this.moves, (move) => move.placeId))
      await this.at(this.places.get(placeId)!, some, lying);
    await this.said(lying);
  }

  /** Filed items that lie where this mend put them, and that no mend is to move from there. */
  private async lyingNow(db: House['db']): Promise<Set<number>> {
    const put = new Map(this.moves.map(({ filedItemId, toPath }) => [filedItemId, toPath]));
    const here = (await holdFiled(db, this.ids)).filter(({ filedItemId, path }) => put.get(filedItemId) === path);
    const pending = new Set(
      await pendingOfItems(
        db,
        here.map(({ filedItemId }) => filedItemId),
      ),
    );
    return new Set(here.map(({ filedItemId }) => filedItemId).filter((id) => !pending.has(id)));
  }

  private async at(place: StandingPlace, moves: readonly MoveRow[], lying: ReadonlySet<number>): Promise<void> {
    const { house } = this;
    const paths = moves.map(({ toPath }) => toPath);
    const copies = new Map(
      (await copiesOfFiled(house.db, place.id, [...lying])).map((copy) => [copy.filedItemId, copy] as const),
    );
    const filed = new Set(await filedAtNow(house.db, place.id, paths));
    const pending = await movesPendingFrom(house.db, place.id, paths);
    for (const move of moves) {
      const { filedItemId, toPath } = move;
      if (move.what === 'folder') await this.folder(place, toPath, pending);
      else if (filedItemId !== null && lying.has(filedItemId)) await this.copy(place, move, copies.get(filedItemId));
      else if (pending.isTold(toPath)) this.stay(move, `${place.name}: ${toPath}: another mend is to move it`);
      else if (filed.has(toPath)) this.stay(move, `${place.name}: ${toPath}: it is filed there now`);
      else if (this.isFile(move, lying)) await this.stray(place, move);
    }
    // What was not found may be on a place that went away in this moment: nothing of it is forgotten. What was removed is.
    if (!(await standingOf(place, place.mark)).online) {
      for (const filedItemId of lying) this.kept.add(filedItemId);
      this.removed = this.removed.filter(({ placeId, how }) => placeId !== place.id || how === 'removed');
      this.stays.push(`What was put aside by mend ${this.mend.id} waits for ${place.name}.`);
      return;
    }
    const left = [...new Set(paths.map(folderOf))];
    await clearLists(house, place, left, await listsIn(house.db, place.id, left, [...lying]));
  }

  private stay({ filedItemId }: Pick<MoveRow, 'filedItemId'>, words: string): void {
    if (filedItemId !== null) this.kept.add(filedItemId);
    this.stays.push(words);
  }

  /** A filed copy goes when it is what was filed, to the byte. */
  private async copy(place: StandingPlace, move: MoveRow, copy: CopyRow | undefined): Promise<void> {
    if (!copy) return;
    const { toPath: path } = move;
    // One that was spoilt already is known by what it was when it was put there.
    if (copy.state !== 'tallied' && move.bytes !== null) {
      const end = await this.stray(place, move);
      if (end === 'stays') this.kept.add(copy.filedItemId);
      else this.removed.push({ filedItemId: copy.filedItemId, placeId: place.id, how: end });
      return;
    }
    const file = join(place.root, path);
    const here = await sizeAndTime(file);
    const why = async (): Promise<string | null> => {
      if (!here) return null;
      if (copy.state !== 'tallied' || !copy.hash || !copy.quickHash) return 'it is not what was filed';
      if (here.bytes !== copy.bytes || !(await hashFile(file)).equals(copy.hash)) return 'it is not what was put aside';
      const stays = await removeFile(place.root, { ...here, pathBytes: Buffer.from(path), quickHash: copy.quickHash });
      if (stays === null) this.files++;
      return stays;
    };
    const words = await why();
    if (words !== null) {
      this.stay(copy, `${place.name}: ${path}: ${words}`);
      return;
    }
    const sidecar = sidecarOf(path);
    if (copy.hasSidecar && !(await removeSidecar(join(place.root, sidecar), copy.sidecarHash)))
      this.stays.push(`${place.name}: ${sidecar}: somebody else changed it`);
    this.removed.push({ filedItemId: copy.filedItemId, placeId: place.id, how: here ? 'removed' : 'not found' });
  }

  /** What nobody filed goes when it is what was put there. */
  private async stray(
    place: StandingPlace,
    { toPath: path, bytes, quickHash }: MoveRow,
  ): Promise<'removed' | 'not found' | 'stays'> {
    const here = await sizeAndTime(join(place.root, path));
    if (!here) return 'not found';
    const now = await fastIdentityOf(join(place.root, path), here.bytes);
    const isIt = bytes === null || quickHash === null || (here.bytes === bytes && now.equals(quickHash));
    const why = isIt
      ? await removeFile(place.root, { ...here, pathBytes: Buffer.from(path), quickHash: now })
      : 'it is not what was put aside';
    if (why === null) this.files++;
    else this.stays.push(`${place.name}: ${path}: ${why}`);
    return why === null ? 'removed' : 'stays';
  }

  private async folder(place: StandingPlace, folder: string, pending: PendingMoves): Promise<void> {
    const { root, name } = place;
    const [paths, folders] = await everythingBelow(root, folder);
    const filed = new Set(await filedAtNow(this.house.db, place.id, paths));
    for (const path of paths) {
      if (filed.has(path)) this.stays.push(`${name}: ${path}: it is filed there now`);
      else if (pending.isTold(path)) this.stays.push(`${name}: ${path}: another mend is to move it`);
      else await this.stray(place, { toPath: path, bytes: null, quickHash: null } as MoveRow);
    }
    for (const one of folders) await removeEmptyUpwards(root, one);
    if (await stands(join(root, folder))) this.stays.push(`${name}: ${folder}: something stays in it`);
  }

  private async said(lying: ReadonlySet<number>): Promise<void> {
    const { house, mend, files } = this;
    const at = house.clock();
    await inTransaction(house.db, async (tx) => {
      const gone = (await holdFiled(tx, [...lying])).filter(({ filedItemId }) => !this.kept.has(filedItemId));
      const forgotten = new Set(gone.map(({ filedItemId }) => filedItemId));
      await dropCopies(
        tx,
        this.removed.filter(({ filedItemId }) => !forgotten.has(filedItemId)),
      );
      await forgetFiled(tx, [...forgotten]);
      for (const intakeId of new Set(gone.map((row) => row.intakeId))) {
        await refreshTotals(tx, intakeId);
        await tell(tx, { type: 'items', intakeId });
      }
      if (this.stays.length) await setEmptying(tx, mend.id, null);
      else await setEmptied(tx, mend.id, at);
      for (const { placeId, toPath } of this.moves) await listAgain(tx, placeId, [folderOf(toPath)]);
      if (!files && !gone.length) return;
      const text = files
        ? `${files} ${files === 1 ? 'file that was' : 'files that were'} put aside ${files === 1 ? 'was' : 'were'} removed for good.`
        : `What was put aside was removed for good by a run that died: ${gone.length} ${gone.length === 1 ? 'item' : 'items'}.`;
      await record(tx, { at, kind: 'tray emptied', intakeId: null, who: this.who, text, data: { mend: mend.id } });
    });
  }
}
