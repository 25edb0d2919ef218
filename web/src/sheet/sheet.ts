import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  ElementRef,
  inject,
  output,
  signal,
  untracked,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import { SessionService } from '../api/session.service';
import type { Assignment, ItemView } from '@tally/contract';
import { proposeAssignments } from '@tally/core/plan';
import { PeopleService } from '../api/people.service';
import { CountPipe } from '../shared/amounts';
import { Acts } from './acts';
import { assignmentsHere } from './assignments-here';
import { creditOfItem } from './credit-of-item';
import { SheetSource } from './sheet-source';
import { layOut, rowsInView, seated, type SheetLayout, tilesWithin, type TileRow } from './layout';
import { Proposals } from './proposals';
import { Rail } from './rail';
import { RunHead } from './run-head';
import { SheetTile, standingOf, type Standing } from './sheet-tile';
import type { Tile } from './tiles';
import { View } from './view';

const PADDING = 14;
const DRAG_PX = 6;
const LONG_PRESS_MS = 450;
const MOST_TARGETS = 5;
/** Faster than this in one frame is rushing; it is over when nothing like it came for a moment. */
const HURRY_PX = 320;
const SETTLED_MS = 90;

/** The contact sheet: pictures in order, broken into runs, only what is in view in the page. */
@Component({
  selector: 'ts-sheet',
  imports: [SheetTile, Proposals, Rail, RunHead, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (store.isShelf) {
      <ng-content select="[rail]" />
    } @else {
      <ts-rail [layout]="layout()" [from]="scrollTop()" [height]="viewHeight()" (go)="scrollTo($event)" />
    }
    <div class="scroll" #scroll [class.keys]="keyed()" (scroll)="scrolled()">
      @if (store.intake()?.state === 'open') {
        <ts-proposals [assignments]="assignments()" />
      }
      @if (dragged(); as tiles) {
        <div class="targets" role="group" aria-label="Assignments">
          @for (target of targets(); track target.id) {
            <span
              [class.over]="over() === target.id"
              (dragover)="$event.preventDefault(); over.set(target.id)"
              (dragleave)="over.set(null)"
              (drop)="drop($event, target)"
              >{{ target.title }}</span
            >
          }
          <span class="more" (dragover)="$event.preventDefault()" (drop)="dropElsewhere($event)">another…</span>
        </div>
      }
      <div
        class="canvas"
        #canvas
        [style.height.px]="layout().height"
        (pointerdown)="press($event)"
        (pointermove)="draw($event)"
        (pointerup)="release($event)"
        (pointercancel)="cancel()"
        (dblclick)="lookAt($event)"
        (contextmenu)="long && $event.preventDefault()"
      >
        @for (head of heads(); track head.key) {
          <ts-run-head
            [run]="head.run"
            [narrow]="head.narrow"
            [style.top.px]="head.top"
            [style.left.px]="head.left"
            [style.width.px]="head.width"
            (ask)="ask.emit($event)"
            (dragged)="dragged.set($event)"
          />
        }
        @if (layout().rows.length) {
          <div
            class="list"
            #list
            tabindex="0"
            role="listbox"
            [attr.aria-label]="store.isShelf ? 'What is found' : 'Items on this card'"
            aria-multiselectable="true"
            [attr.aria-activedescendant]="active()"
            (focus)="keyed.set($any($event.target).matches(':focus-visible'))"
            (blur)="keyed.set(false)"
          >
            @for (placed of seats(); track placed.seat) {
              <ts-tile
                [tile]="placed.tile"
                [hurried]="hurried()"
                [tray]="store.intake()?.tray ?? 'on the desk'"
                [standing]="standings().get(placed.tile.lead.id) ?? ordinary"
                [id]="'tile-' + placed.index"
                [attr.aria-posinset]="placed.index + 1"
                [attr.aria-setsize]="view.tiles().length"
                [class.focus]="placed.index === view.focus()"
                [class.chosen]="view.chosen().has(placed.tile.lead.id)"
                [style.transform]="'translate(' + placed.left + 'px,' + placed.top + 'px)'"
                [style.width.px]="placed.width"
                [style.height.px]="placed.height"
              />
            }
          </div>
        } @else if (!store.loading() && store.tiles().length) {
          <p class="empty">
            {{ store.isShelf ? 'Nothing here is like that.' : 'Nothing on this card is like that. Show everything again above.' }}
          </p>
        }
        @if (box(); as drawn) {
          <div
            class="box"
            [style.left.px]="drawn.left"
            [style.top.px]="drawn.top"
            [style.width.px]="drawn.right - drawn.left"
            [style.height.px]="drawn.bottom - drawn.top"
          ></div>
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
      position: relative;
      overflow-y: auto;
      padding: 4px 14px 24px;
      overflow-anchor: none;
    }
    .list {
      position: absolute;
      inset: 0;
      pointer-events: none;
    }
    .list > * {
      pointer-events: auto;
      left: 0;
      top: 0;
    }
    [role='listbox']:focus-visible {
      outline: none;
    }
    .scroll.keys {
      outline: 3px solid var(--reed);
      outline-offset: -3px;
    }
    .canvas {
      position: relative;
      contain: strict;
      min-height: 120px;
      touch-action: pan-y;
    }
    .box {
      position: absolute;
      border: 2px solid var(--reed);
      background: color-mix(in srgb, var(--reed) 14%, transparent);
      z-index: 2;
      pointer-events: none;
    }
    .targets {
      position: sticky;
      top: 0;
      z-index: 4;
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
      padding: 8px;
      margin-bottom: -60px;
      background: var(--paper);
      border: 2px solid var(--reed);
      border-radius: 6px;
    }
    .targets span {
      padding: 8px 14px;
      border: 2px dashed var(--reed);
      border-radius: 6px;
      color: var(--reed);
      font-weight: 600;
    }
    .targets .over {
      background: var(--reed);
      color: var(--on-reed);
    }
    .targets .more {
      border-color: var(--line);
    }
    .aside {
      margin-top: 8px;
    }
    .aside summary {
      cursor: pointer;
      min-height: 28px;
    }
    .aside li {
      padding: 2px 0;
      overflow-wrap: anywhere;
    }
  `,
})
export class Sheet implements OnDestroy {
  protected readonly store = inject(SheetSource);
  protected readonly view = inject(View);
  private readonly acts = inject(Acts);
  private readonly session = inject(SessionService);
  readonly look = output<number>();
  /** Somebody wants to say where these belong. */
  readonly ask = output<readonly Tile[]>();
  /** What is shown ends near the window: more is wanted there. */
  readonly near = output<'start' | 'end'>();
  /** The first tile in the window is another one. */
  readonly top = output<Tile>();

  private readonly scroll = viewChild.required<ElementRef<HTMLElement>>('scroll');
  private readonly list = viewChild<ElementRef<HTMLElement>>('list');
  private readonly canvas = viewChild.required<ElementRef<HTMLElement>>('canvas');
  private readonly resized = new ResizeObserver(() => this.measure());
  private readonly width = signal(800);
  protected readonly scrollTop = signal(0);
  protected readonly viewHeight = signal(500);

  protected readonly assignments = assignmentsHere(inject(SheetSource), inject(PeopleService));
  protected readonly dragged = signal<readonly Tile[] | null>(null);
  protected readonly over = signal<number | null>(null);
  protected readonly box = signal<{ left: number; top: number; right: number; bottom: number } | null>(null);
  protected readonly ordinary = standingOf(null, null, false);
  protected readonly hurried = signal(false);
  protected readonly keyed = signal(false);
  private settling: ReturnType<typeof setTimeout> | undefined;
  protected long = false;
  private anchor = 0;
  private pressed: { x: number; y: number; touch: boolean; timer?: ReturnType<typeof setTimeout> } | null = null;

  protected readonly layout = computed(() => layOut(this.view.runs(), this.width()));
  private readonly rows = computed(() => rowsInView(this.layout(), this.scrollTop(), this.viewHeight()));
  protected readonly heads = computed(() =>
    this.rows().flatMap((row) =>
      row.type === 'head'
        ? row.heads.map((head) => ({ ...head, top: row.top, narrow: row.heads.length > 1, key: `${row.top} ${head.left}` }))
        : [],
    ),
  );
  /** Seats only grow: a window full of small tiles needs more of them. */
  private seatCount = 64;
  protected readonly seats = computed(() => {
    const inView = this.rows().reduce((n, row) => n + (row.type === 'tiles' ? row.tiles.length : 0), 0);
    while (this.seatCount < inView) this.seatCount *= 2;
    return seated(this.rows(), this.seatCount);
  });

  /** The focused tile, while it is drawn: a reader is told of nothing that is not in the page. */
  protected readonly active = computed(() => {
    const index = this.view.focus();
    return this.seats().some((placed) => placed.index === index) ? `tile-${index}` : null;
  });

  /** What may be done with an item, once for each as long as nobody says anything else. */
  private readonly termsOf = computed(() => {
    const [context, intake, today] = [this.store.credit(), this.store.intake(), this.session.today()];
    if (this.store.isShelf)
      return (item: ItemView): Standing['terms'] => {
        const terms = this.store.termsOf(item);
        return terms && { ...terms, own: terms.mark === 'no' };
      };
    if (!context || !intake) return () => null;
    const ofSlip = creditOfItem(null, intake, context, today).standing;
    const known = new WeakMap<ItemView, Standing['terms']>();
    return (item: ItemView): Standing['terms'] => {
      const before = known.get(item);
      if (before) return before;
      const { standing } = creditOfItem(item, intake, context, today);
      const terms = { ...standing, own: standing.words !== ofSlip.words };
      known.set(item, terms);
      return terms;
    };
  });

  /** What stands out about the tiles in view. */
  protected readonly standings = computed(() => {
    const similar = this.view.similar();
    const foreign = this.store.foreignBodies();
    const slip = this.store.intake();
    const termsOf = this.termsOf();
    return new Map(
      this.seats().map(({ tile: { lead } }): [number, Standing] => {
        const group = similar.get(lead.id);
        const elsewhere = !this.store.isShelf && lead.assignment?.id !== slip?.assignment?.id;
        const other = this.store.isAway(lead) ? 'away' : elsewhere ? (lead.assignment?.slug ?? null) : null;
        const sharp = group ? { sharpness: lead.sharpness, best: group.sharpest === lead.id } : null;
        const strange = lead.serial !== null && foreign.has(lead.serial) && !lead.contributor;
        return [lead.id, standingOf(sharp, other, strange, termsOf(lead))];
      }),
    );
  });

  /** Where a dragged run can be let go: what the slip says, and what else fits its days. */
  protected readonly targets = computed<Assignment[]>(() => {
    const tiles = this.dragged() ?? [];
    const days = tiles.map(({ lead }) => lead.captured.local);
    const standing = this.assignments().filter(({ id }) => id === this.store.intake()?.assignment?.id);
    const used = new Set(this.store.material().flatMap((item) => item.assignment?.id ?? []));
    const others = [
      ...proposeAssignments(days, this.assignments(), this.store.intake()?.contributor?.id ?? null, this.session.dayBegins()),
      ...this.assignments().filter(({ id }) => used.has(id)),
    ];
    return [...new Map([...standing, ...others].map((one) => [one.id, one])).values()].slice(0, MOST_TARGETS);
  });

  constructor() {
    effect(() => this.resized.observe(this.scroll().nativeElement));
    if (this.store.isShelf) {
      // What comes before moves its index: only another one is brought into view.
      const focused = computed(() => this.view.focused()?.lead.id);
      effect(() => {
        focused();
        untracked(() => this.reveal(this.view.focus()));
      });
    } else effect(() => this.reveal(this.view.focus()));
    if (this.store.isShelf) effect(() => this.stay(this.layout()));
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
  }

  /** Index of the tile above or below. */
  neighbour(index: number, rows: 1 | -1): number {
    const all = this.layout().rows.filter((row) => row.type === 'tiles');
    const at = all.findIndex((row) => row.tiles.at(-1)!.index >= index);
    const here = all[at]?.tiles.find((placed) => placed.index === index);
    const there = all[at + rows];
    if (!here || !there) return index;
    const middle = here.left + here.width / 2;
    return there.tiles.reduce((best, placed) =>
      Math.abs(placed.left + placed.width / 2 - middle) < Math.abs(best.left + best.width / 2 - middle) ? placed : best,
    ).index;
  }

  /** Chooses everything between the last plain choice and here. */
  chooseTo(index: number): void {
    const [from, to] = [Math.min(this.anchor, index), Math.max(this.anchor, index)];
    this.view.choose(this.view.tiles().slice(from, to + 1), 'only');
  }

  /** Keys speak to the sheet again. */
  takeFocus(): void {
    this.list()?.nativeElement.focus({ preventScroll: true });
  }

  setAnchor(index: number): void {
    this.anchor = index;
  }

  protected scrolled(): void {
    const top = this.scroll().nativeElement.scrollTop;
    // While somebody rushes through the card, no picture that has not been seen is asked for.
    if (Math.abs(top - this.scrollTop()) > HURRY_PX) {
      this.hurried.set(true);
      clearTimeout(this.settling);
      this.settling = setTimeout(() => this.hurried.set(false), SETTLED_MS);
    }
    this.scrollTop.set(top);
    if (this.store.isShelf) this.mind(top);
  }

  /** What is first in the window, and how far from its top. */
  private held: { readonly id: number; readonly offset: number } | null = null;

  /** Remembers what is looked at, and asks for more where it ends. */
  private mind(top: number): void {
    const row = this.layout().rows.find((one): one is TileRow => one.type === 'tiles' && one.top + one.height > top);
    const first = row?.tiles[0]?.tile;
    if (first) {
      if (first.lead.id !== this.held?.id) this.top.emit(first);
      this.held = { id: first.lead.id, offset: row.top - top };
    }
    if (top < this.viewHeight()) this.near.emit('start');
    if (this.layout().height - top < 3 * this.viewHeight()) this.near.emit('end');
  }

  /** What was added before what is looked at moves nothing under the pointer. */
  private stay(layout: SheetLayout): void {
    untracked(() => {
      const { held } = this;
      const row =
        held &&
        layout.rows.find((one): one is TileRow => one.type === 'tiles' && one.tiles.some(({ tile }) => tile.lead.id === held.id));
      const box = this.scroll().nativeElement;
      if (held && row) {
        const top = row.top - held.offset;
        if (Math.abs(top - box.scrollTop) > 1) {
          // The page must be as tall before it can be scrolled there.
          this.canvas().nativeElement.style.height = `${layout.height}px`;
          box.scrollTop = top;
          this.scrollTop.set(box.scrollTop);
        }
      } else {
        this.held = null;
        box.scrollTop = 0;
        this.scrollTop.set(0);
      }
      setTimeout(() => this.mind(box.scrollTop));
    });
  }

  protected scrollTo(top: number): void {
    this.scroll().nativeElement.scrollTo({ top });
  }

  // A press is a click, a drawn rectangle (mouse, pen) or, held, a choice (touch).
  protected press(event: PointerEvent): void {
    if (event.button !== 0 || (event.target as HTMLElement).closest('ts-run-head')) return;
    const touch = event.pointerType === 'touch';
    this.long = false;
    this.pressed = { ...this.pointOf(event), touch };
    if (touch) {
      const index = indexOf(event);
      this.pressed.timer = setTimeout(() => {
        this.long = true;
        if (index !== null) this.view.choose([this.view.tiles()[index]!], 'turn');
      }, LONG_PRESS_MS);
    }
  }

  protected draw(event: PointerEvent): void {
    if (!this.pressed) return;
    const { x, y } = this.pointOf(event);
    const far = Math.abs(x - this.pressed.x) + Math.abs(y - this.pressed.y) > DRAG_PX;
    if (this.pressed.touch) {
      if (far) clearTimeout(this.pressed.timer);
      return;
    }
    if (!far && !this.box()) return;
    if (!this.box()) this.canvas().nativeElement.setPointerCapture(event.pointerId);
    this.box.set({
      left: Math.min(x, this.pressed.x),
      right: Math.max(x, this.pressed.x),
      top: Math.min(y, this.pressed.y),
      bottom: Math.max(y, this.pressed.y),
    });
  }

  protected release(event: PointerEvent): void {
    const box = this.box();
    const { pressed } = this;
    this.cancel();
    if (!pressed || this.long) return;
    if (box) this.view.choose(tilesWithin(this.layout(), box), event.ctrlKey || event.metaKey || event.shiftKey ? 'add' : 'only');
    else {
      const index = indexOf(event);
      if (index === null) this.view.chooseNone();
      else this.click(index, event);
    }
  }

  protected lookAt(event: MouseEvent): void {
    const index = indexOf(event);
    if (index !== null && !event.ctrlKey && !event.metaKey) this.look.emit(index);
  }

  protected cancel(): void {
    clearTimeout(this.pressed?.timer);
    this.pressed = null;
    this.box.set(null);
  }

  protected drop(event: DragEvent, { id, slug, title }: Assignment): void {
    event.preventDefault();
    const isSlip = id === this.store.intake()?.assignment?.id;
    this.acts.split(this.dragged() ?? [], { assignment: isSlip ? null : { id, slug, title } }, `to ${title}`);
    this.dragged.set(null);
  }

  protected dropElsewhere(event: DragEvent): void {
    event.preventDefault();
    this.ask.emit(this.dragged() ?? []);
    this.dragged.set(null);
  }

  private click(index: number, event: PointerEvent): void {
    const tiles = this.view.tiles();
    const tile = tiles[index];
    if (!tile) return;
    if (event.ctrlKey || event.metaKey) this.view.choose([tile], 'turn');
    else if (event.shiftKey) {
      const [from, to] = [Math.min(this.anchor, index), Math.max(this.anchor, index)];
      if (this.store.isShelf) this.chooseTo(index);
      else this.acts.take(tiles.slice(from, to + 1), tiles[this.anchor]?.lead.taken ?? true);
    } else {
      this.anchor = index;
      if (this.store.isShelf) this.view.choose([tile], pressedByTouch(event) && this.view.chosen().size ? 'turn' : 'only');
      else if (this.view.chosen().size && pressedByTouch(event)) this.view.choose([tile], 'turn');
      else this.acts.take([tile], !tile.lead.taken);
    }
    this.view.focus.set(index);
  }

  private pointOf(event: PointerEvent): { x: number; y: number } {
    const frame = this.canvas().nativeElement.getBoundingClientRect();
    return { x: event.clientX - frame.left, y: event.clientY - frame.top };
  }

  private reveal(index: number): void {
    const row = this.layout().rows.find((one): one is TileRow => one.type === 'tiles' && one.tiles.at(-1)!.index >= index);
    const box = this.scroll().nativeElement;
    if (!row) return;
    if (row.top < box.scrollTop) box.scrollTop = row.top - 44;
    else if (row.top + row.height > box.scrollTop + box.clientHeight)
      box.scrollTop = row.top + row.height - box.clientHeight + 12;
  }

  private measure(): void {
    const box = this.scroll().nativeElement;
    const inner = box.clientWidth - 2 * PADDING;
    if (inner > 100) this.width.set(inner);
    this.viewHeight.set(box.clientHeight);
  }
}

const pressedByTouch = (event: PointerEvent) => event.pointerType === 'touch';

function indexOf(event: MouseEvent): number | null {
  const tile = (event.target as HTMLElement).closest<HTMLElement>('ts-tile');
  return tile ? Number(tile.id.slice('tile-'.length)) : null;
}
