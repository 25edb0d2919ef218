import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { ConfirmationService, MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { catchError, of, switchMap } from 'rxjs';
import { LendingService } from '../api/lending.service';
import { LiveService } from '../api/live.service';
import type { ContributorDetail } from '@tally/contract';
import { CreditService } from '../api/credit.service';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';
import { CountPipe } from '../shared/amounts';
import { ContributorForm } from '../shared/contributor-form';
import { loanWords } from '../shared/loan-words';
import { NotThere } from '../shell/not-there';
import { daysOf } from './assignment-words';
import { Agreements } from './agreements';
import { CameIn } from './came-in';
import { MergeDialog } from './merge-dialog';
import { Months } from './months';
import { May } from '../shared/may';

/** Somebody who hands in: what came in and when, what is out, what is missing; and what can be corrected. */
@Component({
  selector: 'ts-contributor',
  imports: [
    May,
    RouterLink,
    ButtonModule,
    DialogModule,
    ContributorForm,
    Agreements,
    CameIn,
    MergeDialog,
    Months,
    NotThere,
    CountPipe,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (one(); as person) {
      <div class="page">
        <header class="page-head">
          <span class="tape">{{ person.code }}</span>
          <h1>{{ person.name }}</h1>
          @if (person.retired) {
            <span class="quiet">retired: not offered any more</span>
          }
          <span class="acts">
            <a pButton class="p-button-outlined" routerLink="/shelf" [queryParams]="{ q: 'by:' + person.code }">On the shelf</a>
            <button pButton type="button" tsMay="keep the lists" class="p-button-outlined" (click)="correcting.set(true)">
              Correct…
            </button>
            <button pButton type="button" tsMay="keep the lists" class="p-button-outlined" (click)="merging.set(true)">
              Merge…
            </button>
            <button pButton type="button" tsMay="keep the lists" class="p-button-outlined" (click)="retire(!person.retired)">
              {{ person.retired ? 'Put back' : 'Retire' }}
            </button>
            <button pButton type="button" tsMay="forget" class="p-button-outlined" (click)="forget()">Forget…</button>
          </span>
        </header>
        <p>
          {{ person.intakes | count: 'intake' }}, {{ person.items | count: 'item' }} filed.
          {{ person.cameras.length ? 'Known cameras: ' + person.cameras.join(', ') + '.' : '' }}
        </p>
        @if ((detail()?.months?.length ?? 0) > 1) {
          @defer {
            <ts-months [months]="detail()!.months" [name]="person.name" />
          }
        }
        <div class="columns">
          <ts-came-in [filter]="{ contributor: person.code }" />
          <aside>
            @if (detail(); as says) {
              <h2>Credit and terms</h2>
              <p>{{ says.creditLine ?? 'Credited as the house says' }}</p>
              <p>{{ termsOf(says) }}</p>
              @for (way of contact(says); track way) {
                <p>{{ way }}</p>
              }
              @if (says.minor) {
                <p>A minor: whoever only looks sees {{ person.code }} instead of the name</p>
              }
              @if (says.notes) {
                <p>{{ says.notes }}</p>
              }
              @if (says.formerCodes.length) {
                <p class="quiet">Was {{ says.formerCodes.join(', ') }} too</p>
              }
              <ts-agreements [contributorId]="person.id" [agreements]="says.agreements" />
            }
            <h2>Missing</h2>
            @for (one of missing(); track one.id) {
              <p>
                <a [routerLink]="['/people/assignment', one.id]">{{ one.title }}</a> <span class="quiet">{{ days(one) }}</span>
              </p>
            } @empty {
              <p class="quiet">Nothing is expected of them.</p>
            }
            <h2>Out</h2>
            @for (thing of lent(); track thing.loan!.id) {
              <p>
                <span class="tape">{{ thing.label ?? thing.name }}</span>
                <span [class.trouble]="thing.loan!.standing === 'overdue'">{{ words(thing.loan!) }}</span>
              </p>
            } @empty {
              <p class="quiet">Nothing of the house is with them.</p>
            }
          </aside>
        </div>
      </div>
      <p-dialog
        closeAriaLabel="Close"
        [header]="'Correct ' + person.name"
        [modal]="true"
        [visible]="correcting()"
        (visibleChange)="correcting.set(false)"
      >
        @if (correcting() && detail()) {
          <ts-contributor-form
            [known]="everybody() ?? []"
            [correcting]="person"
            [detail]="detail()"
            (added)="correcting.set(false)"
          />
        }
      </p-dialog>
      @if (merging()) {
        <ts-merge-dialog
          what="contributors"
          [id]="person.id"
          [called]="person.name"
          [others]="others"
          (done)="merging.set(false)"
        />
      }
    } @else if (everybody()) {
      <ts-not-there what="There is no such contributor" />
    } @else {
      <div class="page"><div class="skeleton" style="height: 240px"></div></div>
    }
  `,
  styleUrl: './record-of.css',
})
export class ContributorPage {
  readonly id = input.required<string>();
  private readonly people = inject(PeopleService);
  private readonly messages = inject(MessageService);
  private readonly confirmation = inject(ConfirmationService);
  private readonly lending = inject(LendingService);
  protected readonly everybody = toSignal(this.people.everybody);
  private readonly things = toSignal(
    inject(LiveService)
      .whenever('desk')
      .pipe(switchMap(() => this.lending.things().pipe(catchError(() => of([]))))),
    { initialValue: [] },
  );
  protected readonly correcting = signal(false);

  private readonly credit = inject(CreditService);
  private readonly terms = toSignal(this.credit.terms, { initialValue: [] });
  protected readonly detail = toSignal(
    toObservable(this.id).pipe(switchMap((id) => this.credit.contributor(Number(id)).pipe(catchError(() => of(undefined))))),
  );
  protected readonly merging = signal(false);
  protected readonly others = (typed: string) => {
    const words = typed.trim().toLowerCase();
    const others = (this.everybody() ?? []).filter(({ id }) => String(id) !== this.id());
    return of(
      others
        .map(({ id, name, code }) => ({ id, name: `${name} (${code})` }))
        .filter(({ name }) => name.toLowerCase().includes(words)),
    );
  };
  protected termsOf({ termsId }: ContributorDetail): string {
    return this.terms().find(({ id }) => id === termsId)?.name ?? 'Terms as the house says';
  }
  /** How they are reached, and what of it stays inside. */
  protected contact(says: ContributorDetail): string[] {
    const ways = { email: says.email, phone: says.phone, address: says.address, web: says.web };
    return Object.entries(ways).flatMap(([way, text]) =>
      text ? [`${text}${says.inside.includes(way) ? ' (stays inside)' : ''}`] : [],
    );
  }

  protected readonly one = computed(() => this.everybody()?.find(({ id }) => String(id) === this.id()));
  protected readonly missing = toSignal(toObservable(this.id).pipe(switchMap((id) => this.people.missing(Number(id)))), {
    initialValue: [],
  });
  protected readonly lent = computed(() => this.things().filter(({ loan }) => String(loan?.to.id) === this.id()));
  protected readonly days = daysOf;
  protected readonly words = loanWords;

  protected forget(): void {
    const name = this.one()?.name ?? 'them';
    this.confirmation.confirm({
      header: `Forget ${name}?`,
      message:
        'Contacts, notes, agreements with their scans, and habits are erased and do not come back; a number stands for the name in ' +
        'every record and file, and in the log. The pictures stay, and so does the code in their names. ' +
        'What was signed on paper is still on paper.',
      acceptLabel: 'Forget',
      rejectLabel: 'Leave it',
      accept: () =>
        this.people.forget(Number(this.id())).subscribe({
          next: ({ items }) =>
            this.messages.add({ severity: 'success', summary: `Forgotten. ${items} items follow by themselves.`, life: 8000 }),
          error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 }),
        }),
    });
  }

  protected retire(retired: boolean): void {
    this.people.changeContributor(Number(this.id()), { retired }).subscribe({
      error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 }),
    });
  }
}
