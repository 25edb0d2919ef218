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
import { formatDuration } from '@tally/core/logbook';
import type { Run } from '@tally/core/card';
import { IntakeStore, type Tile } from './intake-store';
import { layOut, rowsInView } from './layout';
import { Picture } from './picture';
import { Rail } from './rail';

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
  imports: [Picture, Rail, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ts-rail [layout]="layout()" [from]="scrollTop()" [height]="viewHeight()" (go)="scrollTo($event)" />
    <div
      class="scroll"
      #scroll
      (scroll)="scrolled()"
      tabindex="0"
      role="listbox"
      aria-label="Items on this card"
      aria-multiselectable="true"
      [attr.aria-activedescendant]="'tile-' + focus()"
    >
      <div class="canvas" [style.height.px]="layout().height">
        @for (row of rows(); track row.top) {
          @if (row.type === 'head') {
            <div class="head" role="presentation" [style.top.px]="row.top">
              <h2>{{ span(row.run) }}</h2>
              <span class="quiet">{{ says(row.run) }}</span>
              @if (changeable()) {
                <button type="button" class="all" (click)="takeRun(row.run)">
                  {{ isTaken(row.run) ? 'leave all' : 'take all' }}<span class="visually-hidden"> of this run</span>
                </button>
              }
            </div>
          } @else {
            @for (placed of row.tiles; track placed.tile.lead.id) {
              <div
                role="option"
                class="tile"
                [id]="'tile-' + placed.index"
                [class.left]="!placed.tile.lead.taken && !placed.tile.lead.filedAs"
                [class.already]="placed.tile.lead.alreadyFiled && !placed.tile.lead.filedAs"
                [class.focus]="placed.index === focus()"
                [attr.aria-selected]="placed.tile.lead.taken"
                [attr.aria-label]="describe(placed.tile)"
                [style.top.px]="row.top"
                [style.left.px]="placed.left"
                [style.width.px]="placed.width"
                [style.height.px]="row.height"
                (click)="choose(placed.index, $event)"
                (dblclick)="look.emit(placed.index)"
              >
                <ts-picture [item]="placed.tile.lead" />
                @if (badge(placed.tile); as text) {
                  <span class="badge">{{ text }}</span>
                }
                @if (placed.tile.lead.remark || placed.tile.lead.problem || placed.tile.lead.captured.doubt === 'camera epoch') {
                  <span
                    class="odd"
                    [title]="placed.tile.lead.problem ?? placed.tile.lead.remark ?? 'dated by a clock that was not set'"
                    >!</span
                  >
                }
                <svg class="mark" viewBox="0 0 20 12" aria-hidden="true">
                  @if (placed.tile.lead.alreadyFiled && !placed.tile.lead.filedAs) {
                    <path d="M2 4 H18 M2 8 H18" stroke="currentColor" stroke-width="1.600" />
                  } @else if (placed.tile.lead.taken || placed.tile.lead.filedAs) {
                    <path d="M2 12 L5 2 H15 L18 12 Z" fill="currentColor" />
                  } @else {
                    <circle cx="10" cy="6" r="4.500" fill="none" stroke="currentColor" stroke-width="1.600" />
                  }
                </svg>
              </div>
            }
          }
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
    .scroll:focus-visible {
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
    .tile {
      position: absolute;
      border: 2px solid var(--ink);
      background: var(--sheet);
      cursor: pointer;
      user-select: none;
    }
    .tile.left {
      border-color: transparent;
    }
    .tile.left ts-picture {
      filter: grayscale(0.85) opacity(0.45);
    }
    .tile.already {
      border-color: var(--line);
    }
    .tile.already ts-picture {
      filter: grayscale(1) opacity(0.6);
    }
    .tile.focus {
      outline: 3px solid var(--reed);
      outline-offset: 1px;
      z-index: 1;
    }
    .mark {
      position: absolute;
      left: 50%;
      bottom: -1px;
      width: 20px;
      height: 11px;
      transform: translateX(-50%);
      color: var(--paper);
    }
    .tile.left .mark,
    .tile.already .mark {
      left: 14px;
      bottom: 6px;
      color: var(--ink);
    }
    .badge,
    .odd {
      position: absolute;
      top: 4px;
      right: 4px;
      padding: 0 6px;
      border-radius: 3px;
      background: rgba(15, 22, 19, 0.86);
      color: #fff;
      font: 600 12px/18px var(--font-mono);
    }
    .odd {
      right: auto;
      left: 4px;
      background: var(--straw);
      color: var(--ochre);
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
  protected readonly rows = computed(() => rowsInView(this.layout(), this.scrollTop(), this.viewHeight()));
  protected readonly changeable = computed(() => this.store.intake()?.state !== 'filing');
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

  focusList(): void {
    this.scroll().nativeElement.focus({ preventScroll: true });
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

  protected badge(tile: Tile): string {
    const { durationMs, kind } = tile.lead;
    const length = durationMs && (kind === 'video' || kind === 'sound') ? formatDuration(durationMs) : '';
    const kinds = [...new Set(tile.companions.map((item) => item.kind))].map((companion) => `+${companion}`);
    return [length, ...kinds].filter(Boolean).join(' ');
  }

  protected describe({ lead, companions }: Tile): string {
    const name = lead.path.slice(lead.path.lastIndexOf('/') + 1);
    const state = lead.filedAs
      ? `filed as ${lead.filedAs}`
      : lead.alreadyFiled
        ? `already filed as ${lead.alreadyFiled.path}`
        : lead.taken
          ? 'taken'
          : 'left';
    const odd = [lead.problem, lead.remark, lead.captured.doubt].filter(Boolean).join(', ');
    return [
      name,
      lead.kind,
      lead.captured.local.replace('T', ' '),
      companions.length ? `with ${companions.length} companion` : '',
      state,
      odd,
    ]
      .filter(Boolean)
      .join(', ');
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
