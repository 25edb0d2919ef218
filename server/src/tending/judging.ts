import type { FindingKind, Stood } from '@tally/core/drive';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { setStands, type Version } from '../crediting/index.js';
import { inTransaction } from '../db/database.js';
import { seenAt } from '../drive/final-name.js';
import { fastIdentityOf, hashFile } from '../drive/hashing.js';
import { codeOf } from '../drive/list-card.js';
import { placesStanding } from '../driving/index.js';
import { markSpoilt, standsAgain } from '../filing/index.js';
import { type House, Refusal } from '../house/index.js';
import { folderDue } from '../proving/index.js';
import type { Place } from './looking.js';
import type { CheckHow } from './store/checks.js';
import { type CopyRow, copiesOfFiled } from './store/known.js';
import { versionsInside, versionStanding } from './versions-standing.js';

const READ_AT_ONCE = 4;
/** So many are judged for good while the place is held. */
const SAID_AT_ONCE = 500;

/** What a look at a copy's bytes says. */
type Look = 'right' | 'other' | { readonly problem: string };

/** A copy of which something is to be said, and what stood there when it was looked at. */
interface Judged {
  readonly row: CopyRow;
  readonly seen: string | null;
  readonly what: string;
}

export const ofRow = (row: CopyRow) => ({ row });

const UNREADABLE: Readonly<Partial<Record<string, string>>> = {
  EIO: 'its device reports a fault where it lies',
  EACCES: 'it may not be read',
  EPERM: 'it may not be read',
};

const isSame = (a: Buffer | null, b: Buffer | null) => (a && b ? a.equals(b) : a === b);

/** Is a copy to be what it was to be, where it was to be, and does nobody give it another name? */
const isUnchanged = (then: CopyRow, now: CopyRow): boolean =>
  !now.moving &&
  now.folder === then.folder &&
  now.name === then.name &&
  now.state === then.state &&
  now.bytes === then.bytes &&
  isSame(now.hash, then.hash);

/** What whoever looks is told. */
export interface Told {
  /** Something was found about a copy. */
  readonly found: (kind: FindingKind, row: CopyRow, what: string) => void;
  /** Nothing sure can be said of a copy in this folder now: it is to be looked at again. */
  readonly unsure: (folder: string) => void;
}

/**
 * Reads copies that a look could not tell by size and time, and says for good what became of them: that somebody changed them,
 * that they cannot be read, that they stand as they should again.
 */
export class Judge {
  readonly limit = pLimit(READ_AT_ONCE);

  constructor(
    private readonly house: House,
    private readonly place: Place,
    private readonly options: { readonly how: CheckHow; readonly signal: AbortSignal },
    private readonly told: Told,
  ) {}

  /** Reads what has to be read. @returns how many are spoilt. */
  async lookCloser(same: readonly CopyRow[], doubtful: readonly { row: CopyRow; file: Stood }[]): Promise<number> {
    const { how } = this.options;
    const spoilt: Judged[] = [];
    const unread: Judged[] = [];
    const back: Judged[] = [];
    const judge = async (row: CopyRow, look: () => Promise<Look>, what: () => string) => {
      // Whoever is at it just now says what became of it.
      if (row.state === 'copying') return;
      // Most are right, and nothing is to be said of them.
      if (row.state === 'tallied' && (await this.limit(look)) === 'right') return;
      const [seen, said] = await this.limit(
        async () => [await seenAt(join(this.place.root, row.folder, row.name)), await look()] as const,
      );
      if (said === 'right') {
        if (row.state !== 'tallied') back.push({ row, seen, what: '' });
      } else if (row.state === 'waiting') return;
      else if (said === 'other') spoilt.push({ row, seen, what: what() });
      else unread.push({ row, seen, what: said.problem });
    };
    const looks: Promise<void>[] = [];
    for (const row of same) {
      if (row.state !== 'tallied' || how === 'every byte')
        looks.push(
          judge(
            row,
            () => this.isWhole(row),
            () => 'its bytes are others',
          ),
        );
      else if (how === 'fast identity')
        looks.push(
          judge(
            row,
            () => this.isAlike(row),
            () => 'its beginning or its end is another',
          ),
        );
    }
    for (const { row, file } of doubtful) {
      const isSize = file.bytes === row.bytes;
      const look = isSize ? () => this.isWhole(row) : () => Promise.resolve('other' as const);
      looks.push(judge(row, look, () => (isSize ? 'its bytes are others' : `it has ${file.bytes} bytes, not ${row.bytes}`)));
    }
    await Promise.all(looks);
    if (unread.length) await this.mustStand();
    const { db } = this.house;
    const stands = ({ row, seen }: Judged) => this.standsAs(row, seen);
    const changed = await this.lastWord(await this.notOfOurs(spoilt), stands, (some) =>
      markSpoilt(db, some.map(this.copyOf), 'differs', `somebody else changed it on ${this.place.name}`),
    );
    const unreadable = await this.lastWord(unread, stands, (some) =>
      markSpoilt(db, some.map(this.copyOf), 'unreadable', `it cannot be read on ${this.place.name}`),
    );
    await this.lastWord(back, stands, (some) =>
      standsAgain(db, some.map(this.copyOf), this.house.clock(), 'read again by a drive check'),
    );
    for (const { row, what } of changed) this.told.found('changed', row, what);
    for (const { row, what } of unreadable) this.told.found('unreadable', row, what);
    return changed.length + unreadable.length;
  }

  /**
   * What a run that died had put credit into, or taken some out of, before it could say so is nobody else's doing: it is said now,
   * and the next round of credit brings it up to date. @returns the others
   */
  private async notOfOurs(spoilt: readonly Judged[]): Promise<Judged[]> {
    if (!spoilt.length) return [];
    const { house, place } = this;
    const known = await versionsInside(
      house,
      spoilt.map(({ row }) => row),
    );
    const [others, ours]: [Judged[], (Judged & { version: number })[]] = [[], []];
    for (const one of spoilt) {
      const version = await this.versionOf(one.row, known.get(one.row.filedItemId) ?? []);
      if (version === null) others.push(one);
      else ours.push({ ...one, version });
    }
    await this.lastWord(
      ours,
      ({ row, seen }) => this.standsAs(row, seen),
      (some) =>
        inTransaction(house.db, async (tx) => {
          await setStands(
            tx,
            some.map(({ row, version }) => ({ filedItemId: row.filedItemId, placeId: place.id, version })),
          );
          const due = some.map(({ row }) => ({ intakeId: row.intakeId, folder: row.listFolder, placeId: place.id }));
          await folderDue(tx, due);
        }),
    );
    for (const { row } of ours) this.told.unsure(row.folder);
    return others;
  }

  private async versionOf(row: CopyRow, inside: readonly Version[]): Promise<number | null> {
    const found: { version: number | null } = { version: null };
    await this.lookedAt(
      async (file) => {
        found.version = await versionStanding(this.house, file, row, inside, this.options.signal);
        return true;
      },
      row.folder,
      row.name,
    );
    return found.version;
  }

  readonly copyOf = ({ row }: { readonly row: CopyRow }) => ({
    ...{ filedItemId: row.filedItemId, placeId: this.place.id },
  });

  private async standsAs({ folder, name }: CopyRow, seen: string | null): Promise<boolean> {
    return seen !== null && (await seenAt(join(this.place.root, folder, name))) === seen;
  }

  /**
   * What is said of copies for good is said while nobody else is at the place, of such as are what they were when they were
   * looked at, in the log and on the drive. The folders of all others are looked at again. @returns what was said.
   */
  async lastWord<T extends { readonly row: CopyRow }>(
    some: readonly T[],
    stands: (one: T) => Promise<boolean>,
    say: (some: readonly T[]) => Promise<unknown>,
  ): Promise<T[]> {
    const { house, place, options } = this;
    const said: T[] = [];
    for (let from = 0; from < some.length; from += SAID_AT_ONCE) {
      const part = some.slice(from, from + SAID_AT_ONCE);
      const sure: T[] = [];
      const speak = async () => {
        const ids = part.map(({ row }) => row.filedItemId);
        const now = new Map((await copiesOfFiled(house.db, place.id, ids)).map((row) => [row.filedItemId, row]));
        for (const one of part) {
          const row = now.get(one.row.filedItemId);
          if (row && isUnchanged(one.row, row) && (await stands(one))) sure.push(one);
        }
        if (sure.length) await say(sure);
      };
      // What was found is never passed over because others are at the place: whoever looks waits, turn after turn.
      while (!(await house.locks.holdInTurn('place', place.id, options.signal, speak))) options.signal.throwIfAborted();
      options.signal.throwIfAborted();
      said.push(...sure);
      for (const { row } of part.filter((one) => !sure.includes(one))) this.told.unsure(row.folder);
    }
    return said;
  }

  /** @throws Refusal when the place is not there: then nothing is said of what stands on it. */
  async mustStand(): Promise<void> {
    const { house, place } = this;
    const standing = (await placesStanding(house)).find(({ id }) => id === place.id)?.standing;
    if (!standing?.online) throw gone(place, standing?.problem ?? 'is not there');
  }

  private async isWhole({ folder, name, hash }: CopyRow): Promise<Look> {
    return this.lookedAt(
      async (path) => hash?.equals(await hashFile(path, this.options.signal, this.house.files)) ?? false,
      folder,
      name,
    );
  }

  private async isAlike({ folder, name, bytes, quickHash }: CopyRow): Promise<Look> {
    return this.lookedAt(
      async (path) => quickHash?.equals(await fastIdentityOf(path, bytes, this.house.files)) ?? true,
      folder,
      name,
    );
  }

  private async lookedAt(isRight: (path: string) => Promise<boolean>, folder: string, name: string): Promise<Look> {
    const { signal } = this.options;
    signal.throwIfAborted();
    try {
      return (await isRight(join(this.place.root, folder, name))) ? 'right' : 'other';
    } catch (error) {
      signal.throwIfAborted();
      return { problem: UNREADABLE[codeOf(error)] ?? `it cannot be read (${codeOf(error)})` };
    }
  }
}

/** @returns what to say when a place went away. */
export const gone = ({ name }: Place, why: string) =>
  new Refusal('not possible now', `${name} went away while it was looked at (${why}).`);
