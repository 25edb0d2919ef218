import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { IntakeSummary } from '@tally/contract';
import { pullingOf, type Pulling } from '@tally/core/reader';

/** May the card of an intake be pulled? */
export const pullingOfView = (intake: IntakeSummary): Pulling => pullingOf({ ...intake, letsGo: intake.reader?.letsGo ?? false });

/** A lamp: lit when the card may be pulled, crossed while something needs it, a ring when it is only to be let go. */
@Component({
  selector: 'ts-pull-lamp',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (pulling(); as pulling) {
      <span class="lamp" [class.may]="pulling.standing === 'may be pulled'" [title]="says()">
        <svg viewBox="0 0 12 12" width="12" height="12" aria-hidden="true">
          @switch (pulling.standing) {
            @case ('may be pulled') {
              <circle cx="6" cy="6" r="5.500" fill="currentColor" />
            }
            @case ('needed') {
              <circle cx="6" cy="6" r="4.800" fill="none" stroke="currentColor" stroke-width="1.400" />
              <path d="M2.600 9.400 L9.400 2.600" stroke="currentColor" stroke-width="1.400" />
            }
            @case ('let it go') {
              <circle cx="6" cy="6" r="4.800" fill="none" stroke="currentColor" stroke-width="1.400" />
            }
          }
        </svg>
        <span [class.visually-hidden]="words() === 'none'">{{ says() }}</span>
      </span>
    }
  `,
  styles: `
    :host {
      display: inline-flex;
    }
    .lamp {
      display: inline-flex;
      align-items: center;
      gap: 5px;
      color: var(--quiet);
      white-space: nowrap;
    }
    .may {
      color: var(--reed);
      font-weight: 640;
    }
  `,
})
export class PullLamp {
  readonly intake = input.required<IntakeSummary>();
  /** With why, the state alone, or for whoever hears or points at it only. */
  readonly words = input<'all' | 'state' | 'none'>('all');
  protected readonly pulling = computed(() => {
    const pulling = pullingOfView(this.intake());
    return pulling.standing === 'no card' ? null : pulling;
  });
  protected readonly says = computed(() => {
    const pulling = this.pulling();
    if (!pulling) return '';
    if (pulling.standing === 'may be pulled') return 'may be pulled';
    if (pulling.standing === 'let it go')
      return this.words() === 'state' ? 'in the reader' : 'nothing needs it: let it go, then pull it';
    return this.words() === 'state' || pulling.why === null ? 'do not pull' : `do not pull: ${pulling.why}`;
  });
}
