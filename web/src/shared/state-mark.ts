import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { IntakeState } from '@tally/core/copies';

/** An intake's state as shape and word: open notch, half notch, cut notch, crossed notch, filled. */
@Component({
  selector: 'ts-state',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg viewBox="0 0 16 16" width="14" height="14" aria-hidden="true">
      @switch (state()) {
        @case ('open') {
          <path d="M3 3 H13 L10.500 13 H5.500 Z" fill="none" stroke="currentColor" stroke-width="1.500" />
        }
        @case ('filing') {
          <path d="M3 3 H13 L10.500 13 H5.500 Z" fill="none" stroke="currentColor" stroke-width="1.500" />
          <path d="M3 3 H13 L11.800 8 H4.200 Z" fill="currentColor" />
        }
        @case ('tallied') {
          <path d="M3 3 H13 L10.500 13 H5.500 Z" fill="currentColor" stroke="currentColor" stroke-width="1.500" />
        }
        @case ('needs attention') {
          <path d="M3 3 L13 13 M13 3 L3 13" stroke="currentColor" stroke-width="2.200" />
        }
        @case ('closed') {
          <path d="M3 3 H13 L10.500 13 H5.500 Z" fill="currentColor" />
          <path d="M1 15 H15" stroke="currentColor" stroke-width="1.500" />
        }
      }</svg
    >{{ state() }}
  `,
  styles: `
    :host {
      display: inline-flex;
      align-items: center;
      gap: 6px;
      white-space: nowrap;
    }
    :host(.bad) {
      color: var(--trouble);
      font-weight: 600;
    }
  `,
  host: { '[class.bad]': "state() === 'needs attention'" },
})
export class StateMark {
  readonly state = input.required<IntakeState>();
}
