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
  untracked,
  type OnDestroy,
} from '@angular/core';
import type { ItemView } from '@tally/contract';

/** A point of a picture, from 0 to 1 in both directions. */
export interface Point {
  readonly x: number;
  readonly y: number;
}

/**
 * One picture in the closer look: whole, or every pixel around a point. The larger preview shows at once, the file
 * itself over it as soon as it is there.
 */
@Component({
  selector: 'ts-pane',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      class="box"
      [style.left.px]="box().left"
      [style.top.px]="box().top"
      [style.width.px]="box().width"
      [style.height.px]="box().height"
    >
      @for (url of urls(); track url) {
        <img
          [src]="url"
          alt=""
          draggable="false"
          decoding="sync"
          [style.width.px]="sides().width"
          [style.height.px]="sides().height"
          [style.transform]="'translate(-50%, -50%) rotate(' + item().turned * 90 + 'deg)'"
          (load)="loaded($any($event.target))"
          (error)="lost.set(url)"
        />
      }
    </div>
    @if (lost() && lost() === urls()[0]) {
      <p class="none">
        {{ away() ? 'Its card is away, and no larger picture was kept.' : 'No picture can be made of this ' + item().kind + '.' }}
        @if (item().remark ?? item().problem; as why) {
          <span>{{ why }}</span>
        }
      </p>
    }
  `,
  styles: `
    :host {
      position: relative;
      display: block;
      overflow: hidden;
      cursor: zoom-in;
      touch-action: none;
    }
    :host(.close) {
      cursor: grab;
    }
    .box {
      position: absolute;
    }
    img {
      position: absolute;
      left: 50%;
      top: 50%;
    }
    .none {
      position: absolute;
      inset: 0;
      display: grid;
      place-content: center;
      gap: 6px;
      text-align: center;
      color: var(--quiet);
    }
  `,
  host: {
    '[class.close]': 'zoomed()',
    '(pointerdown)': 'press($event)',
    '(pointermove)': 'drag($event)',
    '(pointerup)': 'release($event)',
  },
})
export class Pane implements OnDestroy {
  readonly item = input.required<ItemView>();
  /** Is its card out of the reader? */
  readonly away = input(false);
  readonly zoomed = input(false);
  readonly at = input<Point>({ x: 0.5, y: 0.5 });
  /** A click at a point of the picture. */
  readonly clicked = output<Point>();
  /** The picture was dragged: this point is in the middle now. */
  readonly moved = output<Point>();

  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly room = signal({ width: 800, height: 500 });
  private readonly natural = signal<{ width: number; height: number } | null>(null);
  protected readonly lost = signal('');
  private readonly resized = new ResizeObserver(() => this.measure());
  private pressed: { x: number; y: number; at: Point; dragged: boolean } | null = null;

  protected readonly urls = computed(() => {
    const url = `/api/items/${this.item().id}/picture/`;
    return this.zoomed() ? [`${url}closer`, `${url}full`] : [`${url}closer`];
  });

  /** Pixels of the picture as it is seen, turned. */
  private readonly pixels = computed(() => {
    const { width, height, turned } = this.item();
    const known = width && height ? { width, height } : (this.natural() ?? { width: 3, height: 2 });
    return turned % 2 ? { width: known.height, height: known.width } : known;
  });

  protected readonly box = computed(() => {
    const { width, height } = this.pixels();
    const room = this.room();
    const scale = this.zoomed() ? 1 / (globalThis.devicePixelRatio || 1) : Math.min(room.width / width, room.height / height);
    const size = { width: width * scale, height: height * scale };
    const place = (whole: number, part: number, at: number) =>
      part <= whole ? (whole - part) / 2 : Math.min(0, Math.max(whole - part, whole / 2 - at * part));
    return { ...size, left: place(room.width, size.width, this.at().x), top: place(room.height, size.height, this.at().y) };
  });

  /** Sides of the picture before it is turned. */
  protected readonly sides = computed(() => {
    const { width, height } = this.box();
    return this.item().turned % 2 ? { width: height, height: width } : { width, height };
  });

  constructor() {
    this.resized.observe(this.host.nativeElement);
    effect(() => {
      this.item();
      untracked(() => this.natural.set(null));
    });
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
  }

  protected loaded(image: HTMLImageElement): void {
    if (!this.item().width) this.natural.set({ width: image.naturalWidth, height: image.naturalHeight });
  }

  protected press(event: PointerEvent): void {
    this.host.nativeElement.setPointerCapture(event.pointerId);
    this.pressed = { x: event.clientX, y: event.clientY, at: this.centre(), dragged: false };
  }

  protected drag(event: PointerEvent): void {
    if (!this.pressed || !this.zoomed()) return;
    const [dx, dy] = [event.clientX - this.pressed.x, event.clientY - this.pressed.y];
    if (!this.pressed.dragged && Math.abs(dx) + Math.abs(dy) < 5) return;
    this.pressed.dragged = true;
    const { width, height } = this.box();
    this.moved.emit(within({ x: this.pressed.at.x - dx / width, y: this.pressed.at.y - dy / height }));
  }

  protected release(event: PointerEvent): void {
    const { pressed } = this;
    this.pressed = null;
    if (!pressed || pressed.dragged) return;
    const frame = this.host.nativeElement.getBoundingClientRect();
    const { left, top, width, height } = this.box();
    this.clicked.emit(within({ x: (event.clientX - frame.left - left) / width, y: (event.clientY - frame.top - top) / height }));
  }

  /** The point of the picture that stands in the middle of the pane. */
  private centre(): Point {
    const { left, top, width, height } = this.box();
    const room = this.room();
    return { x: (room.width / 2 - left) / width, y: (room.height / 2 - top) / height };
  }

  private measure(): void {
    const { clientWidth, clientHeight } = this.host.nativeElement;
    if (clientWidth && clientHeight) this.room.set({ width: clientWidth, height: clientHeight });
  }
}

const within = ({ x, y }: Point): Point => ({ x: Math.min(1, Math.max(0, x)), y: Math.min(1, Math.max(0, y)) });
