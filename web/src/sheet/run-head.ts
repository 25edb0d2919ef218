import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import type { Run } from '@tally/core/card';
import { Acts } from './acts';
import { SheetSource } from './sheet-source';
import { cameraOf, isChangeable, nameOf, type Tile } from './tiles';
import { isIndex, View } from './view';

const KIND_WORD = {
  photo: ['picture', 'pictures'],
  raw: ['raw', 'raws'],
  video: ['clip', 'clips'],
  sound: ['sound', 'sounds'],
  sidecar: ['sidecar', 'sidecars'],
  other: ['other file', 'other files'],
} as const;

/** The head of a run: its span, what is in it, where it belongs; a handle by which the whole run is dragged or chosen. */
@Component({
  selector: 'ts-run-head',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button
      type="button"
      class="span"
      [attr.draggable]="!store.isShelf"
      [title]="store.isShelf ? 'Choose this run' : 'Choose this run, or drag it to an assignment'"
      (click)="view.choose(run().items, $any($event).ctrlKey || $any($event).shiftKey ? 'add' : 'only')"
      (dragstart)="drag($event)"
      (dragend)="dragged.emit(null)"
    >
      <i class="pi pi-bars" aria-hidden="true"></i>
      <h2>{{ span() }}</h2>
    </button>
    @if (!narrow()) {
      <span class="quiet">{{ says() }}</span>
    }
    @if (belongs(); as to) {
      @if (store.isShelf) {
        <span class="whose">{{ to.words }}</span>
      } @else {
        <button type="button" class="belongs" [class.other]="to.other" (click)="ask.emit(run().items)">{{ to.words }}</button>
      }
    }
    @if (changeable()) {
      <button type="button" class="all" (click)="acts.take(run().items, !taken())">
        {{ narrow() ? (taken() ? 'leave' : 'take') : taken() ? 'leave all' : 'take all'
        }}<span class="visually-hidden"> of this run</span>
      </button>
    }
  `,
  styles: `
    :host {
      position: absolute;
      height: 40px;
      display: flex;
      align-items: center;
      gap: 14px;
      white-space: nowrap;
      overflow: hidden;
    }
    button {
      min-height: 28px;
      border: 0;
      background: none;
      padding: 0;
      color: var(--reed);
      font: 600 13px var(--font-text);
      cursor: pointer;
    }
    .span {
      display: flex;
      align-items: center;
      gap: 8px;
      color: var(--ink);
      cursor: grab;
    }
    .span h2 {
      font-size: 15px;
    }
    .span i {
      color: var(--quiet);
      font-size: 12px;
    }
    .belongs {
      border: 1px solid var(--line);
      border-radius: 6px;
      padding: 0 8px;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .whose {
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .belongs.other {
      border-color: var(--reed);
      background: var(--reed-soft);
    }
    /* What is in it gives way first: the acts stay in reach. */
    .quiet {
      flex: 0 1 auto;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .all {
      margin-left: auto;
      flex: none;
    }
  `,
})
export class RunHead {
  readonly run = input.required<Run<Tile>>();
  /** Does it share its row with others? */
  readonly narrow = input(false);
  /** Somebody wants to say where these belong. */
  readonly ask = output<readonly Tile[]>();
  /** The tiles that are being dragged; null when they are let go. */
  readonly dragged = output<readonly Tile[] | null>();

  protected readonly store = inject(SheetSource);
  protected readonly view = inject(View);
  protected readonly acts = inject(Acts);

  protected readonly changeable = computed(
    () => this.store.intake()?.state !== 'filing' && this.run().items.some((tile) => isChangeable(tile)),
  );
  protected readonly taken = computed(() => this.run().items.some((tile) => isChangeable(tile) && tile.lead.taken));

  protected readonly span = computed(() => {
    const { fromMs, toMs, items } = this.run();
    if (items.every(isIndex)) return `Index of ${items[0]!.lead.structureRoot ?? 'the card'}`;
    if (this.view.order() === 'size') return 'Largest first';
    if (this.view.order() === 'sharpness') return 'Least sharp first';
    if (this.view.order() === 'camera') return cameraOf(items[0]!.lead) || 'No camera named';
    if (this.view.order() === 'name') {
      const { path } = items[0]!.lead;
      return path.slice(0, -nameOf(items[0]!.lead).length - 1) || 'The card itself';
    }
    const time = (ms: number) => new Date(ms).toISOString().slice(11, 16);
    const day = DAY.format(fromMs);
    const to = time(fromMs) === time(toMs) ? '' : this.narrow() ? `–${time(toMs)}` : ` to ${time(toMs)}`;
    return `${day}, ${time(fromMs)}${to}`;
  });

  protected readonly says = computed(() => {
    const counts = new Map<string, number>();
    if (this.run().items.every(isIndex)) return '';
    for (const { lead } of this.run().items) counts.set(lead.kind, (counts.get(lead.kind) ?? 0) + 1);
    const kinds = [...counts].map(([kind, n]) => `${n} ${KIND_WORD[kind as keyof typeof KIND_WORD][n === 1 ? 0 : 1]}`);
    const cameras = this.view.order() === 'camera' ? [] : [...new Set(this.run().items.map(({ lead }) => cameraOf(lead)))];
    return [...kinds, ...cameras.filter(Boolean)].join(', ');
  });

  /** Where the run belongs, in words, as soon as the card is split at all. */
  protected readonly belongs = computed(() => {
    const intake = this.store.intake();
    const head = this.store.headOf(this.run().items.map(({ lead }) => lead));
    if (head !== null) return { words: head, other: false };
    if (!intake || !this.store.isSplit()) return null;
    const of = ({ lead }: Tile) =>
      [lead.assignment?.title ?? intake.assignment?.title ?? 'no assignment', lead.contributor?.name].filter(Boolean).join(', ');
    const all = [...new Set(this.run().items.map(of))];
    const other = this.run().items.some(({ lead }) => lead.assignment ?? lead.contributor);
    return { words: all.length === 1 ? all[0]! : `${all.length} assignments`, other };
  });

  protected drag(event: DragEvent): void {
    event.dataTransfer?.setData('text/plain', this.span());
    this.dragged.emit(this.run().items);
  }
}

const DAY = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short', year: 'numeric' });
