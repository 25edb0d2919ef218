import { ChangeDetectionStrategy, Component, computed, effect, input, signal } from '@angular/core';
import type { ItemView } from '@tally/contract';

/**
 * An item's picture: the embedded one at once, a made one as soon as it is there, a drawn shape where there is none.
 */
@Component({
  selector: 'ts-picture',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (source(); as url) {
      <img [src]="url" alt="" decoding="async" draggable="false" (error)="fail()" />
    } @else {
      <svg viewBox="0 0 120 80" preserveAspectRatio="xMidYMid slice" aria-hidden="true">
        <rect width="120" height="80" class="ground" />
        @if (item().kind === 'sound') {
          @for (bar of bars(); track $index) {
            <rect [attr.x]="6 + $index * 4.5" [attr.y]="40 - bar" width="2.600" [attr.height]="bar * 2" rx="1.300" class="wave" />
          }
        } @else {
          <path d="M44 20 h24 l10 10 v30 h-34 z M68 20 v10 h10" class="sheet" />
        }
        <text x="60" y="74" text-anchor="middle">{{ extension() }}</text>
      </svg>
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
    :host(.whole) {
      background: none;
    }
    :host(.whole) img,
    :host(.whole) svg {
      object-fit: contain;
    }
    .ground {
      fill: var(--sheet);
    }
    .wave {
      fill: var(--quiet);
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
  readonly size = input<'sheet' | 'closer'>('sheet');

  private readonly made = signal(false);
  private readonly failed = signal(0);
  private readonly url = computed(() => `/api/items/${this.item().id}/picture/`);
  private readonly identity = computed(() => `${this.item().id} ${this.size()}`);

  /** Which address to show: null draws the shape. */
  protected readonly source = computed(() => {
    const { kind } = this.item();
    if (kind === 'sound' || kind === 'sidecar' || kind === 'other' || this.failed() > 1) return null;
    if (this.made() || this.failed() === 1 || kind !== 'photo') return this.url() + this.size();
    return this.url() + (this.size() === 'closer' ? 'sheet' : 'embedded');
  });

  protected readonly extension = computed(() => this.item().path.split('.').pop()?.toUpperCase().slice(0, 5) ?? '');

  /** A made-up wave: the same for the same file. The real one comes with listening. */
  protected readonly bars = computed(() =>
    Array.from({ length: 24 }, (_, i) => 4 + 22 * Math.abs(Math.sin(this.item().id * 1.3 + i * 0.7) * Math.sin(i * 0.31 + 1))),
  );

  constructor() {
    effect((onCleanup) => {
      this.identity();
      this.made.set(false);
      this.failed.set(0);
      if (this.item().kind !== 'photo') return;
      const better = new Image();
      better.onload = () => this.made.set(true);
      better.src = this.url() + this.size();
      // A picture that is not looked at any more need not be fetched.
      onCleanup(() => {
        better.onload = null;
        better.src = '';
      });
    });
  }

  protected fail(): void {
    this.failed.update((times) => times + 1);
  }
}
