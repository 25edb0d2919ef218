import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';

/** Coverage as short notches, one for each place: cut, half, open, or not looked at. */
@Component({
  selector: 'ts-coverage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<span role="img" [attr.aria-label]="words()" [title]="words()">
    @for (state of states(); track $index) {
      <i [class]="state"></i>
    }
  </span>`,
  styles: `
    span {
      display: inline-flex;
      gap: 3px;
      vertical-align: middle;
    }
    i {
      width: 6px;
      height: 14px;
      border: 1px solid var(--ink);
    }
    .cut {
      background: var(--ink);
    }
    .half {
      background: linear-gradient(0deg, var(--ink) 50%, transparent 50%);
    }
    .unknown {
      border-style: dotted;
    }
  `,
})
export class Coverage {
  /** How many of what is filed each place has; null: it was not looked at. */
  readonly copies = input.required<readonly (number | null)[]>();
  readonly names = input<readonly string[]>([]);

  private readonly most = computed(() => Math.max(0, ...this.copies().map((n) => n ?? 0)));
  protected readonly states = computed(() =>
    this.copies().map((n) => (n === null ? 'unknown' : n === 0 ? 'open' : n < this.most() ? 'half' : 'cut')),
  );
  protected readonly words = computed(() =>
    this.copies()
      .map(
        (n, index) =>
          `${this.names()[index] ?? `place ${index + 1}`}: ${n === null ? 'not looked at' : `${n} of ${this.most()}`}`,
      )
      .join(', '),
  );
}
