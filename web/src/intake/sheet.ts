import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  ElementRef,
  inject,
  input,
  output,
  signal,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import { CountPipe } from '../shared/amounts';
import type { Run } from '@tally/core/card';
import { IntakeStore, type Tile } from './intake-store';
import { layOut, rowsInView } from './layout';
import { Rail } from './rail';
import { SheetTile } from './sheet-tile';

const KIND_WORD = {
  photo: ['picture', 'pictures'],
  raw: ['raw', 'raws'],
  video: ['clip', 'clips'],
  sound: ['sound', 'sounds'],
  sidecar: ['sidecar', 'sidecars'],
  other: ['other file', 'other files'],
} as const;

/** The contact sheet: pictures in time order, broken into runs, only what is in view in the page. */
@Component({
  selector: 'ts-sheet',
  imports: [SheetTile, Rail, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ts-rail [layout]="layout()" [from]="scrollTop()" [height]="viewHeight()" (go)="scrollTo($event)" />
    <div class="scroll" #scroll (scroll)="scrolled()">
      <div class="canvas" [style.height.px]="layout().height">
        @for (head of heads(); track head.top) {
          <div class="head" [style.top.px]="head.top">
            <h2>{{ span(head.run) }}</h2>
            <span class="quiet">{{ says(head.run) }}</span>
            @if (changeable(head.run)) {
              <button type="button" class="all" (click)="takeRun(head.run)">
                {{ isTaken(head.run) ? 'leave all' : 'take all' }}<span class="visually-hidden"> of this run</span>
              </button>
            }
          </div>
        }
        @if (layout().rows.length) {
          <div
            tabindex="0"
            role="listbox"
            aria-label="Items on this card"
            aria-multiselectable="true"
            [attr.aria-activedescendant]="'tile-' + focus()"
          >
            @for (row of tileRows(); track row.top) {
              @for (placed of row.tiles; track placed.tile.lead.id) {
                <ts-tile
                  [tile]="placed.tile"
                  [id]="'tile-' + placed.index"
                  [class.focus]="placed.index === focus()"
                  [style.top.px]="row.top"
                  [style.left.px]="placed.left"
                  [style.width.px]="placed.width"
                  [style.height.px]="row.height"
                  (click)="choose(placed.index, $event)"
                  (dblclick)="look.emit(placed.index)"
                />
              }
            }
          </div>
        }
      </div>
      @if (!layout().rows.length && store.loading()) {
        @for (row of [1, 2, 3]; track row) {
          <div class="skeleton" style="height: 96px; margin: 44px 0 0"></div>
        }
      }
      @if (store.setAside().length) {
        <details class="aside">
          <summary>{{ store.setAside().length | count: 'file' }} set aside</summary>
          <ul>
            @for (item of store.setAside(); track item.id) {
              <li>
                <code>{{ item.path }}</code> <span class="quiet">{{ item.setAside }}</span>
              </li>
            }
          </ul>
        </details>
      }
    </div>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 70px minmax(0, 1fr);
      min-height: 0;
    }
    .scroll {
      overflow-y: auto;
      padding: 4px 14px 24px;
      overflow-anchor: none;
    }
    [role='listbox']:focus-visible {
      outline: none;
    }
    .scroll:has([role='listbox']:focus-visible) {
      outline: 3px solid var(--reed);
      outline-offset: -3px;
    }
    .canvas {
      position: relative;
      contain: strict;
    }
    .head {
      position: absolute;
      left: 0;
      right: 0;
      height: 40px;
      display: flex;
      align-items: center;
      gap: 14px;
    }
    .head h2 {
      font-size: 15px;
    }
    .all {
      margin-left: auto;
      min-height: 28px;
      border: 0;
      background: none;
      color: var(--reed);
      font: 600 13px var(--font-text);
      cursor: pointer;
    }
    .aside {
      margin-top: 8px;
    }
    .aside summary {
      cursor: pointer;
      min-height: 28px;
    }
    .aside code {
      overflow-wrap: anywhere;
    }
  `,
})
export class Sheet implements OnDestroy {
  protected readonly store = inject(IntakeStore);
  readonly focus = input.required<number>();
  readonly look = output<number>();
  readonly focusOn = output<number>();

  private readonly scroll = viewChild.required<ElementRef<HTMLElement>>('scroll');
  private readonly width = signal(780);
  protected readonly scrollTop = signal(0);
  protected readonly viewHeight = signal(600);
  private readonly resized = new ResizeObserver(() => this.measure());
  private anchor = 0;

  readonly layout = computed(() => layOut(this.store.runs(), this.width()));
  private readonly rows = computed(() => rowsInView(this.layout(), this.scrollTop(), this.viewHeight()));
  protected readonly heads = computed(() => this.rows().filter((row) => row.type === 'head'));
  protected readonly tileRows = computed(() => this.rows().filter((row) => row.type === 'tiles'));
  /** Tiles in the order in which they stand on the sheet. */
  readonly order = computed(() =>
    this.layout().rows.flatMap((row) => (row.type === 'tiles' ? row.tiles.map((placed) => placed.tile) : [])),
  );

  constructor() {
    effect(() => this.resized.observe(this.scroll().nativeElement));
    effect(() => this.reveal(this.focus()));
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
  }

  /** Index of the tile above or below. */
  neighbour(index: number, rows: 1 | -1): number {
    const all = this.layout().rows.filter((row) => row.type === 'tiles');
    const at = all.findIndex((row) => row.tiles.some((placed) => placed.index === index));
    const here = all[at]?.tiles.find((placed) => placed.index === index);
    const there = all[at + rows];
    if (!here || !there) return index;
    const middle = here.left + here.width / 2;
    return there.tiles.reduce((best, placed) =>
      Math.abs(placed.left + placed.width / 2 - middle) < Math.abs(best.left + best.width / 2 - middle) ? placed : best,
    ).index;
  }

  protected scrolled(): void {
    this.scrollTop.set(this.scroll().nativeElement.scrollTop);
  }

  protected scrollTo(top: number): void {
    this.scroll().nativeElement.scrollTo({ top });
  }

  protected choose(index: number, event: MouseEvent): void {
    const tiles = this.order();
    if (event.shiftKey) {
      const [from, to] = [Math.min(this.anchor, index), Math.max(this.anchor, index)];
      this.store.take(tiles.slice(from, to + 1), tiles[this.anchor]?.lead.taken ?? true);
    } else {
      this.anchor = index;
      const tile = tiles[index];
      if (tile) this.store.take([tile], !tile.lead.taken);
    }
    this.focusOn.emit(index);
  }

  protected takeRun(run: Run<Tile>): void {
    this.store.take(run.items, !this.isTaken(run));
  }

  /** Is there anything in a run that can still be taken or left? */
  protected changeable(run: Run<Tile>): boolean {
    return this.store.intake()?.state !== 'filing' && run.items.some(({ lead }) => !lead.filedAs && !lead.alreadyFiled);
  }

  protected isTaken(run: Run<Tile>): boolean {
    return run.items.some((tile) => tile.lead.taken && !tile.lead.alreadyFiled);
  }

  protected span(run: Run<Tile>): string {
    const time = (ms: number) => new Date(ms).toISOString().slice(11, 16);
    const day = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short', year: 'numeric' }).format(
      run.fromMs,
    );
    return `${day}, ${time(run.fromMs)}${time(run.fromMs) === time(run.toMs) ? '' : ` to ${time(run.toMs)}`}`;
  }

  protected says(run: Run<Tile>): string {
    const counts = new Map<string, number>();
    for (const { lead } of run.items) counts.set(lead.kind, (counts.get(lead.kind) ?? 0) + 1);
    const kinds = [...counts].map(([kind, n]) => `${n} ${KIND_WORD[kind as keyof typeof KIND_WORD][n === 1 ? 0 : 1]}`);
    const cameras = new Set(run.items.map(({ lead }) => [lead.make, lead.model].filter(Boolean).join(' ')).filter(Boolean));
    return [...kinds, ...cameras].join(', ');
  }

  private reveal(index: number): void {
    const row = this.layout().rows.find(
      (candidate) => candidate.type === 'tiles' && candidate.tiles.some((placed) => placed.index === index),
    );
    const box = this.scroll().nativeElement;
    if (!row) return;
    if (row.top < box.scrollTop) box.scrollTop = row.top - 44;
    else if (row.top + row.height > box.scrollTop + box.clientHeight)
      box.scrollTop = row.top + row.height - box.clientHeight + 12;
  }

  private measure(): void {
    const box = this.scroll().nativeElement;
    const inner = box.clientWidth - 28;
    if (inner > 100) this.width.set(inner);
    this.viewHeight.set(box.clientHeight);
  }
}
