import { computed, inject, Injectable, signal } from '@angular/core';
import { dayBeginsMs, wallClockMs } from '@tally/core/capture';
import { runsOf, type Fineness, type Run } from '@tally/core/card';
import { looksBlurred, similarGroups, type SimilarGroup } from '@tally/core/looks';
import type { ItemView } from '@tally/contract';
import { SessionService } from '../api/session.service';
import { SheetSource } from './sheet-source';
import { cameraOf, membersOf, nameOf, type Tile } from './tiles';

export const ORDERS = ['time', 'name', 'size', 'camera', 'sharpness'] as const;
export type Order = (typeof ORDERS)[number];

/** What can be shown alone: the words, and which tiles they stand for. */
export const SHOWS: readonly { readonly name: string; readonly fits: (tile: Tile) => boolean }[] = [
  { name: 'everything', fits: () => true },
  { name: 'pictures', fits: ({ lead }) => lead.kind === 'photo' },
  { name: 'with a raw', fits: (tile) => membersOf(tile).some((item) => item.kind === 'raw') },
  { name: 'raw alone', fits: ({ lead, companions }) => lead.kind === 'raw' && !companions.some(({ kind }) => kind === 'photo') },
  { name: 'JPEG alone', fits: (tile) => isJpeg(tile.lead) && !membersOf(tile).some((item) => item.kind === 'raw') },
  { name: 'clips', fits: ({ lead }) => lead.kind === 'video' },
  { name: 'sounds', fits: ({ lead }) => lead.kind === 'sound' },
  { name: 'taken', fits: ({ lead }) => lead.taken && !lead.alreadyFiled },
  { name: 'left', fits: ({ lead }) => !lead.taken && !lead.alreadyFiled && !lead.filedAs && !lead.aside },
  { name: 'set aside', fits: ({ lead, companions }) => [lead, ...companions].some(({ aside }) => aside !== null) },
  { name: 'odd', fits: (tile) => membersOf(tile).some(({ remark, problem }) => (remark ?? problem) !== null) },
  { name: 'already filed', fits: ({ lead }) => lead.alreadyFiled?.confirmed === true },
  { name: 'being compared', fits: ({ lead }) => lead.alreadyFiled?.confirmed === false },
  { name: 'doubtful date', fits: ({ lead }) => lead.captured.doubt !== null },
  { name: 'blurred', fits: ({ lead }) => lead.sharpness !== null && looksBlurred(lead.sharpness) },
  { name: 'select', fits: ({ lead }) => lead.verdict === 'select' },
  { name: 'reshoot', fits: ({ lead }) => lead.verdict === 'reshoot' },
  { name: 'hold', fits: ({ lead }) => lead.verdict === 'hold' },
];

const isJpeg = ({ kind, path }: ItemView): boolean => kind === 'photo' && /\.jpe?g$/i.test(path);

const times = new WeakMap<ItemView, number>();

/** When it was taken, in milliseconds of its wall clock. Worked out once for each item. */
export function timeOf({ lead }: Tile): number {
  const known = times.get(lead);
  if (known !== undefined) return known;
  const ms = wallClockMs(lead.captured.local);
  times.set(lead, ms);
  return ms;
}

/** How the sheet is looked at: order, what is shown, how fine the runs are, where one is, what is chosen. */
@Injectable()
export class View {
  private readonly store = inject(SheetSource);
  private readonly session = inject(SessionService);

  readonly order = signal<Order>('time');
  readonly show = signal('everything');
  readonly camera = signal<string | null>(null);
  readonly words = signal('');
  /** These alone, with the words for why. */
  readonly only = signal<{ readonly words: string; readonly ids: ReadonlySet<number> } | null>(null);
  readonly fineness = signal<Fineness>(0);
  readonly focus = signal(0);
  /** Ids of the leading items that were chosen, for something to be done with all of them. */
  readonly chosen = signal<ReadonlySet<number>>(new Set());

  readonly cameras = computed(() =>
    [...new Set(this.store.settledTiles().map(({ lead }) => cameraOf(lead)))].filter(Boolean).sort(),
  );

  private readonly shown = computed(() => {
    const fits = SHOWS.find(({ name }) => name === this.show())?.fits ?? (() => true);
    const camera = this.camera();
    const only = this.only();
    const words = this.words().toLowerCase();
    if (this.show() === 'everything' && !camera && !only && !words) return this.store.tiles();
    return this.store
      .tiles()
      .filter((tile) => !only || membersOf(tile).some(({ id }) => only.ids.has(id)))
      .filter((tile) => fits(tile) && (!camera || cameraOf(tile.lead) === camera))
      .filter(({ lead }) => !words || `${lead.path} ${lead.description}`.toLowerCase().includes(words));
  });

  /** Tiles broken into runs: of time, or of folder or camera when the order says so. */
  readonly runs = computed<Run<Tile>[]>(() => {
    const tiles = this.shown();
    switch (this.order()) {
      case 'time': {
        const runs = byTime(tiles, this.fineness(), dayBeginsMs(this.session.dayBegins()));
        return this.store.isShelf ? newestFirst(runs) : runs;
      }
      case 'name':
        return sections(tiles, ({ lead }) => lead.path.slice(0, -nameOf(lead).length), byName);
      case 'camera':
        return sections(
          tiles,
          ({ lead }) => cameraOf(lead),
          (a, b) => timeOf(a) - timeOf(b),
        );
      case 'sharpness':
        return sections(
          tiles,
          () => '',
          (a, b) => (a.lead.sharpness ?? Infinity) - (b.lead.sharpness ?? Infinity),
        );
      case 'size':
        return sections(
          tiles,
          () => '',
          (a, b) => b.lead.bytes - a.lead.bytes,
        );
    }
  });

  /** Tiles as they stand on the sheet, one after the other. */
  readonly tiles = computed(() => this.runs().flatMap((run) => run.items));
  readonly focused = computed<Tile | undefined>(() => this.tiles()[this.focus()]);

  /** What an act is about: what was chosen, else where one is. */
  readonly subject = computed<readonly Tile[]>(() => {
    const chosen = this.chosen();
    if (chosen.size) return this.store.tiles().filter((tile) => chosen.has(tile.lead.id));
    const focused = this.focused();
    return focused ? [focused] : [];
  });

  /** What likeness depends on: what is said of an item changes nothing of it. */
  private readonly frames = computed(
    () =>
      this.store.tiles().map((tile) => ({
        id: tile.lead.id,
        atMs: timeOf(tile),
        look: tile.lead.look,
        sharpness: tile.lead.sharpness,
      })),
    {
      equal: (a, b) =>
        a.length === b.length &&
        a.every((one, index) => {
          const other = b[index]!;
          return one.id === other.id && one.atMs === other.atMs && one.look === other.look && one.sharpness === other.sharpness;
        }),
    },
  );

  /** Group of similar frames of each item that is in one. */
  readonly similar = computed<ReadonlyMap<number, SimilarGroup>>(() => {
    const groups = similarGroups([...this.frames()].sort((a, b) => a.atMs - b.atMs));
    return new Map(groups.flatMap((group) => group.ids.map((id) => [id, group] as const)));
  });

  /** Shows these items alone, to look at what is said of them. */
  showAlone(words: string, items: readonly { readonly id: number }[]): void {
    this.only.set({ words, ids: new Set(items.map(({ id }) => id)) });
    this.show.set('everything');
    this.camera.set(null);
    this.words.set('');
    this.focus.set(0);
  }

  go(index: number): void {
    this.focus.set(Math.max(0, Math.min(this.tiles().length - 1, index)));
  }

  choose(tiles: readonly Tile[], how: 'add' | 'only' | 'turn' = 'add'): void {
    const next = new Set(how === 'only' ? [] : this.chosen());
    for (const { lead } of tiles) {
      if (how === 'turn' && next.has(lead.id)) next.delete(lead.id);
      else next.add(lead.id);
    }
    this.chosen.set(next);
  }

  chooseNone(): void {
    this.chosen.set(new Set());
  }
}

const byName = (a: Tile, b: Tile) => (a.lead.path < b.lead.path ? -1 : 1);

/** The other way round, so that what is older is added at the end. */
const newestFirst = (runs: readonly Run<Tile>[]): Run<Tile>[] =>
  runs.toReversed().map((run) => ({ ...run, items: run.items.toReversed() }));

/** Runs of time. What the camera wrote about its clips was not taken at any time: it comes last, tree by tree. */
function byTime(tiles: readonly Tile[], fineness: Fineness, dayStartMs: number): Run<Tile>[] {
  const taken = tiles.filter((tile) => !isIndex(tile));
  const indexes = tiles.filter(isIndex);
  return [
    ...runsOf(taken, timeOf, groupOf, fineness, dayStartMs),
    ...sections(indexes, ({ lead }) => lead.structureRoot ?? '', byName),
  ];
}

/** Exposures that are never parted. Numbers of a series mean something on their own card only. */
const groupOf = ({ lead }: Tile): string =>
  `${'intake' in lead ? JSON.stringify(lead.intake) : ''} ${lead.series ?? lead.leader}`;

/** Index files of a tree or of the card: no exposure, clip or recording. */
export const isIndex = ({ lead }: Tile): boolean => lead.objectRole === 'index';

function sections(tiles: readonly Tile[], key: (tile: Tile) => string, order: (a: Tile, b: Tile) => number): Run<Tile>[] {
  const groups = new Map<string, Tile[]>();
  for (const tile of tiles) groups.set(key(tile), [...(groups.get(key(tile)) ?? []), tile]);
  return [...groups]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([, items]) => {
      const times = items.map(timeOf);
      const [fromMs, toMs] = times.reduce(([low, high], ms) => [Math.min(low, ms), Math.max(high, ms)], [Infinity, -Infinity]);
      return { items: items.sort(order), fromMs, toMs };
    });
}
