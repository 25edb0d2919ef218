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
  viewChild,
} from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { ItemView } from '@tally/contract';
import { catchError, of, switchMap } from 'rxjs';
import { IntakesService } from '../api/intakes.service';
import { wavePath } from '../sheet/picture';

/** Steps of one frame assume the commonest rate of cameras here; clips do not tell theirs to a browser. */
const FRAME_S = 1 / 25;

/** A clip or a sound: played as it is, or a small version where the browser cannot; with the part of use marked. */
@Component({
  selector: 'ts-player',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (trouble()) {
      <p class="none">This {{ item().kind }} cannot be played{{ trouble() === 'away' ? ': its card is away' : '' }}.</p>
    } @else {
      <video
        #media
        [class.sound]="item().kind === 'sound'"
        [src]="url()"
        controls
        preload="metadata"
        [attr.aria-label]="'Play ' + item().path"
        (error)="fail()"
        (timeupdate)="at.set(media.currentTime)"
        (durationchange)="length.set(media.duration)"
      ></video>
    }
    @if (small()) {
      <p class="quiet">Your browser cannot play this file itself: this is a small version.</p>
    }
    <svg class="wave" viewBox="0 0 600 64" preserveAspectRatio="none" aria-hidden="true" (click)="seek($event)">
      @if (use(); as part) {
        <rect [attr.x]="part.from" y="0" [attr.width]="part.to - part.from" height="64" class="use" />
      }
      <path [attr.d]="wave()" />
      <line [attr.x1]="here()" y1="0" [attr.x2]="here()" y2="64" class="here" />
    </svg>
    <p class="marks">
      <button type="button" (click)="mark('from')">Use from here <kbd>[</kbd></button>
      <button type="button" (click)="mark('to')">Use to here <kbd>]</kbd></button>
      <button type="button" (click)="step(-1)" aria-label="One frame back"><kbd>,</kbd></button>
      <button type="button" (click)="step(1)" aria-label="One frame on"><kbd>.</kbd></button>
      @if (item().useFromMs !== null || item().useToMs !== null) {
        <b>of use: {{ time(item().useFromMs ?? 0) }} to {{ item().useToMs === null ? 'the end' : time(item().useToMs!) }}</b>
        <button type="button" (click)="used.emit({ useFromMs: null, useToMs: null })">all of it</button>
      }
    </p>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-rows: minmax(0, 1fr) auto auto auto;
      gap: 8px;
      justify-items: center;
    }
    video {
      max-width: 100%;
      min-height: 0;
      height: 100%;
      background: #0f1714;
    }
    .sound {
      height: 54px;
      width: min(600px, 100%);
      align-self: end;
    }
    .wave {
      width: min(900px, 100%);
      height: 64px;
      border: 1px solid var(--line);
      background: var(--sheet);
      cursor: pointer;
    }
    .wave path {
      stroke: var(--quiet);
      stroke-width: 2;
    }
    .use {
      fill: var(--reed-soft);
    }
    .here {
      stroke: var(--reed);
      stroke-width: 2;
    }
    .marks {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
      align-items: center;
    }
    .marks button {
      min-height: 30px;
      padding: 0 10px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--sheet);
      color: var(--reed);
      font: 600 13px var(--font-text);
      cursor: pointer;
    }
    kbd {
      font: 600 12px var(--font-mono);
    }
    .none {
      place-self: center;
      color: var(--quiet);
    }
  `,
})
export class Player {
  readonly item = input.required<ItemView>();
  readonly used = output<{ useFromMs?: number | null; useToMs?: number | null }>();
  private readonly service = inject(IntakesService);
  private readonly media = viewChild<ElementRef<HTMLVideoElement>>('media');

  protected readonly small = signal(false);
  protected readonly trouble = signal<'' | 'away' | 'unreadable'>('');
  protected readonly at = signal(0);
  protected readonly length = signal(0);
  protected readonly url = computed(() => `/api/items/${this.item().id}/media/${this.small() ? 'small' : 'original'}`);

  private readonly peaks = toSignal(
    toObservable(computed(() => this.item().id)).pipe(
      switchMap((id) => this.service.wave(id).pipe(catchError(() => of([] as number[])))),
    ),
    { initialValue: [] as number[] },
  );
  protected readonly wave = computed(() => wavePath(this.peaks(), 600, 64));
  private readonly seconds = computed(() => {
    const said = (this.item().durationMs ?? 0) / 1000;
    return Number.isFinite(this.length()) && this.length() > 0 ? this.length() : said;
  });
  protected readonly here = computed(() => this.xOf(this.at()));
  protected readonly use = computed(() => {
    const { useFromMs, useToMs } = this.item();
    if (useFromMs === null && useToMs === null) return null;
    return { from: this.xOf((useFromMs ?? 0) / 1000), to: useToMs === null ? 600 : this.xOf(useToMs / 1000) };
  });

  constructor() {
    const id = computed(() => this.item().id);
    effect(() => {
      id();
      untracked(() => {
        this.small.set(false);
        this.trouble.set('');
        this.at.set(0);
        this.length.set(0);
      });
    });
  }

  /** Keys of a clip: play, frames, marks. @returns whether it was one. */
  act(key: string): boolean {
    const media = this.media()?.nativeElement;
    if (!media) return false;
    switch (key) {
      case 'p':
        if (media.paused) void media.play().catch(() => undefined);
        else media.pause();
        return true;
      case ',':
      case '.':
        this.step(key === '.' ? 1 : -1);
        return true;
      case '[':
      case ']':
        this.mark(key === '[' ? 'from' : 'to');
        return true;
      default:
        return false;
    }
  }

  protected step(frames: number): void {
    const media = this.media()?.nativeElement;
    if (!media) return;
    media.pause();
    media.currentTime = Math.max(0, Math.min(this.seconds(), media.currentTime + frames * FRAME_S));
  }

  /** Marks where use begins or ends; a mark that crosses the other takes it away. */
  protected mark(which: 'from' | 'to'): void {
    const media = this.media()?.nativeElement;
    if (!media) return;
    // Where the clip is, not where it was when it last said so.
    const ms = Math.round(media.currentTime * 1000);
    const { useFromMs, useToMs } = this.item();
    if (which === 'from') this.used.emit({ useFromMs: ms, ...(useToMs !== null && useToMs <= ms ? { useToMs: null } : {}) });
    else this.used.emit({ useToMs: Math.max(1, ms), ...(useFromMs !== null && useFromMs >= ms ? { useFromMs: null } : {}) });
  }

  protected seek(event: MouseEvent): void {
    const media = this.media()?.nativeElement;
    const frame = (event.currentTarget as SVGElement).getBoundingClientRect();
    if (media) media.currentTime = ((event.clientX - frame.left) / frame.width) * this.seconds();
  }

  protected fail(): void {
    if (this.small()) this.trouble.set('unreadable');
    else this.small.set(true);
  }

  protected time(ms: number): string {
    const seconds = ms / 1000;
    return `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(2).padStart(5, '0')}`;
  }

  private xOf(seconds: number): number {
    return this.seconds() ? Math.min(600, (seconds / this.seconds()) * 600) : 0;
  }
}
