import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Router, RouterLink } from '@angular/router';
import type { Assignment, IntakeSummary, LogQuery } from '@tally/contract';
import { INTAKE_STATES } from '@tally/core/copies';
import { LOG_COLUMNS, type LogColumn, partNames } from '@tally/core/logbook';
import { AutoCompleteModule } from 'primeng/autocomplete';
import { MultiSelectModule } from 'primeng/multiselect';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { TableModule, type TableLazyLoadEvent } from 'primeng/table';
import { catchError, debounceTime, map, of, Subject, switchMap } from 'rxjs';
import { IntakesService } from '../api/intakes.service';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { BytesPipe, CountPipe, HouseTimePipe } from '../shared/amounts';
import { DayBox } from '../shared/day-box';
import { FindBox } from '../shared/find-box';
import { OrderButton, orderedBy, type Ordered } from '../shared/order-button';
import { StateMark } from '../shared/state-mark';
import { Stick } from '../stick/stick';
import { Calendar } from './calendar';
import { filled, LogStore, type LogView } from './log-store';
import { May } from '../shared/may';

type Order = LogQuery['order'];

const COLUMNS: readonly {
  readonly order: Order | null;
  readonly name: string;
  readonly width: string;
  readonly right?: boolean;
  /** Left out where there is no room. */
  readonly wide?: boolean;
}[] = [
  { order: null, name: 'Intake', width: '108px' },
  { order: 'received', name: 'Received', width: '134px' },
  { order: 'contributor', name: 'Contributor', width: '15%' },
  { order: 'card', name: 'Card', width: '76px' },
  { order: 'assignment', name: 'Assignment', width: '20%' },
  { order: 'items', name: 'Items', width: '76px', right: true, wide: true },
  { order: 'bytes', name: 'Size', width: '88px', right: true, wide: true },
  { order: null, name: 'Stick', width: 'auto', wide: true },
  { order: 'state', name: 'State', width: '148px' },
];

const COLUMN_WORDS: Partial<Record<LogColumn, string>> = {
  ...{ bytes: 'size in bytes', first: 'first item', last: 'last item', items: 'count', receivedBy: 'received by' },
};

const KEPT = 'tally-log-columns';

/** The columns this browser chose last. */
function keptColumns(): LogColumn[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? 'null');
    const columns = LOG_COLUMNS.filter((column) => Array.isArray(kept) && kept.includes(column));
    return columns.length ? columns : [...LOG_COLUMNS];
  } catch {
    return [...LOG_COLUMNS];
  }
}

/** The record of all intakes: a year at a glance, then a dense table to sort, narrow, export. */
@Component({
  selector: 'ts-logbook',
  imports: [
    May,
    RouterLink,
    FormsModule,
    TableModule,
    SelectModule,
    InputTextModule,
    ButtonModule,
    AutoCompleteModule,
    MultiSelectModule,
    Calendar,
    Stick,
    StateMark,
    FindBox,
    OrderButton,
    DayBox,
    BytesPipe,
    CountPipe,
    HouseTimePipe,
  ],
  providers: [LogStore],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="page-head">
      <h1>Logbook</h1>
      <span class="quiet" aria-live="polite"
        >{{ store.total() === null ? '' : (store.total()! | count: 'intake') }}{{ narrowed() ? ' found' : '' }}</span
      >
      <span class="acts">
        <p-multiselect
          ariaLabel="Columns of the copied or exported log"
          placeholder="Columns"
          selectedItemsLabel="{0} columns"
          [maxSelectedLabels]="0"
          [options]="logColumns"
          optionLabel="words"
          optionValue="column"
          [filter]="false"
          [ngModel]="chosen()"
          (ngModelChange)="choose($event)"
        />
        <button pButton type="button" tsMay="fetch" class="p-button-outlined" (click)="copy()">
          <i class="pi pi-copy" aria-hidden="true"></i> Copy for a spreadsheet
        </button>
        <a pButton class="p-button-outlined" routerLink="/figures"
          ><i class="pi pi-chart-bar" aria-hidden="true"></i> In figures</a
        >
        <a pButton tsMay="fetch" class="p-button-outlined" [href]="csv()" download="logbook.csv"
          ><i class="pi pi-download" aria-hidden="true"></i> CSV</a
        >
      </span>
    </header>
    <ts-log-calendar [days]="calendar()" [until]="today" (week)="narrow({ from: $event.from, to: $event.to })" />
    <form class="filters">
      <ts-find-box
        class="words"
        label="Words to find"
        placeholder="Find any word"
        [words]="words()"
        (typed)="typed.next($event)"
      />
      <p-select
        [options]="people()"
        optionLabel="name"
        optionValue="code"
        placeholder="Everybody"
        ariaLabel="Contributor"
        [showClear]="true"
        [ngModel]="contributor() ?? null"
        name="contributor"
        (ngModelChange)="narrow({ contributor: $event })"
      />
      <p-autocomplete
        class="assignment"
        optionLabel="title"
        placeholder="Any assignment"
        ariaLabel="Assignment"
        appendTo="body"
        [showClear]="true"
        [dropdown]="true"
        dropdownAriaLabel="Show assignments"
        [forceSelection]="true"
        [autoOptionFocus]="true"
        [suggestions]="assignments()"
        (completeMethod)="typedAssignment.next($event.query)"
        [ngModel]="chosenAssignment()"
        name="assignment"
        (onSelect)="narrow({ assignment: $event.value.slug })"
        (onClear)="narrow({ assignment: '' })"
      />
      <p-select
        [options]="states"
        placeholder="Any state"
        ariaLabel="State"
        [showClear]="true"
        [ngModel]="state() ?? null"
        name="state"
        (ngModelChange)="narrow({ state: $event })"
      />
      <span class="span"
        ><span class="quiet">from</span>
        <ts-day-box label="Received from" placeholder="any day" [day]="from() ?? ''" (dayChange)="narrow({ from: $event })"
      /></span>
      <span class="span"
        ><span class="quiet">to</span>
        <ts-day-box label="Received until" placeholder="any day" [day]="to() ?? ''" (dayChange)="narrow({ to: $event })"
      /></span>
      @if (narrowed()) {
        <button pButton type="button" class="p-button-text" (click)="all()">Show all</button>
      }
    </form>
    @if (store.problem()) {
      <p class="attention" role="alert">{{ store.problem() }}</p>
    }
    @if (store.sums(); as sums) {
      <p class="sums" role="status">
        <b>{{ store.total()! | count: 'intake' }}</b>
        <span>{{ sums.items | count: 'item' }}, {{ sums.bytes | bytes }} on the cards</span>
        <span>{{ sums.filed | count: 'item' }} filed</span>
      </p>
    }
    <div class="table">
      <p-table
        [value]="rows()"
        [lazy]="true"
        [virtualScroll]="true"
        [virtualScrollItemSize]="36"
        [scrollable]="true"
        scrollHeight="flex"
        [sortField]="order()"
        [sortOrder]="descending() ? -1 : 1"
        [tableStyle]="{ 'table-layout': 'fixed' }"
        (onLazyLoad)="look($event)"
      >
        <ng-template #header>
          <tr>
            @for (column of columns; track column.name) {
              <th
                scope="col"
                [style.width]="column.width"
                [class.right]="column.right"
                [class.wide]="column.wide"
                [attr.aria-sort]="sorted(column.order)"
              >
                @if (column.order; as by) {
                  <ts-order-button [name]="column.name" [ordered]="sorted(by)" (ask)="sort(by)" />
                } @else {
                  {{ column.name }}
                }
              </th>
            }
          </tr>
        </ng-template>
        <ng-template #body let-intake>
          @if (intake) {
            <tr>
              <td>
                <a class="mono" [routerLink]="['/logbook', intake.id]">{{ intake.number }}</a>
              </td>
              <td>{{ intake.receivedAt | houseTime: 'short' }}</td>
              <td [title]="names(intake, 'contributor').all">{{ names(intake, 'contributor').short }}</td>
              <td class="mono" [title]="intake.card.volume">{{ intake.card.label ?? '—' }}</td>
              <td [title]="names(intake, 'assignment').all">{{ names(intake, 'assignment').short }}</td>
              <td class="right wide">{{ intake.items.toLocaleString() }}</td>
              <td class="right wide">{{ intake.bytes | bytes }}</td>
              <td class="wide"><ts-stick [runs]="intake.stick" /></td>
              <td>
                <ts-state [state]="intake.state" />
                @if (intake.unshown) {
                  <span class="never" [title]="intake.unshown + ' must not be shown'"
                    ><i class="pi pi-ban" aria-hidden="true"></i> {{ intake.unshown
                    }}<span class="visually-hidden"> must not be shown</span></span
                  >
                }
              </td>
            </tr>
          } @else {
            <tr aria-hidden="true">
              <td colspan="9"><div class="skeleton" style="height: 16px"></div></td>
            </tr>
          }
        </ng-template>
        <ng-template #emptymessage>
          <tr>
            <td colspan="9" class="empty">
              {{
                store.total() === null
                  ? 'Fetching the log'
                  : narrowed()
                    ? 'No intake fits. Show all, or take other words.'
                    : 'No card has been received yet. Put one into a reader.'
              }}
            </td>
          </tr>
        </ng-template>
      </p-table>
    </div>
  `,
  styles: `
    .never {
      margin-left: 6px;
      color: var(--trouble);
      font-size: 13px;
      font-weight: 600;
    }
    :host {
      display: flex;
      flex-direction: column;
      height: 100vh;
      padding: 16px 24px 12px;
    }
    .page-head {
      margin-bottom: 4px;
    }
    .acts {
      margin-left: auto;
      display: flex;
      gap: 10px;
    }
    .acts a {
      text-decoration: none;
    }
    .filters {
      display: flex;
      flex-wrap: wrap;
      gap: 8px 10px;
      align-items: center;
      padding: 10px 0;
    }
    .filters .words {
      flex: 1 1 240px;
      max-width: 400px;
    }
    .filters p-select {
      width: 154px;
    }
    .filters .assignment {
      width: 184px;
    }
    .filters ts-day-box {
      width: 136px;
    }
    .sums {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 20px;
      padding-bottom: 6px;
      color: var(--quiet);
      font-size: 13px;
    }
    .sums b {
      color: var(--ink);
    }
    .table {
      flex: 1;
      min-height: 180px;
      border-top: 1px solid var(--strong-line);
    }
    .filters .span {
      display: inline-flex;
      gap: 6px;
      align-items: center;
    }
    ts-stick {
      height: 20px;
    }
    @media (max-width: 960px) {
      .wide {
        display: none;
      }
      .acts {
        flex-wrap: wrap;
      }
    }
    @media (max-height: 560px) {
      :host {
        height: auto;
      }
      .table {
        flex: none;
        height: max(320px, 80vh);
      }
    }
  `,
})
export class LogbookPage {
  protected readonly store = inject(LogStore);
  private readonly service = inject(IntakesService);
  private readonly router = inject(Router);
  private readonly messages = inject(MessageService);
  private readonly session = inject(SessionService);

  // The page's address says what is shown.
  readonly words = input<string>();
  readonly state = input<LogView['state']>();
  readonly contributor = input<string>();
  readonly assignment = input<string>();
  readonly from = input<string>();
  readonly to = input<string>();
  readonly by = input<Order>();
  readonly up = input<string>();

  protected readonly order = computed<Order>(() => this.by() ?? 'received');
  protected readonly descending = computed(() => this.up() === undefined);
  protected readonly narrowed = computed(() =>
    [this.words(), this.state(), this.contributor(), this.assignment(), this.from(), this.to()].some(Boolean),
  );
  private readonly view = computed<LogView>(() => ({
    words: this.words(),
    state: this.state(),
    contributor: this.contributor(),
    assignment: this.assignment(),
    from: this.from(),
    to: this.to(),
    order: this.order(),
    descending: this.descending(),
  }));
  protected readonly csv = computed(() => {
    const view = Object.entries(filled(this.view())).map(([key, value]) => [key, String(value)]);
    const parameters = [...view, ['columns', this.chosen().join(',')]];
    return `/api/intakes/export.csv?${new URLSearchParams(parameters).toString()}`;
  });
  protected readonly rows = computed(() => this.store.rows());
  protected readonly calendar = toSignal(this.service.calendar().pipe(map(({ days }) => days)), { initialValue: [] });
  protected readonly people = toSignal(inject(PeopleService).contributors, { initialValue: [] });
  private readonly peopleService = inject(PeopleService);
  protected readonly typedAssignment = new Subject<string>();
  protected readonly assignments = toSignal(this.typedAssignment.pipe(switchMap((typed) => this.peopleService.choices(typed))), {
    initialValue: [] as Assignment[],
  });
  /** What the address says, by its title as soon as that is known. */
  protected readonly chosenAssignment = toSignal(
    toObservable(this.assignment).pipe(
      switchMap((slug) =>
        slug
          ? this.peopleService.assignmentPage({ typed: slug, limit: 50 }).pipe(
              map(({ assignments }) => assignments.find((one) => one.slug === slug) ?? null),
              catchError(() => of(null)),
            )
          : of(null),
      ),
    ),
    { initialValue: null },
  );
  protected readonly today = new Intl.DateTimeFormat('sv-SE', { timeZone: this.session.zone() }).format(this.session.now());
  protected readonly states = [...INTAKE_STATES];
  protected readonly columns = COLUMNS;
  protected readonly typed = new Subject<string>();
  private readonly lastTyped = toSignal(this.typed.pipe(debounceTime(180)));
  private readonly shown = signal(false);
  protected readonly logColumns = LOG_COLUMNS.map((column) => ({ column, words: COLUMN_WORDS[column] ?? column }));
  protected readonly chosen = signal<readonly LogColumn[]>(keptColumns());

  constructor() {
    effect(() => {
      const view = this.view();
      untracked(() => this.store.show(view));
      this.shown.set(true);
    });
    effect(() => {
      const words = this.lastTyped();
      if (words !== undefined) untracked(() => this.narrow({ words }));
    });
  }

  /** Everybody whose items are in it; the cell has room for one. */
  protected names(intake: IntakeSummary, what: 'contributor' | 'assignment'): { short: string; all: string } {
    const names = partNames(intake, what);
    const [first = '—', ...more] = names;
    return { short: more.length ? `${first} and ${more.length} more` : first, all: names.join(', ') };
  }

  protected choose(columns: readonly LogColumn[]): void {
    // In the order of the log, whichever was chosen first; none at all means all of them.
    const chosen = LOG_COLUMNS.filter((column) => columns.includes(column));
    this.chosen.set(chosen.length ? chosen : [...LOG_COLUMNS]);
    localStorage.setItem(KEPT, JSON.stringify(this.chosen()));
  }

  protected narrow(change: LogView): void {
    const queryParams = Object.fromEntries(Object.entries(change).map(([key, value]) => [key, value === '' ? null : value]));
    void this.router.navigate([], { queryParams, queryParamsHandling: 'merge', replaceUrl: 'words' in change });
  }

  protected all(): void {
    void this.router.navigate([], { queryParams: {} });
  }

  protected sort(by: Order): void {
    const again = this.order() === by;
    const up = again ? this.descending() : by !== 'received' && by !== 'items' && by !== 'bytes';
    void this.router.navigate([], { queryParams: { by, up: up ? '1' : null }, queryParamsHandling: 'merge' });
  }

  protected sorted(by: Order | null): Ordered {
    return orderedBy(by, this.order(), this.descending());
  }

  protected look({ first, rows }: TableLazyLoadEvent): void {
    if (this.shown()) this.store.need(first ?? 0, (first ?? 0) + (rows ?? 40));
  }

  /** Puts the log on the clipboard as tab-separated text: a spreadsheet takes it as columns. */
  protected copy(): void {
    this.service.tabSeparated({ ...this.store.filter(), columns: this.chosen().join(',') }).subscribe({
      next: (text) => {
        const lines = text.split('\n').length - 1;
        navigator.clipboard.writeText(text).then(
          () =>
            this.messages.add({
              severity: 'success',
              summary: `${lines} lines copied: paste them into a spreadsheet.`,
              life: 4000,
            }),
          () =>
            this.messages.add({
              severity: 'error',
              summary: 'This browser does not allow copying here. Take the CSV instead.',
              life: 6000,
            }),
        );
      },
      error: (error: unknown) => this.messages.add({ severity: 'error', summary: wordsFor(error), life: 6000 }),
    });
  }
}
