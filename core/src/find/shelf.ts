import type { Kind } from '../card/index.js';
import { KINDS } from '../card/index.js';
import { Alikes } from './alike.js';
import { grown, Numbered, NumberedSets } from './columns.js';
import { searchable } from './needle.js';
import { OwnWords } from './own-words.js';
import type { RecordKind, ShelfItem, ShelfRecords } from './records.js';

export const VERDICTS = [null, 'select', 'reshoot', 'hold'] as const;
const DAY_MS = 86_400_000;
/** Filed more than so many days after it was taken is late. Common practice, no source: intake happens the same day. */
const LATE_DAYS = 7;

type Kept = { [K in RecordKind]: Map<number, ShelfRecords[K]> };

/** What stands where something is not said: ids begin at 1. */
const NONE = 0;

/** 0: nothing is said, 1: that nobody is to be named, 2: who is. */
const saidOfLine = (line: string | null): 0 | 1 | 2 => (line === null ? 0 : line.trim() ? 2 : 1);

/** What items get from an assignment or a contributor: terms and location. */
const saysOfItems = (record: object | null): string => {
  const { terms = null, location = null } = (record ?? {}) as { terms?: number | null; location?: number | null };
  return `${terms} ${location}`;
};

/** The texts of a record by which items are found. */
const WRITTEN: { readonly [K in RecordKind]: (record: ShelfRecords[K]) => readonly string[] } = {
  intake: ({ number, label }) => [number, label],
  contributor: ({ name, codes }) => [name, ...codes],
  assignment: ({ title, slug, code, where }) => [title, slug, code, where],
  word: ({ names }) => names,
  location: ({ name, where }) => [name, where],
  pictured: ({ name }) => [name],
  terms: () => [],
  bundle: () => [],
};

/**
 * Everything that is filed, in memory, in the order in which it was taken: one slot for each item, its properties in columns.
 * What text, order or likeness of an item depends on gets a new slot when it changes; the old one is empty from then on.
 */
export class Shelf {
  private readonly columns: { at: Int32Array | Float64Array | Uint8Array }[] = [];
  readonly records: Kept = {
    ...{ intake: new Map(), contributor: new Map(), assignment: new Map(), word: new Map() },
    ...{ location: new Map(), pictured: new Map(), terms: new Map(), bundle: new Map() },
  };
  /** What is written of each record, as it is looked through. */
  readonly said: Readonly<Record<RecordKind, Map<number, string>>> = {
    ...{ intake: new Map(), contributor: new Map(), assignment: new Map(), word: new Map() },
    ...{ location: new Map(), pictured: new Map(), terms: new Map(), bundle: new Map() },
  };
  /** Grows with every change, so that what was worked out before is known to be old. */
  generation = 0;
  /** Grows when somebody or something is called otherwise: what questions are understood by. */
  names = 0;
  /** The house's own terms. */
  private houseTerms: number | null = null;

  /** Slots in use, and how many of them are alive. */
  private used = 0;
  private alive = 0;
  private slotOf = new Int32Array(0);
  private sorted = new Int32Array(0);
  private fresh: number[] = [];

  readonly id = this.column(Int32Array);
  readonly intake = this.column(Int32Array);
  readonly object = this.column(Int32Array);
  readonly takenMs = this.column(Float64Array);
  /** Months since the year 0. */
  readonly month = this.column(Int32Array);
  /** Days since 1970-01-01. */
  readonly day = this.column(Int32Array);
  readonly kind = this.column(Uint8Array);
  readonly camera = this.column(Int32Array);
  readonly folder = this.column(Int32Array);
  readonly ownWordSet = this.column(Int32Array);
  readonly notWordSet = this.column(Int32Array);
  readonly picturedSet = this.column(Int32Array);
  readonly verdict = this.column(Uint8Array);
  readonly copies = this.column(Uint8Array);
  readonly bytes = this.column(Float64Array);
  readonly filedDay = this.column(Int32Array);
  readonly filedAtMs = this.column(Float64Array);
  readonly filedId = this.column(Int32Array);
  /** Bits: with sound, described, filed late. */
  readonly flags = this.column(Uint8Array);
  /** What an item says itself; 0: nothing. */
  private readonly ownContributor = this.column(Int32Array);
  private readonly ownAssignment = this.column(Int32Array);
  private readonly ownLocation = this.column(Int32Array);
  private readonly ownTerms = this.column(Int32Array);
  /** 0: says nothing, 1: says that nobody is to be named, 2: names somebody. */
  private readonly ownLine = this.column(Uint8Array);
  /** What it comes to with its slip; 0: nobody says anything. */
  readonly contributor = this.column(Int32Array);
  readonly assignment = this.column(Int32Array);
  readonly location = this.column(Int32Array);
  readonly terms = this.column(Int32Array);
  readonly uncredited = this.column(Uint8Array);

  readonly cameras = new Numbered();
  readonly folders = new Numbered();
  readonly wordSets = new NumberedSets();
  readonly picturedSets = new NumberedSets();
  readonly own = new OwnWords();
  readonly alikes = new Alikes();
  readonly text: string[] = [];
  private readonly name: string[] = [];
  private readonly look: (string | null)[] = [];
  private readonly slotsOfIntake = new Map<number, Set<number>>();

  get size(): number {
    return this.alive;
  }

  get slots(): number {
    return this.used;
  }

  slotFor(id: number): number | undefined {
    const slot = id < this.slotOf.length ? this.slotOf[id]! - 1 : -1;
    return slot >= 0 ? slot : undefined;
  }

  isAlive(slot: number): boolean {
    return this.slotOf[this.id.at[slot]!] === slot + 1;
  }

  nameAt(slot: number): string {
    return this.name[slot]!;
  }

  lookAt(slot: number): string | null {
    return this.look[slot]!;
  }

  kindAt(slot: number): Kind {
    return KINDS[this.kind.at[slot]!]!;
  }

  /** Puts an item on the shelf, or what it says now in place of what it said. */
  put(item: ShelfItem): void {
    this.generation++;
    const before = this.slotFor(item.id);
    const text = searchable(item.name, item.onCard, item.description);
    const stays =
      before !== undefined &&
      this.text[before] === text &&
      this.look[before] === item.look &&
      this.takenMs.at[before] === item.takenMs &&
      this.object.at[before] === item.object &&
      this.intake.at[before] === item.intake;
    const slot = stays ? before : this.newSlot(item, text);
    if (!stays && before !== undefined) this.slotsOfIntake.get(this.intake.at[before]!)?.delete(before);
    const taken = Math.floor(item.takenMs / DAY_MS);
    const filed = Math.floor(Date.parse(`${item.filedOn}T00:00:00Z`) / DAY_MS);
    this.kind.at[slot] = KINDS.indexOf(item.kind);
    this.camera.at[slot] = this.cameras.numberOf(item.camera);
    this.folder.at[slot] = this.folders.numberOf(item.folder);
    this.name[slot] = item.name;
    this.ownWordSet.at[slot] = this.wordSets.numberOf(item.words);
    this.notWordSet.at[slot] = this.wordSets.numberOf(item.notWords);
    this.picturedSet.at[slot] = this.picturedSets.numberOf(item.pictured);
    this.verdict.at[slot] = VERDICTS.indexOf(item.verdict);
    this.copies.at[slot] = Math.min(255, item.copies);
    this.bytes.at[slot] = item.bytes;
    this.filedDay.at[slot] = filed;
    this.filedAtMs.at[slot] = item.filedAtMs;
    this.filedId.at[slot] = item.filedId;
    this.flags.at[slot] =
      (item.sound ? FLAG.sound : 0) | (item.description ? FLAG.described : 0) | (filed - taken > LATE_DAYS ? FLAG.late : 0);
    this.ownContributor.at[slot] = item.contributor ?? NONE;
    this.ownAssignment.at[slot] = item.assignment ?? NONE;
    this.ownLocation.at[slot] = item.location ?? NONE;
    this.ownTerms.at[slot] = item.terms ?? NONE;
    this.ownLine.at[slot] = saidOfLine(item.creditLine);
    this.comeTo(slot);
  }

  /** Takes an item off the shelf. */
  remove(id: number): void {
    const slot = this.slotFor(id);
    if (slot === undefined) return;
    this.generation++;
    this.slotOf[id] = 0;
    this.alive--;
    this.slotsOfIntake.get(this.intake.at[slot]!)?.delete(slot);
  }

  /** Says what a record says now; null: it is no more. */
  record<K extends RecordKind>(kind: K, id: number, record: ShelfRecords[K] | null): void {
    this.generation++;
    const before = this.records[kind].get(id) ?? null;
    if (record === null) {
      this.records[kind].delete(id);
      this.said[kind].delete(id);
    } else {
      this.records[kind].set(id, record);
      this.said[kind].set(id, searchable(...WRITTEN[kind](record)));
    }
    if (kind === 'contributor' || kind === 'assignment' || kind === 'bundle') this.names++;
    if (kind === 'intake') for (const slot of this.slotsOfIntake.get(id) ?? []) this.comeTo(slot);
    // What items get from these is worked out again for all, where it is another.
    else if (saysOfItems(before) !== saysOfItems(record)) this.stale = true;
  }

  house(terms: number | null): void {
    if (terms === this.houseTerms) return;
    this.generation++;
    this.houseTerms = terms;
    this.stale = true;
  }

  /** The slots alive, newest first; companions behind what leads them. */
  ordered(): Int32Array {
    if (this.stale) {
      for (let slot = 0; slot < this.used; slot++) if (this.isAlive(slot)) this.comeTo(slot);
      this.stale = false;
    }
    if (!this.fresh.length && this.sorted.length === this.alive) return this.sorted;
    const fresh = Int32Array.from(this.fresh.filter((slot) => this.isAlive(slot))).sort(this.before);
    const merged = new Int32Array(this.alive);
    let [at, other] = [0, 0];
    for (const slot of this.sorted) {
      if (!this.isAlive(slot)) continue;
      while (other < fresh.length && this.before(fresh[other]!, slot) < 0) merged[at++] = fresh[other++]!;
      merged[at++] = slot;
    }
    while (other < fresh.length) merged[at++] = fresh[other++]!;
    this.sorted = merged;
    this.fresh = [];
    return merged;
  }

  /** The order of the shelf: newest first; what belongs together stays together, what leads it first. */
  readonly before = (a: number, b: number): number =>
    this.takenMs.at[b]! - this.takenMs.at[a]! ||
    this.object.at[b]! - this.object.at[a]! ||
    Number(this.id.at[b] === this.object.at[b]) - Number(this.id.at[a] === this.object.at[a]) ||
    this.id.at[a]! - this.id.at[b]!;

  private stale = false;

  private newSlot(item: ShelfItem, text: string): number {
    const slot = this.used++;
    for (const column of this.columns) column.at = grown(column.at, this.used);
    this.slotOf = grown(this.slotOf, item.id + 1);
    if (this.slotOf[item.id] === 0) this.alive++;
    this.slotOf[item.id] = slot + 1;
    this.id.at[slot] = item.id;
    this.intake.at[slot] = item.intake;
    this.object.at[slot] = item.object;
    this.takenMs.at[slot] = item.takenMs;
    const day = new Date(item.takenMs);
    this.day.at[slot] = Math.floor(item.takenMs / DAY_MS);
    this.month.at[slot] = day.getUTCFullYear() * 12 + day.getUTCMonth();
    this.text[slot] = text;
    this.look[slot] = item.look;
    this.own.add(slot, text);
    if (item.look !== null) this.alikes.add(slot, item.look);
    this.fresh.push(slot);
    const slots = this.slotsOfIntake.get(item.intake);
    if (slots) slots.add(slot);
    else this.slotsOfIntake.set(item.intake, new Set([slot]));
    return slot;
  }

  /** What an item comes to together with its slip and what that names: the nearest that says anything (core/credit). */
  private comeTo(slot: number): void {
    const slip = this.records.intake.get(this.intake.at[slot]!);
    const contributor = this.ownContributor.at[slot]! || (slip?.contributor ?? NONE);
    const assignment = this.ownAssignment.at[slot]! || (slip?.assignment ?? NONE);
    const covered = this.records.assignment.get(assignment);
    this.contributor.at[slot] = contributor;
    this.assignment.at[slot] = assignment;
    this.location.at[slot] = this.ownLocation.at[slot]! || (slip?.location ?? covered?.location ?? NONE);
    this.terms.at[slot] =
      this.ownTerms.at[slot]! ||
      (slip?.terms ?? covered?.terms ?? this.records.contributor.get(contributor)?.terms ?? this.houseTerms ?? NONE);
    const line = this.ownLine.at[slot]! || saidOfLine(slip?.creditLine ?? null);
    this.uncredited.at[slot] = Number(line === 1 || (line === 0 && contributor === NONE));
  }

  private column<C extends Int32Array | Float64Array | Uint8Array>(maker: new (length: number) => C): { at: C } {
    const column = { at: new maker(0) };
    this.columns.push(column);
    return column;
  }
}

export const FLAG = { sound: 1, described: 2, late: 4 } as const;
