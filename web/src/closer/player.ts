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

/** Where a clip does not say how many frames it has a second: the commonest rate of cameras here. */
const FRAMES = 25;

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
        [class.sound]="playing().kind === 'sound'"
        [src]="url()"
        controls
        preload="metadata"
        [attr.aria-label]="'Play ' + playing().path"
        (ended)="onwards()"
        (loadedmetadata)="goesOn(media)"
        (error)="fail()"
        (timeupdate)="at.set(media.currentTime)"
        (durationchange)="length.set(media.duration)"
      ></video>
    }
    @if (parts().length > 1) {
      <p class="marks" role="group" [attr.aria-label]="'Parts of this recording'">
        <b>Part {{ part() + 1 }} of {{ parts().length }}</b>
        @for (one of around(); track one.index) {
          <button
            type="button"
            [attr.aria-current]="one.index === part()"
            [class.current]="one.index === part()"
            [attr.aria-label]="'Part ' + (one.index + 1)"
            (click)="part.set(one.index)"
          >
            {{ one.index + 1 }}
          </button>
        }
        <code class="quiet">{{ playing().path }}</code>
      </p>
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
      @if (playing() === item()) {
        <button type="button" (click)="mark('from')">Use from here <kbd>[</kbd></button>
        <button type="button" (click)="mark('to')">Use to here <kbd>]</kbd></button>
      }
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
      grid-template-rows: minmax(0, 1fr);
      grid-auto-rows: auto;
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
    .marks button.current {
      background: var(--reed);
      color: var(--on-reed);
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
  /** Files that play one after the other, the item first; empty when it is the only one. */
  readonly parts = input<readonly ItemView[]>([]);
  readonly used = output<{ useFromMs?: number | null; useToMs?: number | null }>();
  private readonly service = inject(IntakesService);
  private readonly media = viewChild<ElementRef<HTMLVideoElement>>('media');

  /** Which of the parts plays. */
  protected readonly part = signal(0);
  protected readonly playing = computed(() => this.parts()[this.part()] ?? this.item());
  /** A few parts around the one that plays: there may be thousands. */
  protected readonly around = computed(() => {
    const from = Math.max(0, Math.min(this.part() - 4, this.parts().length - 9));
    return this.parts()
      .slice(from, from + 9)
      .map((_, at) => ({ index: from + at }));
  });
  private playsOn = false;
  protected readonly small = signal(false);
  protected readonly trouble = signal<'' | 'away' | 'unreadable'>('');
  protected readonly at = signal(0);
  protected readonly length = signal(0);
  protected readonly url = computed(() => `/api/items/${this.playing().id}/media/${this.small() ? 'small' : 'original'}`);

  private readonly peaks = toSignal(
    toObservable(computed(() => this.playing().id)).pipe(
      switchMap((id) => this.service.wave(id).pipe(catchError(() => of([] as number[])))),
    ),
    { initialValue: [] as number[] },
  );
  protected readonly wave = computed(() => wavePath(this.peaks(), 600, 64));
  private readonly seconds = computed(() => {
    const said = (this.playing().durationMs ?? 0) / 1000;
    return Number.isFinite(this.length()) && this.length() > 0 ? this.length() : said;
  });
  protected readonly here = computed(() => this.xOf(this.at()));
  protected readonly use = computed(() => {
    const { useFromMs, useToMs } = this.item();
    if ((useFromMs === null && useToMs === null) || this.playing() !== this.item()) return null;
    return { from: this.xOf((useFromMs ?? 0) / 1000), to: useToMs === null ? 600 : this.xOf(useToMs / 1000) };
  });

  constructor() {
    const lead = computed(() => this.item().id);
    effect(() => {
      lead();
      untracked(() => this.part.set(0));
    });
    const id = computed(() => this.playing().id);
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

  /** A part has come to its end: the next one plays. */
  protected onwards(): void {
    if (this.part() >= this.parts().length - 1) return;
    this.playsOn = true;
    this.part.update((part) => part + 1);
  }

  protected goesOn(media: HTMLVideoElement): void {
    if (!this.playsOn) return;
    this.playsOn = false;
    void media.play().catch(() => undefined);
  }

  protected step(frames: number): void {
    const media = this.media()?.nativeElement;
    if (!media) return;
    media.pause();
    media.currentTime = Math.max(
      0,
      Math.min(this.seconds(), media.currentTime + frames / (this.playing().clip?.frameRate ?? FRAMES)),
    );
  }

  /** Marks where use begins or ends; a mark that crosses the other takes it away. */
  protected mark(which: 'from' | 'to'): void {
    const media = this.media()?.nativeElement;
    if (!media || this.playing() !== this.item()) return;
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
