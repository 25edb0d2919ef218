import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { GrowthView, PlaceView } from '@tally/contract';
import { BytesPipe, CountPipe } from '../shared/amounts';
import { May } from '../shared/may';

const MONTHS = 12;
const DAYS = 365;

/** A place as a shelf-board: what fills it, what is free, and what grew month by month. */
@Component({
  selector: 'ts-place-board',
  imports: [BytesPipe, CountPipe, May],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let one = place();
    <div class="words">
      <p>
        <span class="quiet"
          >{{ one.kind }}, {{ one.required ? 'required' : 'wished' }}, filled
          {{ one.fill === 'later' ? 'later, from another copy' : 'while the card is read' }}</span
        >
        @if (held()) {
          <span class="quiet">, for {{ held() }}</span>
        }
        <code>{{ one.root }}</code>
      </p>
      @if (one.online) {
        <p class="sum">
          {{ one.copies | count: 'copy that tallies' : 'copies that tally' }}, {{ one.bytes | bytes }};
          @if (one.freeBytes === null) {
            its file system does not say how much is free
          } @else {
            <strong>{{ one.freeBytes | bytes }}</strong> free of {{ one.totalBytes | bytes }}{{ full() }}
          }
        </p>
        @if (one.freeBytes !== null) {
          <div class="capacity" role="img" [attr.aria-label]="share() + ' of it is in use'">
            <i class="ours" [style.width.%]="oursPercent()"></i><i class="others" [style.width.%]="othersPercent()"></i>
          </div>
        }
      } @else {
        <p class="attention" role="alert">Away: {{ one.problem }}</p>
        @if (one.asks) {
          <p><button type="button" class="plain" tsMay="house" (click)="known.emit()">This is that drive…</button></p>
        }
      }
      @if (one.waiting.copies) {
        <p class="attention" role="status">
          Lacks {{ one.waiting.copies | count: 'copy' : 'copies' }} ({{ one.waiting.bytes | bytes }}): at most
          {{ one.waiting.hoursAtRisk | count: 'hour' }} of work at risk.
          {{
            one.online
              ? 'What waits is filled up by itself; what is missing or changed is mended.'
              : 'It fills up by itself when it is back.'
          }}
        </p>
      }
    </div>
    @if (bars().length) {
      <figure>
        <div class="bars" role="img" [attr.aria-label]="growthWords()">
          @for (bar of bars(); track bar.month) {
            <i [style.height.%]="bar.percent" [title]="bar.month + ': ' + bar.words"></i>
          }
        </div>
        <figcaption class="quiet">{{ growthWords() }}</figcaption>
      </figure>
    }
  `,
  styles: `
    :host {
      display: flex;
      gap: 32px;
      align-items: end;
      flex-wrap: wrap;
    }
    .words {
      flex: 1 1 420px;
      max-width: 760px;
      display: grid;
      gap: 6px;
    }
    code {
      display: block;
      overflow-wrap: anywhere;
      font-size: 13px;
    }
    .capacity {
      display: flex;
      height: 14px;
      border: 1px solid var(--strong-line);
      border-radius: 3px;
      overflow: hidden;
      background: var(--paper);
    }
    .ours {
      background: var(--ink);
    }
    .others {
      background: repeating-linear-gradient(90deg, var(--quiet) 0 2px, transparent 2px 5px);
    }
    figure {
      margin: 0;
      flex: 0 1 300px;
    }
    .bars {
      display: flex;
      align-items: end;
      gap: 3px;
      height: 44px;
      border-bottom: 1px solid var(--strong-line);
    }
    .bars i {
      flex: 1;
      min-height: 1px;
      background: var(--ink);
    }
  `,
})
export class PlaceBoard {
  readonly place = input.required<PlaceView>();
  readonly growth = input<GrowthView['months']>([]);
  /** Somebody wants to say that what stands there is the place. */
  readonly known = output();

  /** What it holds where that is not everything. */
  protected readonly held = computed(() => {
    const { kinds, assignments } = this.place().holds;
    return [...(kinds ?? []), ...(assignments ?? [])].join(', ');
  });
  private readonly used = computed(() => (this.place().totalBytes ?? 0) - (this.place().freeBytes ?? 0));
  protected readonly oursPercent = computed(() => percent(Math.min(this.place().bytes, this.used()), this.place().totalBytes));
  protected readonly othersPercent = computed(() =>
    percent(Math.max(0, this.used() - this.place().bytes), this.place().totalBytes),
  );
  protected readonly share = computed(() => `${Math.round(percent(this.used(), this.place().totalBytes))} %`);
  private readonly shown = computed(() => this.growth().slice(-MONTHS));
  protected readonly bars = computed(() => {
    const most = Math.max(1, ...this.shown().map(({ bytes }) => bytes));
    const words = new BytesPipe();
    return this.shown().map(({ month, bytes }) => ({ month, percent: (bytes / most) * 100, words: words.transform(bytes) }));
  });
  private readonly aYear = computed(() => this.shown().reduce((sum, { bytes }) => sum + bytes, 0));
  protected readonly growthWords = computed(() => {
    const last = this.shown().at(-1);
    if (!last) return '';
    const words = new BytesPipe();
    return `${words.transform(this.aYear())} filed in ${this.shown().length} months; ${last.month}: ${words.transform(last.bytes)}`;
  });
  /** When it is full if the house goes on as it did; '' where that is further off than anybody plans. */
  protected readonly full = computed(() => {
    const [free, year, months] = [this.place().freeBytes ?? 0, this.aYear(), this.shown().length];
    if (!year || !months) return '';
    const days = Math.floor(free / (year / months / 30.4 || 1));
    return days < 3 * DAYS ? `, full in about ${days.toLocaleString()} days` : ', more than three years’ worth';
  });
}

const percent = (part: number, whole: number | null): number => (whole ? Math.min(100, (part / whole) * 100) : 0);
