import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import type { Assignment } from '@tally/contract';
import { SessionService } from '../api/session.service';

/** A house with sixty assignments still has a desk: the rest is one press away. */
const SHOWN = 6;
const MOST_BOXES = 18;

/** What is still to come in: a box for each card, filled when it was received. */
@Component({
  selector: 'ts-expected',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>
      Still expected <span class="quiet">{{ missing() }} cards</span>
    </h2>
    @for (assignment of shown(); track assignment.id) {
      <div class="one">
        <div class="line">
          <span>{{ assignment.title }}</span><span>{{ assignment.receivedCards }} of {{ assignment.expectedCards }} cards</span>
        </div>
        <svg
          [attr.viewBox]="'0 0 ' + boxes(assignment).length * 16 + ' 14'"
          [style.width.px]="boxes(assignment).length * 16"
          height="14"
          aria-hidden="true"
        >
          @for (box of boxes(assignment); track $index) {
            <rect
              [attr.x]="$index * 16 + 1"
              y="1"
              width="12"
              height="12"
              rx="2"
              [attr.fill]="box ? 'currentColor' : 'none'"
              stroke="currentColor"
              stroke-width="1.5"
            />
          }
        </svg>
        <p class="quiet">{{ words(assignment) }}</p>
      </div>
    } @empty {
      <p class="empty">Nothing is outstanding.</p>
    }
    @if (assignments().length > shown().length) {
      <button type="button" class="plain" (click)="all.set(true)">
        {{ assignments().length - shown().length }} more assignments
      </button>
    }
  `,
  styles: `
    :host {
      display: block;
      border-top: 1px solid var(--strong-line);
      padding: 10px 0 20px;
    }
    h2 {
      display: flex;
      justify-content: space-between;
      align-items: baseline;
    }
    .one {
      padding: 10px 0 8px;
      border-bottom: 1px solid var(--line);
    }
    .line {
      display: flex;
      justify-content: space-between;
    }
    svg {
      max-width: 100%;
    }
  `,
})
export class Expected {
  readonly assignments = input.required<readonly Assignment[]>();
  private readonly session = inject(SessionService);
  protected readonly all = signal(false);
  protected readonly shown = computed(() => (this.all() ? this.assignments() : this.assignments().slice(0, SHOWN)));

  protected readonly missing = computed(() => this.assignments().reduce((sum, a) => sum + a.expectedCards - a.receivedCards, 0));

  protected boxes(assignment: Assignment): boolean[] {
    return Array.from({ length: Math.min(MOST_BOXES, assignment.expectedCards) }, (_, index) => index < assignment.receivedCards);
  }

  protected words(assignment: Assignment): string {
    const names = assignment.expected.filter((person) => !person.handedIn).map((person) => person.name);
    const days = Math.floor((this.session.now().getTime() - Date.parse(`${assignment.to}T23:59:59Z`)) / 86_400_000);
    const ended = days > 0 ? `ended ${days} ${days === 1 ? 'day' : 'days'} ago` : 'still going on';
    // Cards and people are two things: somebody may bring two, or somebody whom nobody named.
    const cards = assignment.expectedCards - assignment.receivedCards;
    const missing = `${cards} ${cards === 1 ? 'card' : 'cards'} missing`;
    if (!names.length) return `${missing}, everybody named has handed in · ${ended}`;
    const shown = names.length > 3 ? `${names.slice(0, 2).join(', ')} and ${names.length - 2} others` : names.join(', ');
    return `${missing}; not handed in: ${shown} · ${ended}`;
  }
}
