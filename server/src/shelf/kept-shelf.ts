import { wallClockMs } from '@tally/core/capture';
import { cameraName } from '@tally/core/card';
import { type Names, type RecordKind, Shelf, type ShelfItem, type ShelfRecords } from '@tally/core/find';
import type { House } from '../house/index.js';
import {
  changesSince,
  houseTerms,
  INTAKES_AT_ONCE,
  intakesAfter,
  intakesOfCards,
  itemsOfFiled,
  itemsOfObjects,
  type KeptItem,
  keptOfIntakes,
  keptOfItems,
  openSince,
  READERS,
} from './store/kept.js';

/** As many items at a time: nothing else waits long for it. */
const ITEMS_AT_A_TIME = 4_000;
/** When all of it is read; each time takes something for itself. */
const ITEMS_AT_FIRST = 16_000;
/** Whoever did not look for so long begins anew: what changed before is forgotten by then. */
const FORGOTTEN_AFTER_MS = 20 * 3_600_000;
/** More changes than this are read anew sooner than one by one. */
const MANY_CHANGES = 100_000;

const MOST_EMPTY = 50_000;

type Of = Pick<House, 'db' | 'settings' | 'clock'>;

/** The shelf of a house in this process: read once, then following what changes. It is asked for by `shelfNow` only. */
class KeptShelf {
  private shelf = new Shelf();
  private names: { readonly of: Shelf; readonly at: number; readonly names: KnownNames } | null = null;
  /** Everything that transactions before this one changed is on the shelf; null: nothing was read yet. */
  private since: number | null = null;
  private followedAt = 0;
  /** Changes of transactions from `since` on that are on the shelf, too. */
  private known = new Set<number>();
  private running: Promise<void> | null = null;
  private next: Promise<void> | null = null;

  constructor(private readonly house: Of) {}

  /** The shelf with everything on it that was committed before this was called. */
  async now(): Promise<Shelf> {
    await this.follow();
    return this.shelf;
  }

  /** Names by which questions are understood. */
  async namesNow(): Promise<KnownNames> {
    await this.follow();
    const { shelf } = this;
    if (this.names?.of !== shelf || this.names.at !== shelf.names) {
      const { contributor, assignment, bundle } = shelf.records;
      const names = {
        contributors: [...contributor.values()],
        // The newest of two that are called the same is meant.
        assignments: [...assignment.values()].reverse(),
        bundles: [...bundle.values()],
      };
      this.names = { of: shelf, at: shelf.names, names };
    }
    return this.names.names;
  }

  /** Whoever comes while it follows waits for the next time: what they did may be newer than what is being read. */
  private follow(): Promise<void> {
    if (!this.running) {
      this.running = this.followOnce().finally(() => (this.running = null));
      return this.running;
    }
    this.next ??= this.running
      .catch(() => undefined) // Whoever began it is told; this one tries for itself.
      .then(() => {
        this.next = null;
        return this.follow();
      });
    return this.next;
  }

  private async followOnce(): Promise<void> {
    const { db } = this.house;
    const isOld = Date.now() - this.followedAt > FORGOTTEN_AFTER_MS;
    // What changed got new slots: once most of them are empty, all of it is put up anew.
    const isSparse = this.shelf.slots > MOST_EMPTY + 2 * this.shelf.size;
    if (this.since === null || isOld || isSparse) await this.readAll();
    const from = this.since!;
    const open = await openSince(db);
    const changes = (await changesSince(db, from)).filter(({ id }) => !this.known.has(id));
    this.followedAt = Date.now();
    if (changes.length) {
      const count = changes.reduce((sum, { ids }) => sum + ids.length, 0);
      if (count > MANY_CHANGES) {
        await this.readAll();
        return this.followOnce();
      }
      await this.take(changes);
    }
    this.since = open;
    for (const { id, xact } of changes) if (xact >= open) this.known.add(id);
    if (open > from && this.known.size) await this.forgetKnown(open);
  }

  /** Of what is known, only what may come up again. */
  private async forgetKnown(open: number): Promise<void> {
    const may = new Set((await changesSince(this.house.db, open)).map(({ id }) => id));
    for (const id of this.known) if (!may.has(id)) this.known.delete(id);
  }

  private async readAll(): Promise<void> {
    const { db } = this.house;
    const since = await openSince(db);
    const shelf = new Shelf();
    shelf.house(await houseTerms(db));
    for (const kind of KINDS) await this.records(shelf, kind, null);
    let intakes: number[] = [];
    let items = 0;
    let before = Promise.resolve();
    // While some are put on the shelf the database looks for the next.
    const readThese = async () => {
      const rows = keptOfIntakes(db, intakes, this.house.settings.zone);
      // Whoever waits for it is told; until then it is nobody's.
      rows.catch(() => undefined);
      intakes = [];
      items = 0;
      await before;
      before = rows.then(async (these) => {
        for (let at = 0; at < these.length; at++) {
          shelf.put(shelfItem(these[at]!));
          // Others are answered in between.
          if (at % 2_000 === 1_999) await new Promise((resolve) => setImmediate(resolve));
        }
      });
      before.catch(() => undefined);
    };
    for (let after: number | null = 0; after !== null;) {
      const some = await intakesAfter(db, after);
      for (const { filed, ...intake } of some) {
        shelf.record('intake', intake.id, intake);
        if (!filed) continue;
        intakes.push(intake.id);
        items += filed;
        if (items >= ITEMS_AT_FIRST) await readThese();
      }
      after = some.at(-1)?.id ?? null;
    }
    if (intakes.length) await readThese();
    await before;
    shelf.ordered();
    this.shelf = shelf;
    this.names = null;
    this.since = since;
    this.known.clear();
  }

  private async take(changes: readonly { readonly of: string; readonly ids: readonly number[] }[]): Promise<void> {
    const { db, settings } = this.house;
    const meant = (...of: string[]) => [...new Set(changes.filter((one) => of.includes(one.of)).flatMap(({ ids }) => ids))];
    if (meant('house').length) this.shelf.house(await houseTerms(db));
    for (const kind of KINDS) {
      const ids = meant(kind);
      if (ids.length) await this.records(this.shelf, kind, ids);
    }
    const cards = meant('card');
    const intakes = [...new Set([...meant('intake'), ...(cards.length ? await intakesOfCards(db, cards) : [])])];
    if (intakes.length) await this.records(this.shelf, 'intake', intakes);
    const [filed, objects] = [meant('filed'), meant('object')];
    const items = new Set(meant('item'));
    if (filed.length) for (const id of await itemsOfFiled(db, filed)) items.add(id);
    if (objects.length) for (const id of await itemsOfObjects(db, objects)) items.add(id);
    const ids = [...items];
    for (let at = 0; at < ids.length; at += ITEMS_AT_A_TIME) {
      const some = ids.slice(at, at + ITEMS_AT_A_TIME);
      const rows = await keptOfItems(db, some, settings.zone);
      const there = new Set(rows.map(({ id }) => id));
      for (const row of rows) this.shelf.put(shelfItem(row));
      for (const id of some) if (!there.has(id)) this.shelf.remove(id);
    }
  }

  private async records(shelf: Shelf, kind: RecordKind, ids: readonly number[] | null): Promise<void> {
    for (let from = 0; ids === null ? from === 0 : from < ids.length; from += INTAKES_AT_ONCE) {
      const some = ids?.slice(from, from + INTAKES_AT_ONCE) ?? null;
      const records = await READERS[kind](this.house.db, some);
      for (const record of records) shelf.record(kind, record.id, record);
      const there = new Set(records.map(({ id }) => id));
      for (const id of some ?? []) if (!there.has(id)) shelf.record(kind, id, null);
    }
  }
}

/** What questions are understood by, with who of them is not of age. */
export interface KnownNames extends Names {
  readonly contributors: readonly ShelfRecords['contributor'][];
}

/** Records that are read all at once; intakes are many. */
const KINDS = ['contributor', 'assignment', 'word', 'location', 'pictured', 'terms', 'bundle'] as const;

const NO_IDS: readonly number[] = [];

/** The row is nobody else's: half a million of them are not copied. */
const shelfItem = (row: KeptItem): ShelfItem =>
  Object.assign(row, {
    takenMs: wallClockMs(row.local),
    camera: cameraName(row),
    words: row.words ?? NO_IDS,
    notWords: row.notWords ?? NO_IDS,
    pictured: row.pictured ?? NO_IDS,
    verdict: row.verdict as ShelfItem['verdict'],
  });

/** One shelf for each house of this process; what it is kept by is the connection to its database. */
const kept = new WeakMap<object, KeptShelf>();

function keptShelf(house: Of): KeptShelf {
  const key = house.db.dataSource;
  const known = kept.get(key) ?? new KeptShelf({ ...house, db: house.db.dataSource.manager });
  kept.set(key, known);
  return known;
}

/** Everything that is filed as it stands now, in memory. The first time it is read, which takes some seconds in a large house. */
export const shelfNow = (house: Of): Promise<Shelf> => keptShelf(house).now();
export const namesNow = (house: Of): Promise<KnownNames> => keptShelf(house).namesNow();
