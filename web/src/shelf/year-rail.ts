import {
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  output,
  signal,
  type OnDestroy,
} from '@angular/core';
import type { MadeOfAnswer } from '@tally/contract';

const PAD = 10;
const TEXT_PX = 14;
const WIDTH = 70;

interface Bar {
  readonly y: number;
  readonly height: number;
  readonly length: number;
  readonly at: number;
  readonly month: string;
  readonly items: number;
}

const MONTH = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', month: 'short' });
const FULL = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', month: 'long', year: 'numeric' });

/** Twenty-two years beside the sheet, newest first: the longer a month's bar, the more was taken in it. A press goes there. */
@Component({
  selector: 'ts-year-rail',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg [attr.height]="size()" [attr.width]="width" aria-hidden="true" (click)="jump($event)">
      @for (bar of bars(); track bar.month) {
        <rect
          [attr.x]="width - bar.length"
          [attr.y]="bar.y"
          [attr.width]="bar.length"
          [attr.height]="bar.height"
          class="bar"
          [class.here]="bar.month === month()"
        >
          <title>{{ says(bar) }}</title>
        </rect>
      }
      @for (tick of ticks(); track tick.text + tick.y) {
        <line x1="0" [attr.x2]="tick.year ? width : 24" [attr.y1]="tick.y" [attr.y2]="tick.y" class="line" />
        <text x="3" [attr.y]="tick.y + 12" [class.year]="tick.year">{{ tick.text }}</text>
      }
      @if (mark(); as y) {
        <path [attr.d]="'M' + width + ' ' + y + ' l-9 -5 v10 z'" class="mark" />
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
      border-right: 1px solid var(--line);
      overflow: hidden;
      min-height: 0;
    }
    svg {
      display: block;
      cursor: pointer;
    }
    .line {
      stroke: var(--line);
    }
    .bar {
      fill: var(--ink);
    }
    .bar.here,
    .mark {
      fill: var(--reed);
    }
    text {
      fill: var(--quiet);
      font: 11px var(--font-mono);
    }
    .year {
      font-weight: 600;
      fill: var(--ink);
    }
  `,
})
export class YearRail implements OnDestroy {
  readonly months = input.required<MadeOfAnswer['months']>();
  /** Month that is looked at, `yyyy-MM`. */
  readonly month = input.required<string>();
  /** Somebody wants to go to this place among all. */
  readonly go = output<number>();

  protected readonly width = WIDTH;
  protected readonly size = signal(500);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly resized = new ResizeObserver(() => this.size.set(this.host.nativeElement.clientHeight || 500));

  /** Every month from the newest to the first has its height, whether anything was taken in it or not. */
  private readonly span = computed(() => {
    const months = this.months();
    const [newest, oldest] = [months[0], months.at(-1)];
    if (!newest || !oldest) return null;
    const first = numberOf(newest.month);
    const count = first - numberOf(oldest.month) + 1;
    return { first, count, each: Math.min(26, (this.size() - 2 * PAD) / count) };
  });

  protected readonly bars = computed<Bar[]>(() => {
    const span = this.span();
    if (!span) return [];
    const most = Math.max(1, ...this.months().map(({ items }) => items));
    return this.months().map(({ month, items, at }) => ({
      ...{ month, items, at },
      y: PAD + (span.first - numberOf(month)) * span.each,
      height: Math.max(1, Math.min(5, span.each - (span.each > 3 ? 1 : 0))),
      length: 3 + 36 * Math.sqrt(items / most),
    }));
  });

  protected readonly ticks = computed(() => {
    const span = this.span();
    if (!span) return [];
    const ticks: { y: number; text: string; year: boolean }[] = [];
    let written = -Infinity;
    for (let at = 0; at < span.count; at++) {
      const number = span.first - at;
      const y = PAD + at * span.each;
      // A year stands where it begins as one goes back: at its December, or at the newest month.
      const year = at === 0 || number % 12 === 11;
      if (year ? y - written < TEXT_PX : span.each < TEXT_PX || y - written < TEXT_PX) continue;
      const four = String(Math.floor(number / 12));
      ticks.push({ y, year, text: year ? four : MONTH.format(Date.UTC(2000, number % 12, 1)) });
      written = y;
    }
    return ticks;
  });

  protected readonly mark = computed(() => {
    const [span, month] = [this.span(), this.month()];
    return span && month ? PAD + (span.first - numberOf(month)) * span.each + Math.min(2.5, span.each / 2) : null;
  });

  constructor() {
    this.resized.observe(this.host.nativeElement);
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
  }

  protected says({ month, items }: Bar): string {
    return `${FULL.format(Date.parse(`${month}-01T00:00:00Z`))}: ${items.toLocaleString()} items`;
  }

  protected jump({ offsetY }: MouseEvent): void {
    const nearest = this.bars().reduce<Bar | undefined>(
      (best, bar) =>
        !best || Math.abs(bar.y + bar.height / 2 - offsetY) < Math.abs(best.y + best.height / 2 - offsetY) ? bar : best,
      undefined,
    );
    if (nearest) this.go.emit(nearest.at);
  }
}

const numberOf = (month: string): number => Number(month.slice(0, 4)) * 12 + Number(month.slice(5, 7)) - 1;
