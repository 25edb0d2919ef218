import { join } from 'node:path';
import { applyTo, type Edit, intoSidecar, oneAfterAnother, reach, sidecarOf, type Insertion } from '@tally/core/fields';
import pLimit from 'p-limit';
import {
  copiesStanding,
  type CopyStands,
  creditPlan,
  editOf,
  insertionFor,
  keepVersions,
  keptEdit,
  type NewVersion,
  type Planned,
  setStands,
  type StandsAt,
  versionsOf,
} from '../crediting/index.js';
import { inTransaction } from '../db/database.js';
import { isFeasible } from '../drive/copy-file.js';
import { flushFolder, removeTemporary, sizeOf } from '../drive/final-name.js';
import { hashFile } from '../drive/hashing.js';
import { sizeAndTime } from '../drive/move-file.js';
import { codeOf } from '../drive/list-card.js';
import { type Abilities, mustStillStand, standingOf } from '../drive/place.js';
import { NotOurs, removeLeft, replaceFile, rewriteFile, type Rewritten } from '../drive/rewrite-file.js';
import { hashOf, nameSidecar, readSidecar, removeSidecar, writeSidecar } from '../drive/sidecar-file.js';
import type { StandingPlace } from '../driving/index.js';
import { markSpoilt } from '../filing/index.js';
import { type House, record } from '../house/index.js';
import type { BesideDue } from './store.js';

type Place = StandingPlace & Abilities;
const BATCH_ITEMS = 64;
/** Files over this size are rewritten two at once, smaller ones eight at once. */
const LARGE_BYTES = 1e6;
const TEMPORARY = '.tally-credit-';
/** What no other file of a place would be spared. */
const OF_THE_PLACE: readonly string[] = ['ENOSPC', 'EDQUOT', 'EROFS', 'ENODEV', 'ENXIO', 'ENOTCONN', 'ESTALE'];

/**
 * Brings what the files of an intake say of themselves up to what the house knows, in a folder at a place: in JPEGs, in
 * sidecars. Every file is written anew beside the old one, proven, and takes its name in one step; a file that somebody
 * else changed stays as it is. Whoever calls holds the folder. Safe to be killed at any moment and called again.
 * @returns what was left alone, in words.
 */
export async function bringUpToDate(
  house: House,
  { intakeId, folder }: Pick<BesideDue, 'intakeId' | 'folder'>,
  place: Place,
  signal: AbortSignal,
): Promise<string[]> {
  const first = await roundAt(house, intakeId, folder, place, signal);
  // What a run that died had done is known by now, and brought up to date like all else.
  return first.again ? [...first.left, ...(await roundAt(house, intakeId, folder, place, signal)).left] : first.left;
}

async function roundAt(
  house: House,
  intakeId: number,
  folder: string,
  place: Place,
  signal: AbortSignal,
): Promise<{ left: string[]; again: boolean }> {
  const planned = await creditPlan(house, intakeId);
  const behind = (await copiesStanding(house.db, intakeId, folder, place.id)).flatMap((copy) => {
    const plan = planned(copy.itemId);
    return plan && !isUpToDate(copy, plan) ? [{ copy, plan }] : [];
  });
  if (!behind.length) return { left: [], again: false };
  for (const path of new Set(behind.map(({ copy }) => copy.folder))) await removeLeft(join(place.root, path), TEMPORARY);
  const round = new Round(house, intakeId, place, signal);
  for (let from = 0; from < behind.length; from += BATCH_ITEMS) {
    signal.throwIfAborted();
    const batch = behind.slice(from, from + BATCH_ITEMS);
    const large = batch.reduce((sum, { copy }) => sum + copy.cardBytes, 0) > batch.length * LARGE_BYTES;
    await round.carryOut(batch, large ? 2 : 8);
  }
  // What one file is to blame for keeps no other waiting; it is tried again with what is due.
  if (round.failure !== null) throw round.failure;
  return { left: round.left, again: round.found > 0 };
}

const isUpToDate = (copy: CopyStands, plan: Planned): boolean =>
  plan.how === 'record only' ? copy.how === null : copy.fingerprint === plan.fingerprint;

interface Behind {
  readonly copy: CopyStands;
  readonly plan: Planned;
}

/** What was written under temporary names for one copy, proven, and waits for its names. */
interface Ready extends Behind {
  readonly file: Rewritten | null;
  readonly sidecar: { readonly temporary: string; readonly before: Buffer | null } | 'goes' | null;
  /** What is kept of it; null: nothing of ours stands there any more. */
  readonly version: NewVersion | null;
  readonly merged: Pick<StandsAt, 'hash' | 'bytes' | 'said' | 'questions'>;
}

class Round {
  /** What was left alone, in words. */
  readonly left: string[] = [];
  /** So many files turned out to be what a run that died had made of them. */
  found = 0;
  /** Why a file could not be brought up to date: the first one. */
  failure: Error | null = null;
  private differing: { filedItemId: number; placeId: string }[] = [];

  constructor(
    private readonly house: House,
    private readonly intakeId: number,
    private readonly place: Place,
    private readonly signal: AbortSignal,
  ) {}

  async carryOut(batch: readonly Behind[], lanes: number): Promise<void> {
    const limit = pLimit(lanes);
    const readied = await Promise.allSettled(batch.map((behind) => limit(() => this.ready(behind))));
    const ready = readied.flatMap((one) => (one.status === 'fulfilled' && one.value ? [one.value] : []));
    const failures = readied.flatMap((one) => (one.status === 'rejected' ? [one.reason as Error] : []));
    const ends = this.signal.aborted || (failures.length > 0 && !(await this.goesOnAfter(failures)));
    if (!ends) await this.name(ready);
    else for (const one of ready) await this.discard(one);
    await this.tellDiffering();
    if (ends) throw failures[0] ?? this.signal.reason;
    this.failure ??= failures[0] ?? null;
  }

  /** Is it the files that failed, and not the place? */
  private async goesOnAfter(failures: readonly Error[]): Promise<boolean> {
    if (failures.some((error) => OF_THE_PLACE.includes(codeOf(error)))) return false;
    return (await standingOf(this.place, this.place.mark)).online;
  }

  /** Writes what one copy is to be, under temporary names. @returns null when it is left alone. */
  private async ready({ copy, plan }: Behind): Promise<Ready | null> {
    this.signal.throwIfAborted();
    try {
      if (plan.how === 'inside') {
        const inside = await this.inside(copy, plan);
        if (typeof inside !== 'string') return inside;
        return await this.beside(copy, plan, inside);
      }
      if (plan.how === 'beside') return await this.beside(copy, plan, null);
      const sidecar = copy.how === 'beside' ? ('goes' as const) : null;
      return { copy, plan, file: await this.takenOut(copy), sidecar, version: null, merged: {} };
    } catch (error) {
      this.signal.throwIfAborted();
      if (!(error instanceof NotOurs)) throw error;
      return this.notOurs(copy, error.message);
    }
  }

  /** @returns words for why it has to be said beside it. */
  private async inside(copy: CopyStands, plan: Planned): Promise<Ready | string> {
    const put: { insertion: Insertion | null } = { insertion: null };
    const undo = copy.how === 'inside' ? editOf(copy.undo ?? []) : [];
    class Unfit extends Error {}
    try {
      const file = await this.rewritten(copy, (head) => {
        const original = applyTo(head, undo);
        const planned = insertionFor(plan, original);
        if (typeof planned === 'string') throw new Unfit(planned);
        const edit = oneAfterAnother(head.subarray(0, Math.max(reach(undo), headOf(planned.edit, undo))), undo, planned.edit);
        if (!isFeasible(edit)) throw new Unfit('what stands before its picture is too long');
        put.insertion = planned;
        return { edit, inside: planned };
      });
      const { edit: _edit, undo: out, questions } = put.insertion!;
      const version: NewVersion = {
        ...{ filedItemId: copy.filedItemId, how: 'inside', fingerprint: plan.fingerprint, reason: null, said: null },
        ...{ bytes: file.bytes, hash: file.hash, quickHash: file.quickHash, undo: keptEdit(out), questions },
      };
      return { copy, plan, file, sidecar: copy.how === 'beside' ? 'goes' : null, version, merged: {} };
    } catch (error) {
      if (error instanceof Unfit) return error.message;
      throw error;
    }
  }

  private async beside(copy: CopyStands, plan: Planned, reason: string | null): Promise<Ready> {
    const path = join(this.place.root, copy.folder, sidecarOf(copy.name));
    const pure = intoSidecar(null, null, plan.properties, plan.standing) as Exclude<ReturnType<typeof intoSidecar>, string>;
    const version: NewVersion = {
      ...{ filedItemId: copy.filedItemId, how: 'beside', fingerprint: plan.fingerprint, reason, undo: null },
      ...{ bytes: pure.bytes.length, hash: await hashOf(pure.bytes), quickHash: null, said: plan.properties, questions: [] },
    };
    const before = await readSidecar(path);
    const isSame = before !== null && typeof before !== 'string' && Buffer.compare(before, pure.bytes) === 0;
    const base = copy.how === 'beside' ? copy.said : null;
    const written = isSame
      ? pure
      : typeof before === 'string'
        ? before
        : intoSidecar(before, base, plan.properties, plan.standing);
    if (typeof written === 'string') {
      this.leave(copy, written);
      const none: NewVersion = { ...version, how: 'none', bytes: null, hash: null, said: null, reason: written };
      return { copy, plan, file: await this.takenOut(copy), sidecar: null, version: none, merged: {} };
    }
    const changed =
      before !== null && typeof before !== 'string' && copy.hash !== null && !(await hashOf(before)).equals(copy.hash);
    const file = await this.takenOut(copy);
    const temporary = this.temporaryOf(copy, 'xmp');
    const hash = await writeSidecar(temporary, written.bytes, this.house.files, this.signal);
    const merged = hash.equals(version.hash!) ? {} : { hash, bytes: written.bytes.length, said: written.base };
    if (changed && !isSame) this.leave(copy, 'somebody else changed its sidecar: what they wrote stays');
    return {
      ...{ copy, plan, file, version },
      sidecar: { temporary, before: before as Buffer | null },
      merged: { ...merged, questions: written.questions },
    };
  }

  /** The file as it was on the card, where something is inside it. */
  private takenOut(copy: CopyStands): Promise<Rewritten | null> {
    if (copy.how !== 'inside') return Promise.resolve(null);
    return this.rewritten(copy, () => ({ edit: editOf(copy.undo ?? []), inside: null }));
  }

  private rewritten(copy: CopyStands, plan: Parameters<typeof rewriteFile>[2]): Promise<Rewritten> {
    const isInside = copy.how === 'inside';
    const file = {
      path: join(this.place.root, copy.folder, copy.name),
      ...{ modifiedAt: copy.modifiedAt, original: copy.cardHash },
      ...{ bytes: isInside ? copy.bytes! : copy.cardBytes, hash: isInside ? copy.hash! : copy.cardHash },
    };
    const { house, place, signal } = this;
    return rewriteFile(file, this.temporaryOf(copy, 'file'), plan, { direct: place.direct, files: house.files, signal });
  }

  private readonly temporaryOf = (copy: CopyStands, what: string) =>
    join(this.place.root, copy.folder, `${TEMPORARY}${copy.filedItemId}-${what}.part`);

  /** The file is not what it was: a run that died may have replaced it already; else somebody else changed it. */
  private async notOurs(copy: CopyStands, why: string): Promise<null> {
    const path = join(this.place.root, copy.folder, copy.name);
    const known = await versionsOf(this.house.db, [copy.filedItemId]);
    const plain = { version: 0, how: 'inside', hash: copy.cardHash, bytes: copy.cardBytes };
    for (const { version, how, hash, bytes } of copy.how === 'inside' ? [...known, plain] : known) {
      if (how !== 'inside' || !hash || !(await standsAs(path, bytes!, hash))) continue;
      if (copy.how === 'beside') await this.takeSidecarAway(copy);
      await setStands(this.house.db, [{ filedItemId: copy.filedItemId, placeId: this.place.id, version }]);
      this.found++;
      return null;
    }
    this.leave(copy, why);
    this.differing.push({ filedItemId: copy.filedItemId, placeId: this.place.id });
    return null;
  }

  /** Keeps how everything comes out again, then gives the names, then says what stands. */
  private async name(ready: readonly Ready[]): Promise<void> {
    const { db } = this.house;
    const versions = await keepVersions(
      db,
      ready.flatMap(({ version }) => version ?? []),
    );
    const stands: StandsAt[] = [];
    for (const one of ready) {
      const { copy, version, merged } = one;
      const as = { filedItemId: copy.filedItemId, placeId: this.place.id };
      if (!(await this.named(one))) continue;
      const modifiedAt = version?.how === 'beside' ? await this.sidecarTime(copy) : null;
      stands.push({ ...as, version: version ? versions.get(copy.filedItemId)! : 0, ...merged, modifiedAt });
    }
    for (const folder of new Set(ready.map(({ copy }) => copy.folder))) await flushFolder(join(this.place.root, folder));
    await inTransaction(db, (tx) => setStands(tx, stands));
  }

  private async sidecarTime(copy: CopyStands): Promise<Date | null> {
    return (await sizeAndTime(join(this.place.root, copy.folder, sidecarOf(copy.name))))?.modifiedAt ?? null;
  }

  private async named({ copy, file, sidecar }: Ready): Promise<boolean> {
    const path = join(this.place.root, copy.folder, copy.name);
    try {
      if (sidecar && sidecar !== 'goes' && !(await nameSidecar(sidecar.temporary, sidecarOf(path), sidecar.before, this.place))) {
        this.leave(copy, 'a sidecar that somebody made stands there');
        if (file) await removeTemporary(file.temporary);
        return false;
      }
      if (file) await replaceFile(path, file);
      if (sidecar === 'goes') await this.takeSidecarAway(copy);
      return true;
    } catch (error) {
      if (!(error instanceof NotOurs)) throw error;
      this.leave(copy, error.message);
      return false;
    }
  }

  /** Only what we wrote and nobody changed goes. */
  private async takeSidecarAway(copy: CopyStands): Promise<void> {
    const path = join(this.place.root, copy.folder, sidecarOf(copy.name));
    if (!(await removeSidecar(path, copy.hash))) this.leave(copy, 'somebody else changed its sidecar: it stays');
  }

  private async discard({ file, sidecar }: Ready): Promise<void> {
    if (file) await removeTemporary(file.temporary);
    if (sidecar && sidecar !== 'goes') await removeTemporary(sidecar.temporary);
  }

  private leave(copy: CopyStands, why: string): void {
    this.left.push(`${this.place.name}: ${join(copy.folder, copy.name)}: ${why}`);
  }

  /** What other hands did is seen, not undone. */
  private async tellDiffering(): Promise<void> {
    const { house, intakeId, place, differing } = this;
    if (!differing.length) return;
    this.differing = [];
    // What is not there may be on a place that went away in this moment: nobody changed it.
    await mustStillStand(place);
    await inTransaction(house.db, async (tx) => {
      await markSpoilt(tx, differing, 'differs', `somebody else changed it on ${place.name}`);
      const count = differing.length;
      const text = `${count} ${count === 1 ? 'copy' : 'copies'} on ${place.name} ${count === 1 ? 'was' : 'were'} changed by somebody else and ${count === 1 ? 'is' : 'are'} left as ${count === 1 ? 'it is' : 'they are'}.`;
      await record(tx, { at: house.clock(), kind: 'differs', intakeId, who: null, text, data: differing });
    });
  }
}

/** Up to where a file as it stands must be known, so that an edit of what it was on the card can be made in it. */
const headOf = (edit: Edit, undo: Edit): number => reach(edit) + undo.reduce((sum, { cut }) => sum + cut, 0);

async function standsAs(path: string, bytes: number, hash: Buffer): Promise<boolean> {
  try {
    return (await sizeOf(path)) === bytes && (await hashFile(path)).equals(hash);
  } catch (error) {
    if (codeOf(error) === 'ENOENT') return false;
    throw error;
  }
}
