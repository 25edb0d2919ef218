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
import { dayBeginsMs } from '@tally/core/capture';
import { SessionService } from '../api/session.service';
import type { Row, SheetLayout } from './layout';
import { timeOf } from './view';

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
const BIN_MS = 6 * 60_000;
const PAD = 12;

/** `18 Apr`: short enough for the rail, and never a month for a day. */
const DAY = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short' });

/** The same where days of several years follow one another. */
const YEAR_DAY = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short', year: 'numeric' });
/** Dates nearer to each other than this cannot be read. */
const TEXT_PX = 13;

interface Day {
  readonly startMs: number;
  readonly hours: number;
  readonly before: number;
}

/** The day's shooting beside the sheet: hours, a bar for every six minutes, and where in the card one is. */
@Component({
  selector: 'ts-rail',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg [attr.height]="size()" width="70" aria-hidden="true" (click)="jump($event)">
      @for (tick of ticks(); track tick.y) {
        <line x1="28" [attr.y1]="tick.y" x2="70" [attr.y2]="tick.y" class="line" />
        @if (tick.text) {
          <text
            [attr.x]="tick.day ? 2 : 24"
            [attr.y]="tick.y + 4"
            [attr.text-anchor]="tick.day ? 'start' : 'end'"
            [class.day]="tick.day"
          >
            {{ tick.text }}
          </text>
        }
      }
      @for (bar of bars(); track bar.y) {
        <rect [attr.x]="70 - bar.length" [attr.y]="bar.y" [attr.width]="bar.length" height="2.500" class="bar" />
      }
      <rect x="29" [attr.y]="mark().y" width="40" [attr.height]="mark().height" rx="2" class="mark" />
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
    text {
      fill: var(--quiet);
      font: 13px var(--font-mono);
    }
    .day {
      font: 600 11px var(--font-text);
      fill: var(--ink);
    }
    .bar {
      fill: var(--ink);
    }
    .mark {
      fill: var(--reed);
      fill-opacity: 0.12;
      stroke: var(--reed);
      stroke-width: 2;
    }
  `,
})
export class Rail implements OnDestroy {
  readonly layout = input.required<SheetLayout>();
  readonly from = input.required<number>();
  readonly height = input.required<number>();
  readonly go = output<number>();

  protected readonly size = signal(500);
  private readonly session = inject(SessionService);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly resized = new ResizeObserver(() => this.size.set(this.host.nativeElement.clientHeight || 500));

  private readonly times = computed(
    () => this.layout().rows.flatMap((row) => (row.type === 'tiles' ? row.tiles.map(({ tile }) => timeOf(tile)) : [])),
    // What is taken or left is where it was.
    { equal: (a, b) => a.length === b.length && a.every((ms, index) => ms === b[index]) },
  );

  /** Days one under the other, each from its first hour to its last. */
  private readonly days = computed<Day[]>(() => {
    // Hours are counted from the hour in which the house's day begins.
    const begins = Math.floor(dayBeginsMs(this.session.dayBegins()) / HOUR_MS) * HOUR_MS;
    const byDay = new Map<number, { low: number; high: number }>();
    for (const ms of this.times()) {
      const day = Math.floor((ms - begins) / DAY_MS);
      const hour = ((ms - begins) % DAY_MS) / HOUR_MS;
      const span = byDay.get(day) ?? { low: hour, high: hour };
      byDay.set(day, { low: Math.min(span.low, hour), high: Math.max(span.high, hour) });
    }
    let before = 0;
    return [...byDay]
      .sort(([a], [b]) => a - b)
      .map(([day, { low, high }]) => {
        const first = Math.floor(low);
        const hours = Math.max(1, Math.ceil(high + 0.01) - first);
        const placed = { startMs: day * DAY_MS + begins + first * HOUR_MS, hours, before };
        before += hours + 0.8;
        return placed;
      });
  });

  private readonly scale = computed(() => {
    const last = this.days().at(-1);
    return last ? (this.size() - PAD * 2) / (last.before + last.hours) : 1;
  });

  protected readonly ticks = computed(() => {
    const dense = this.scale() < 15;
    const days = this.days();
    const several = days.length > 1;
    const years = new Set(days.map(({ startMs }) => new Date(startMs).getUTCFullYear()));
    const format = years.size > 1 ? YEAR_DAY : DAY;
    let written = -Infinity;
    return days.flatMap((day) => {
      const top = this.yOf(day, day.startMs);
      const dated = top - written >= TEXT_PX;
      if (dated) written = top;
      return Array.from({ length: day.hours + 1 }, (_, hour) => {
        const ms = day.startMs + hour * HOUR_MS;
        const first = hour === 0;
        const text =
          first && several ? (dated ? format.format(ms) : '') : dense && hour % 3 ? '' : new Date(ms).toISOString().slice(11, 13);
        return { y: this.yOf(day, ms), text, day: first && several };
      });
    });
  });

  protected readonly bars = computed(() => {
    const bins = new Map<number, number>();
    for (const ms of this.times()) bins.set(Math.floor(ms / BIN_MS), (bins.get(Math.floor(ms / BIN_MS)) ?? 0) + 1);
    const most = Math.max(1, ...bins.values());
    return [...bins].map(([bin, n]) => ({ y: this.y(bin * BIN_MS), length: 7 + 32 * Math.sqrt(n / most) }));
  });

  protected readonly mark = computed(() => {
    const rows = this.layout().rows.filter((row) => row.type === 'tiles');
    const seen = rows.filter((row) => row.top + row.height > this.from() && row.top < this.from() + this.height());
    const time = (row: Extract<Row, { type: 'tiles' }> | undefined, last: boolean) => {
      const tile = last ? row?.tiles.at(-1) : row?.tiles[0];
      return tile ? this.y(timeOf(tile.tile)) : PAD;
    };
    const y = time(seen[0], false) - 4;
    return { y, height: Math.max(12, time(seen.at(-1), true) - y + 6) };
  });

  constructor() {
    this.resized.observe(this.host.nativeElement);
  }

  ngOnDestroy(): void {
    this.resized.disconnect();
  }

  protected jump(event: MouseEvent): void {
    const rows = this.layout().rows.filter((row) => row.type === 'tiles');
    const y = event.offsetY;
    const distance = (row: (typeof rows)[number]) => Math.abs(this.y(timeOf(row.tiles[0]!.tile)) - y);
    const nearest = rows.reduce<(typeof rows)[number] | undefined>(
      (best, row) => (!best || distance(row) < distance(best) ? row : best),
      undefined,
    );
    if (nearest) this.go.emit(nearest.top - 44);
  }

  private y(ms: number): number {
    const day = this.days().findLast((candidate) => candidate.startMs <= ms + 1) ?? this.days()[0];
    return day ? this.yOf(day, ms) : PAD;
  }

  private yOf(day: Day, ms: number): number {
    return PAD + (day.before + (ms - day.startMs) / HOUR_MS) * this.scale();
  }
}
