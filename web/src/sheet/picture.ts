import { HttpClient } from '@angular/common/http';
import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { ItemView } from '@tally/contract';
import { SheetSource } from './sheet-source';
import { catchError, distinctUntilChanged, map, of, switchMap } from 'rxjs';

/** An item's picture on the sheet: the quickest there is; the wave of a sound; a drawn shape where there is neither. */
@Component({
  selector: 'ts-picture',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (url of [source()]; track url) {
      @if (url === null) {
        <span class="soon"></span>
      } @else if (url) {
        <img
          [src]="url"
          alt=""
          decoding="async"
          draggable="false"
          [style.transform]="turned()"
          (error)="failed.set(url)"
          (load)="there($any($event.target))"
        />
      } @else {
        <svg viewBox="0 0 120 80" preserveAspectRatio="xMidYMid slice" aria-hidden="true">
          <rect width="120" height="80" class="ground" />
          @if (item().kind === 'sound') {
            <path [attr.d]="wave()" class="wave" />
          } @else {
            <path d="M44 20 h24 l10 10 v30 h-34 z M68 20 v10 h10" class="sheet" />
          }
          <text x="60" y="74" text-anchor="middle">{{ away() ? 'away' : extension() }}</text>
        </svg>
      }
    }
  `,
  styles: `
    :host {
      display: block;
      width: 100%;
      height: 100%;
      overflow: hidden;
      background: var(--line);
    }
    img,
    svg {
      display: block;
      width: 100%;
      height: 100%;
      object-fit: cover;
    }
    .ground {
      fill: var(--sheet);
    }
    .wave {
      stroke: var(--quiet);
      stroke-width: 0.6;
    }
    .sheet {
      fill: none;
      stroke: var(--quiet);
      stroke-width: 2;
    }
    text {
      fill: var(--quiet);
      font: 600 9px var(--font-mono);
    }
  `,
})
export class Picture {
  readonly item = input.required<ItemView>();
  private readonly http = inject(HttpClient);
  private readonly store = inject(SheetSource, { optional: true });
  protected readonly failed = signal('');
  /** A picture that cannot be shown because its card is out of the reader. */
  protected readonly away = computed(
    () => this.failed() !== '' && this.item().filedAs === null && this.store?.intake()?.present === false,
  );

  /** Is the sheet being rushed through? Then only what was seen before is shown. */
  readonly hurried = input(false);

  /** Which address to show; empty draws the shape, null waits. */
  protected readonly source = computed(() => {
    const { id, kind } = this.item();
    if (kind === 'sound' || kind === 'sidecar' || kind === 'other') return '';
    const url = `/api/items/${id}/picture/quick`;
    if (this.failed() === url) return '';
    return this.hurried() && !seen.has(url) ? null : url;
  });

  /** A turned picture still fills its place: height and width change roles. */
  protected readonly turned = computed(() => {
    const quarters = this.item().turned;
    return quarters ? `rotate(${quarters * 90}deg)${quarters % 2 ? ' scale(1.5)' : ''}` : null;
  });

  protected readonly extension = computed(() => this.item().path.split('.').pop()?.toUpperCase().slice(0, 5) ?? '');

  private readonly peaks = toSignal(
    toObservable(this.item).pipe(
      map((item) => (item.kind === 'sound' && item.read ? item.id : null)),
      distinctUntilChanged(),
      switchMap((id) =>
        id === null ? of([]) : this.http.get<number[]>(`/api/items/${id}/wave`).pipe(catchError(() => of([] as number[]))),
      ),
    ),
    { initialValue: [] as number[] },
  );

  protected there(image: HTMLImageElement): void {
    image.classList.add('there');
    if (seen.size > MOST_SEEN) seen.clear();
    seen.add(this.source() ?? '');
  }

  protected readonly wave = computed(() => wavePath(this.peaks(), 120, 64));
}

/** Addresses of pictures that have been there: the browser has them still. */
const seen = new Set<string>();
const MOST_SEEN = 20_000;

/** A wave as one SVG path: a line for each bar, around the middle. A silent one is a line. */
export function wavePath(peaks: readonly number[], width: number, height: number): string {
  if (!peaks.length) return `M4 ${height / 2} H${width - 4}`;
  const step = (width - 8) / peaks.length;
  const half = height / 2;
  return peaks
    .map((peak, i) => {
      const length = Math.max(0.5, (peak / 255) * (half - 2));
      return `M${(4 + (i + 0.5) * step).toFixed(1)} ${(half - length).toFixed(1)}v${(length * 2).toFixed(1)}`;
    })
    .join('');
}
