import { isAside } from '@tally/core/drive';
import { sidecarOf } from '@tally/core/fields';
import { folderOf, pathIn } from '@tally/core/rule';
import { join } from 'node:path';
import { setStands } from '../crediting/index.js';
import { inTransaction } from '../db/database.js';
import { stands } from '../drive/final-name.js';
import { fastIdentityOf, hashFile } from '../drive/hashing.js';
import { type Moved, moveFile, moveFolder, sizeAndTime } from '../drive/move-file.js';
import { mustStillStand } from '../drive/place.js';
import { removeFile } from '../drive/remove-file.js';
import { isOurSidecar, removeSidecar } from '../drive/sidecar-file.js';
import type { StandingPlace } from '../driving/index.js';
import type { House } from '../house/index.js';
import type { Place } from './looking.js';
import { removeOwnLists } from './own-lists.js';
import { copiesOfFiled, type CopyRow } from './store/known.js';
import { versionsInside, versionStanding } from './versions-standing.js';
import { formerBelow, type MoveRow, othersBelow } from './store/mends.js';

/** What became of a move; `bytes`, `quickHash`: of what nobody filed and lies in the tray now. */
export interface Outcome extends Pick<MoveRow, 'id' | 'state' | 'problem'> {
  readonly bytes?: number;
  readonly quickHash?: Buffer;
}

/** A copy that nobody has made, or that is lost: that it does not stand there is no fault. */
const NOT_THERE: readonly CopyRow['state'][] = ['waiting', 'copying', 'missing'];
/** A proof that is older than this is made again before it is built upon. */
const PROOF_MS = 86_400_000;

/** Makes single moves at a place. Whoever calls holds the place. */
export class Carrier {
  constructor(
    private readonly house: House,
    readonly place: Place,
    private readonly places: readonly StandingPlace[],
  ) {}

  async one(move: MoveRow, copy: CopyRow | undefined): Promise<Outcome> {
    switch (move.what) {
      case 'leaves':
        return this.leave(move, copy);
      case 'empty folder':
        return this.emptyFolder(move);
      case 'folder':
        return this.folder(move);
      case 'file':
        return this.file(move, copy);
    }
  }

  private async emptyFolder({ id, fromPath: from }: MoveRow): Promise<Outcome> {
    await removeOwnLists(this.house, this.place.root, from);
    await mustStillStand(this.place);
    const gone = !(await stands(join(this.place.root, from)));
    return { id, state: gone ? 'done' : 'failed', problem: gone ? null : `${this.place.name}: something stands in ${from}` };
  }

  private async folder(move: MoveRow): Promise<Outcome> {
    const { root } = this.place;
    const { fromPath: from, toPath: to, mendId } = move;
    // What was promised into it since stays in it: only what the mend is about goes.
    if (await othersBelow(this.house.db, from, mendId)) return this.oneByOne(move);
    const moved = await moveFolder({ root, from, to, files: this.house.files });
    // A folder of that name came into being since, as by filing: what is filed goes into it, and nothing in it is replaced.
    if (moved === 'taken' && (await formerBelow(this.house.db, mendId, from)).length) return this.oneByOne(move);
    if (moved === 'gone') await mustStillStand(this.place);
    // A folder that is not at this place need not be renamed there.
    return moved === 'gone' ? { id: move.id, state: 'void', problem: null } : this.outcomeOf(move, moved);
  }

  private async oneByOne(move: MoveRow): Promise<Outcome> {
    const { fromPath: from, toPath: to, mendId } = move;
    const former = await formerBelow(this.house.db, mendId, from);
    const ids = former.map(({ filedItemId }) => filedItemId);
    const copies = new Map((await copiesOfFiled(this.house.db, this.place.id, ids)).map((row) => [row.filedItemId, row]));
    for (const { filedItemId, path } of former) {
      const copy = copies.get(filedItemId);
      if (!copy) continue;
      const rest = path.slice(from.length);
      const one = await this.file({ ...move, fromPath: path, toPath: `${to}${rest}` }, copy);
      if (one.state === 'failed') return one;
    }
    return { id: move.id, state: 'done', problem: null };
  }

  private async file(move: MoveRow, copy: CopyRow | undefined): Promise<Outcome> {
    const { root, links } = this.place;
    const { fromPath: from, toPath: to } = move;
    // What tallies is known by its bytes. What does not was looked at by whoever said that it goes.
    const known = copy?.state === 'tallied' ? copy : undefined;
    const ours: { version: number | null } = { version: null };
    const moved = await moveFile({ root, from, to, links, files: this.house.files }, async (path) => {
      if (await isCopy(path, known)) return true;
      if (known) ours.version = await this.versionOfOurs(path, known);
      return ours.version !== null;
    });
    if (moved === 'gone') await mustStillStand(this.place);
    if (moved === 'gone' && copy && NOT_THERE.includes(copy.state)) return { id: move.id, state: 'void', problem: null };
    if (moved === 'moved' && known?.hasSidecar) await this.sidecar(from, to);
    if (moved === 'moved' && known && ours.version !== null) await this.sayStands(known, ours.version);
    const outcome = this.outcomeOf(move, moved);
    return moved === 'moved' && !known && isAside(to) ? { ...outcome, ...(await this.identityOf(to)) } : outcome;
  }

  /** A run that died may have put credit into it, or taken some out, before it could say so: it is the same file. */
  private async versionOfOurs(path: string, copy: CopyRow): Promise<number | null> {
    const inside = await versionsInside(this.house, [copy]);
    return versionStanding(this.house, path, copy, inside.get(copy.filedItemId) ?? []);
  }

  /** The next round of credit brings it up to date. */
  private async sayStands({ filedItemId }: CopyRow, version: number): Promise<void> {
    await inTransaction(this.house.db, (tx) => setStands(tx, [{ filedItemId, placeId: this.place.id, version }]));
  }

  /** What is put aside and nobody filed is known by this when it is removed for good. */
  private async identityOf(path: string): Promise<Pick<Outcome, 'bytes' | 'quickHash'>> {
    const here = await sizeAndTime(join(this.place.root, path));
    return here ? { bytes: here.bytes, quickHash: await fastIdentityOf(join(this.place.root, path), here.bytes) } : {};
  }

  /** What we wrote beside a file goes with it; whatever stands in its way stays, and the next round of credit writes it anew. */
  private async sidecar(from: string, to: string): Promise<void> {
    const { root, links } = this.place;
    const { files } = this.house;
    await moveFile({ root, from: sidecarOf(from), to: sidecarOf(to), links, files }, () => Promise.resolve(true));
  }

  /** A copy leaves its place once it tallies where it goes; only the very file that was filed, with the sidecar that we wrote. */
  private async leave(move: MoveRow, copy: CopyRow | undefined): Promise<Outcome> {
    const { root, name } = this.place;
    if (!copy) return { id: move.id, state: 'void', problem: null };
    const path = pathIn(copy.folder, copy.name);
    const here = await sizeAndTime(join(root, path));
    if (!here) {
      await mustStillStand(this.place);
      return { id: move.id, state: 'done', problem: null };
    }
    const sidecar = join(root, sidecarOf(path));
    const stays = async (): Promise<string | null> => {
      if (copy.quickHash === null) return 'it was never read';
      const there = await this.standsAt(move.toPath, copy.filedItemId);
      if (there !== null) return there;
      if (copy.hasSidecar && !(await isOurSidecar(sidecar, copy.sidecarHash))) return 'somebody else changed its sidecar';
      return removeFile(root, {
        ...{ pathBytes: Buffer.from(path), bytes: copy.bytes, modifiedAt: here.modifiedAt },
        quickHash: copy.quickHash,
      });
    };
    const why = await stays();
    if (why !== null) return { id: move.id, state: 'failed', problem: `${name}: ${path} stays: ${why}` };
    if (copy.hasSidecar) await removeSidecar(sidecar, copy.sidecarHash);
    return { id: move.id, state: 'done', problem: null };
  }

  /** Does the copy at another place stand there still? What was proven long ago is read again. @returns why not. */
  private async standsAt(placeId: string, filedItemId: number): Promise<string | null> {
    const place = this.places.find(({ id }) => id === placeId);
    if (!place?.standing.online) return `${place?.name ?? placeId} is not here`;
    const [copy] = await copiesOfFiled(this.house.db, placeId, [filedItemId]);
    if (copy?.state !== 'tallied' || copy.moving || !copy.hash) return `its copy on ${place.name} does not tally`;
    const path = join(place.root, copy.folder, copy.name);
    if (!(await isCopy(path, copy))) return `its copy on ${place.name} is not there, or is another file`;
    const isOld = !copy.talliedAt || this.house.clock().getTime() - copy.talliedAt.getTime() > PROOF_MS;
    if (isOld && !(await hashFile(path)).equals(copy.hash)) return `its copy on ${place.name} has other bytes`;
    return null;
  }

  private outcomeOf(move: MoveRow, moved: Moved): Outcome {
    const { name } = this.place;
    const problem = {
      moved: null,
      gone: `${name}: ${move.fromPath} is not there any more`,
      taken: `${name}: something else stands at ${move.toPath}`,
      other: `${name}: ${move.fromPath} was changed by somebody else: it stays`,
      elsewhere: `${name}: a folder of ${move.fromPath} or ${folderOf(move.toPath) || 'the root'} is a link, and leads elsewhere`,
    }[moved];
    return { id: move.id, state: moved === 'moved' ? 'done' : 'failed', problem };
  }
}

/** Is it the file that a copy is known by? Where none is known, whatever it is. */
async function isCopy(path: string, copy: CopyRow | undefined): Promise<boolean> {
  if (!copy) return true;
  const here = await sizeAndTime(path);
  if (here?.bytes !== copy.bytes) return false;
  return copy.quickHash === null || (await fastIdentityOf(path, here.bytes)).equals(copy.quickHash);
}
