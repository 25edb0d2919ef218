import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { Assignment } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { TableModule } from 'primeng/table';
import { PeopleService } from '../api/people.service';
import { SessionService } from '../api/session.service';
import { AssignmentForm } from '../shared/assignment-form';
import { ContributorForm } from '../shared/contributor-form';

/** Who hands in, and what they were sent to cover. */
@Component({
  selector: 'ts-people',
  imports: [RouterLink, ButtonModule, DialogModule, TableModule, AssignmentForm, ContributorForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>People</h1>
        <span class="quiet">contributors and assignments</span>
      </header>
      <section aria-labelledby="assignments">
        <div class="head">
          <h2 id="assignments">
            Assignments <span class="quiet">{{ assignments()?.length ?? 0 }}</span>
          </h2>
          <button pButton type="button" class="p-button-outlined" (click)="adding.set('assignment')">New assignment</button>
        </div>
        <p-table
          [value]="assignments() ?? []"
          sortMode="single"
          sortField="from"
          [sortOrder]="-1"
          [tableStyle]="{ 'table-layout': 'fixed' }"
        >
          <ng-template #header>
            <tr>
              <th scope="col" pSortableColumn="title" style="width: 21%">Title <p-sortIcon field="title" /></th>
              <th scope="col" pSortableColumn="slug" style="width: 17%">Short name <p-sortIcon field="slug" /></th>
              <th scope="col" pSortableColumn="from" style="width: 215px">Days <p-sortIcon field="from" /></th>
              <th scope="col" pSortableColumn="place" style="width: 15%">Place <p-sortIcon field="place" /></th>
              <th scope="col" style="width: 84px">Cards</th>
              <th scope="col">Still expected from</th>
            </tr>
          </ng-template>
          <ng-template #body let-one>
            <tr>
              <td>
                <a routerLink="/logbook" [queryParams]="{ assignment: one.slug }">{{ one.title }}</a>
              </td>
              <td class="mono" [title]="one.slug">{{ one.slug }}</td>
              <td [title]="days(one)">{{ days(one) }}</td>
              <td [title]="one.place">{{ one.place }}</td>
              <td>{{ one.receivedCards }}{{ one.expectedCards ? ' of ' + one.expectedCards : '' }}</td>
              <td [title]="missing(one)">{{ missing(one) }}</td>
            </tr>
          </ng-template>
          <ng-template #emptymessage
            ><tr>
              <td colspan="6" class="empty">
                {{ assignments() ? 'No assignment yet: add one, and say who is expected.' : 'Fetching assignments' }}
              </td>
            </tr></ng-template
          >
        </p-table>
      </section>
      <section aria-labelledby="contributors">
        <div class="head">
          <h2 id="contributors">
            Contributors <span class="quiet">{{ contributors()?.length ?? 0 }}</span>
          </h2>
          <button pButton type="button" class="p-button-outlined" (click)="adding.set('contributor')">New contributor</button>
        </div>
        <p-table [value]="contributors() ?? []" sortField="name" [sortOrder]="1" [tableStyle]="{ 'table-layout': 'fixed' }">
          <ng-template #header>
            <tr>
              <th scope="col" pSortableColumn="code" style="width: 96px">Code <p-sortIcon field="code" /></th>
              <th scope="col" pSortableColumn="name" style="width: 24%">Name <p-sortIcon field="name" /></th>
              <th scope="col">Cameras known as theirs</th>
              <th scope="col" pSortableColumn="intakes" style="width: 110px">Intakes <p-sortIcon field="intakes" /></th>
              <th scope="col" pSortableColumn="items" style="width: 120px">Items filed <p-sortIcon field="items" /></th>
            </tr>
          </ng-template>
          <ng-template #body let-one>
            <tr>
              <td>
                <span class="tape">{{ one.code }}</span>
              </td>
              <td>
                <a routerLink="/logbook" [queryParams]="{ contributor: one.code }">{{ one.name }}</a>
              </td>
              <td [title]="one.cameras.join(', ')">{{ one.cameras.join(', ') || 'none yet' }}</td>
              <td>{{ one.intakes }}</td>
              <td>{{ one.items.toLocaleString() }}</td>
            </tr>
          </ng-template>
          <ng-template #emptymessage
            ><tr>
              <td colspan="5" class="empty">
                {{ contributors() ? 'Nobody yet: add the first contributor.' : 'Fetching contributors' }}
              </td>
            </tr></ng-template
          >
        </p-table>
      </section>
    </div>
    <p-dialog
      closeAriaLabel="Close"
      header="New contributor"
      [modal]="true"
      [visible]="adding() === 'contributor'"
      (visibleChange)="adding.set(null)"
    >
      @if (adding() === 'contributor') {
        <ts-contributor-form [known]="contributors() ?? []" (added)="adding.set(null)" />
      }
    </p-dialog>
    <p-dialog
      closeAriaLabel="Close"
      header="New assignment"
      [modal]="true"
      [visible]="adding() === 'assignment'"
      (visibleChange)="adding.set(null)"
    >
      @if (adding() === 'assignment') {
        <ts-assignment-form [everybody]="contributors() ?? []" [day]="today" (added)="adding.set(null)" />
      }
    </p-dialog>
  `,
  styles: `
    section {
      border-top: 1px solid var(--strong-line);
      padding: 10px 0 24px;
    }
    .head {
      display: flex;
      justify-content: space-between;
      align-items: center;
      padding-bottom: 4px;
    }
  `,
})
export class PeoplePage {
  private readonly people = inject(PeopleService);
  private readonly session = inject(SessionService);
  protected readonly contributors = toSignal(this.people.contributors);
  protected readonly assignments = toSignal(this.people.assignments);
  protected readonly adding = signal<'contributor' | 'assignment' | null>(null);
  protected readonly today = new Intl.DateTimeFormat('sv-SE', { timeZone: this.session.zone() }).format(this.session.now());

  protected days({ from, to }: Assignment): string {
    const say = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short', year: 'numeric' });
    return from === to ? say.format(new Date(from)) : say.formatRange(new Date(from), new Date(to));
  }

  protected missing({ expected, receivedCards, expectedCards }: Assignment): string {
    const names = expected.filter((person) => !person.handedIn).map((person) => person.name);
    const cards = expectedCards - receivedCards;
    return names.join(', ') || (cards > 0 ? `${cards} more ${cards === 1 ? 'card' : 'cards'}` : expectedCards ? 'all in' : '');
  }
}
