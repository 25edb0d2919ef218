import { ChangeDetectionStrategy, Component, computed, inject, input, signal, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Router, RouterLink } from '@angular/router';
import type { Contributor, ImportName } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { SelectButtonModule } from 'primeng/selectbutton';
import { TableModule } from 'primeng/table';
import { PeopleService } from '../api/people.service';
import { SessionService } from '../api/session.service';
import { AssignmentForm } from '../shared/assignment-form';
import { ContributorForm } from '../shared/contributor-form';
import { FindBox } from '../shared/find-box';
import { AssignmentsList } from './assignments-list';
import { CalendarOf } from './calendar-of';
import { HabitsList } from './habits-list';
import { HouseSays } from './house-says';
import { HouseList } from './house-list';
import { ImportDialog } from './import-dialog';
import { WordsList } from './words-list';
import { May } from '../shared/may';

const LISTS = ['pictured', 'locations', 'terms'] as const;
const VIEWS = ['assignments', 'calendar', 'contributors', 'pictured', 'words', 'locations', 'terms', 'habits'] as const;
type ViewName = (typeof VIEWS)[number];
/** What is made new in each view; calendars show assignments, and habits are made on the slip. */
const NEW: Readonly<Record<ViewName, string | null>> = {
  ...{ assignments: 'assignment', calendar: 'assignment', contributors: 'contributor', pictured: 'person' },
  ...{ words: 'word', locations: 'location', terms: 'terms', habits: null },
};
/** Lists that come from files and go to files. */
const FILES: Readonly<Partial<Record<ViewName, ImportName>>> = {
  ...{ assignments: 'assignments', contributors: 'people', words: 'words', locations: 'locations' },
};

/** Who hands in and what they cover; who is shown, what things are called, where they are, and what may be done with them. */
@Component({
  selector: 'ts-people',
  imports: [
    ...[May, RouterLink, FormsModule, ButtonModule, DialogModule, SelectButtonModule, TableModule],
    ...[
      AssignmentForm,
      ContributorForm,
      FindBox,
      AssignmentsList,
      CalendarOf,
      HabitsList,
      HouseList,
      HouseSays,
      ImportDialog,
      WordsList,
    ],
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="page-head">
      <h1>People</h1>
      <p-selectbutton
        ariaLabel="What is shown"
        [options]="views"
        optionLabel="words"
        optionValue="view"
        [allowEmpty]="false"
        [ngModel]="shown()"
        (ngModelChange)="go($event)"
      />
    </header>
    <div class="bar">
      <ts-find-box label="Find by any word" placeholder="Find anything" [words]="sought()" (typed)="sought.set($event)" />
      @if (newOne(); as one) {
        <button pButton type="button" class="p-button-outlined" (click)="add()">New {{ one }}</button>
      }
      @if (files(); as what) {
        <button pButton type="button" tsMay="keep the lists" class="p-button-outlined" (click)="importing.set(what)">
          From a file…
        </button>
        <a class="file" tsMay="keep the lists" [href]="'/api/export/' + what" download>As CSV</a>
        @if (what === 'words') {
          <a class="file" tsMay="keep the lists" href="/api/words/export.ttl" download>As SKOS</a>
        }
      }
    </div>
    @if (shown() === 'terms') {
      <ts-house-says />
    }
    <div class="table">
      @if (shown() === 'assignments') {
        <ts-assignments-list [sought]="sought()" />
      } @else if (shown() === 'calendar') {
        <ts-calendar [sought]="sought()" />
      } @else if (shown() === 'words') {
        <ts-words-list [sought]="sought()" />
      } @else if (shown() === 'habits') {
        <ts-habits-list [sought]="sought()" />
      } @else if (listed(); as list) {
        <ts-house-list [list]="list" [sought]="sought()" />
      } @else {
        <p-table
          [value]="contributors()"
          [virtualScroll]="true"
          [virtualScrollItemSize]="36"
          [scrollable]="true"
          scrollHeight="flex"
          sortField="name"
          [sortOrder]="1"
          [tableStyle]="{ 'table-layout': 'fixed', 'min-width': '660px' }"
        >
          <ng-template #header>
            <tr>
              <th scope="col" pSortableColumn="code" style="width: 96px">Code <p-sortIcon field="code" /></th>
              <th scope="col" pSortableColumn="name" style="width: 26%">Name <p-sortIcon field="name" /></th>
              <th scope="col" pSortableColumn="kind" style="width: 120px">Kind <p-sortIcon field="kind" /></th>
              <th scope="col">Cameras known as theirs</th>
              <th scope="col" pSortableColumn="intakes" style="width: 110px">Intakes <p-sortIcon field="intakes" /></th>
              <th scope="col" pSortableColumn="items" style="width: 120px">Items filed <p-sortIcon field="items" /></th>
            </tr>
          </ng-template>
          <ng-template #body let-one>
            <tr [class.retired]="one.retired">
              <td>
                <span class="tape">{{ one.code }}</span>
              </td>
              <td [title]="one.name">
                <a [routerLink]="['/people/contributor', one.id]">{{ one.name }}</a>
                {{ one.retired ? 'retired' : '' }}
                @if (one.agreementEnded) {
                  <span class="trouble">agreement ended</span>
                }
              </td>
              <td>{{ one.kind }}</td>
              <td [title]="one.cameras.join(', ')">{{ one.cameras.join(', ') || 'none yet' }}</td>
              <td>{{ one.intakes }}</td>
              <td>{{ one.items.toLocaleString() }}</td>
            </tr>
          </ng-template>
          <ng-template #emptymessage
            ><tr>
              <td colspan="6" class="empty">{{ emptyWords('Nobody yet: add the first contributor.') }}</td>
            </tr></ng-template
          >
        </p-table>
      }
    </div>
    <p-dialog
      closeAriaLabel="Close"
      header="New contributor"
      [modal]="true"
      [visible]="adding() === 'contributors'"
      (visibleChange)="adding.set(null)"
    >
      @if (adding() === 'contributors') {
        <ts-contributor-form [known]="everybody() ?? []" (added)="adding.set(null)" />
      }
    </p-dialog>
    <p-dialog
      closeAriaLabel="Close"
      header="New assignment"
      [modal]="true"
      [visible]="adding() === 'assignments'"
      (visibleChange)="adding.set(null)"
    >
      @if (adding() === 'assignments') {
        <ts-assignment-form [everybody]="offered()" [day]="today" (added)="adding.set(null)" />
      }
    </p-dialog>
    @if (importing(); as what) {
      <ts-import-dialog [what]="what" [words]="shown()" (done)="importing.set(null)" />
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100vh;
      padding: 16px 24px 12px;
    }
    .acts {
      margin-left: auto;
      display: flex;
      gap: 12px;
      align-items: center;
    }
    p-selectbutton {
      align-self: center;
    }
    .table {
      flex: 1;
      min-height: 180px;
      border-top: 1px solid var(--strong-line);
    }
    @media (max-height: 560px) {
      :host {
        height: auto;
      }
      .table {
        height: max(320px, 80vh);
      }
    }
    .retired {
      color: var(--quiet);
    }
    .trouble {
      color: var(--trouble);
      font-weight: 600;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      gap: 10px;
      align-items: center;
      padding: 10px 0;
    }
    .file {
      padding: 4px 2px;
    }
    td a {
      margin-right: 8px;
    }
  `,
})
export class PeoplePage {
  private readonly people = inject(PeopleService);
  private readonly session = inject(SessionService);
  private readonly router = inject(Router);

  /** From the address: which of the two is shown. */
  readonly view = input<string>();
  protected readonly shown = computed(() => VIEWS.find((one) => one === this.view()) ?? 'assignments');
  protected readonly sought = signal('');
  protected readonly everybody = toSignal(this.people.everybody);
  protected readonly offered = computed(() => this.everybody()?.filter(({ retired }) => !retired) ?? ([] as Contributor[]));
  protected readonly views = VIEWS.map((view) => ({ view, words: view[0]!.toUpperCase() + view.slice(1) }));
  protected readonly adding = signal<'assignments' | 'contributors' | null>(null);
  protected readonly importing = signal<ImportName | null>(null);
  protected readonly newOne = computed(() => NEW[this.shown()]);
  protected readonly files = computed(() => FILES[this.shown()]);
  protected readonly listed = computed(() => LISTS.find((list) => list === this.shown()));
  private readonly wordsList = viewChild(WordsList);
  private readonly houseList = viewChild(HouseList);

  protected add(): void {
    const shown = this.shown();
    if (shown === 'words') this.wordsList()?.adding.set(true);
    else if (this.listed()) this.houseList()?.adding.set(true);
    else this.adding.set(shown === 'contributors' ? 'contributors' : 'assignments');
  }

  protected readonly today = this.session.today();
  protected readonly contributors = computed(() =>
    (this.everybody() ?? []).filter((one) => this.fits([one.name, one.code, one.kind, ...one.cameras])),
  );

  protected go(view: ViewName): void {
    void this.router.navigate([], { queryParams: { view }, replaceUrl: true });
  }

  protected emptyWords(none: string): string {
    if (!this.everybody()) return 'Fetching the list';
    return this.sought() ? 'Nothing fits these words.' : none;
  }

  private fits(parts: readonly string[]): boolean {
    const text = parts.join(' ').toLowerCase();
    return this.sought()
      .toLowerCase()
      .split(/\s+/)
      .every((word) => text.includes(word));
  }
}
