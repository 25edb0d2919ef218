import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { Assignment, AssignmentPage, AssignmentQuery } from '@tally/contract';
import { TableModule, type TableLazyLoadEvent } from 'primeng/table';
import { debounceTime, skip } from 'rxjs';
import { type AssignmentFilter, PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';
import { OrderButton, orderedBy, type Ordered } from '../shared/order-button';
import { daysOf, missingOf } from './assignment-words';

type Order = AssignmentQuery['order'];

const COLUMNS: readonly { readonly order: Order | null; readonly name: string; readonly width: string }[] = [
  { order: 'title', name: 'Title', width: '24%' },
  { order: 'slug', name: 'Short name', width: '18%' },
  { order: 'days', name: 'Days', width: '226px' },
  { order: 'place', name: 'Location', width: '14%' },
  { order: null, name: 'Cards', width: '84px' },
  { order: null, name: 'Still expected', width: 'auto' },
];

/** As many as a page has, and as one may ask for. */
const PAGE = 100;
const MOST = 200;
/** How near to the end of what was fetched somebody comes before more is. */
const AHEAD = 30;

/** Assignments as a long list of which only what was scrolled to is fetched. */
@Component({
  selector: 'ts-assignments-list',
  imports: [RouterLink, TableModule, OrderButton],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (problem()) {
      <p class="attention" role="alert">{{ problem() }}</p>
    }
    <p-table
      [value]="rows()"
      [lazy]="true"
      [virtualScroll]="true"
      [virtualScrollItemSize]="36"
      [scrollable]="true"
      scrollHeight="flex"
      [tableStyle]="{ 'table-layout': 'fixed', 'min-width': '820px' }"
      (onLazyLoad)="scrolled($event)"
    >
      <ng-template #header>
        <tr>
          @for (column of columns; track column.name) {
            <th scope="col" [style.width]="column.width" [attr.aria-sort]="sorted(column.order)">
              @if (column.order; as by) {
                <ts-order-button [name]="column.name" [ordered]="sorted(by)" (ask)="sort(by)" />
              } @else {
                {{ column.name }}
              }
            </th>
          }
        </tr>
      </ng-template>
      <ng-template #body let-one>
        <tr [class.retired]="one.retired">
          <td [title]="one.title">
            <a [routerLink]="['/people/assignment', one.id]">{{ one.title }}</a>
          </td>
          <td class="mono" [title]="one.slug">{{ one.slug }}</td>
          <td [title]="days(one)">{{ days(one) }}</td>
          <td [title]="one.place">{{ one.place }}</td>
          <td>{{ one.receivedCards }}{{ one.expectedCards ? ' of ' + one.expectedCards : '' }}</td>
          <td [title]="missing(one)">{{ one.retired ? 'retired' : missing(one) }}</td>
        </tr>
      </ng-template>
      <ng-template #emptymessage
        ><tr>
          <td colspan="6" class="empty">{{ emptyWords() }}</td>
        </tr></ng-template
      >
    </p-table>
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
    }
    .retired {
      color: var(--quiet);
    }
  `,
})
export class AssignmentsList {
  readonly sought = input('');
  private readonly people = inject(PeopleService);
  protected readonly columns = COLUMNS;
  protected readonly rows = signal<Assignment[]>([]);
  protected readonly order = signal<Order>('days');
  protected readonly descending = signal(true);
  protected readonly problem = signal('');
  private readonly next = signal<number | null>(null);
  private readonly looked = signal(false);
  private readonly query = computed(() => ({
    typed: this.sought().trim().slice(0, 200),
    order: this.order(),
    descending: this.descending(),
  }));
  protected readonly days = daysOf;
  protected readonly missing = missingOf;
  private asked = 0;

  constructor() {
    effect(() => {
      this.query();
      untracked(() => this.fetch(null));
    });
    // The first time it says so the effect above has asked.
    this.people.assignmentsMoved.pipe(skip(1), debounceTime(200), takeUntilDestroyed()).subscribe(() => this.lookAgain());
  }

  protected readonly emptyWords = () => {
    if (!this.looked()) return 'Fetching the list';
    return this.sought() ? 'Nothing fits these words.' : 'No assignment yet: add one, and say who is expected.';
  };

  protected sorted(by: Order | null): Ordered {
    return orderedBy(by, this.order(), this.descending());
  }

  protected sort(by: Order): void {
    this.descending.set(by === this.order() ? !this.descending() : by === 'days');
    this.order.set(by);
  }

  protected scrolled({ first, rows }: TableLazyLoadEvent): void {
    const next = this.next();
    if (next !== null && (first ?? 0) + (rows ?? 0) + AHEAD >= this.rows().length) this.fetch(next);
  }

  private fetch(after: number | null): void {
    this.ask(after === null ? {} : { after }, ({ assignments, next }) => {
      this.rows.update((before) => (after === null ? assignments : [...before, ...assignments]));
      this.next.set(next);
    });
  }

  /** The same rows as they are now, and what is new; whoever has scrolled on stays there. */
  private lookAgain(): void {
    this.ask({ limit: Math.min(MOST, Math.max(PAGE, this.rows().length)) }, ({ assignments, next }) => {
      const before = this.rows();
      const isTop = before.length > assignments.length && before[assignments.length - 1]?.id === assignments.at(-1)?.id;
      this.rows.set(isTop ? [...assignments, ...before.slice(assignments.length)] : assignments);
      if (!isTop) this.next.set(next);
    });
  }

  private ask(more: AssignmentFilter, take: (page: AssignmentPage) => void): void {
    const asked = ++this.asked;
    const { typed, order, descending } = this.query();
    this.people.assignmentPage({ typed, order, descending, ...more }).subscribe({
      next: (page) => {
        // What was asked since is the one that counts.
        if (asked !== this.asked) return;
        take(page);
        this.looked.set(true);
        this.problem.set('');
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
