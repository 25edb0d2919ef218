import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import type { AssignmentDetail } from '@tally/contract';
import { catchError, map, of, switchMap } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';
import { AssignmentForm } from '../shared/assignment-form';
import { NotThere } from '../shell/not-there';
import { daysOf } from './assignment-words';
import { CameIn } from './came-in';
import { MergeDialog } from './merge-dialog';
import { May } from '../shared/may';

/** What was covered: who handed in and who did not, what came in; and what can be corrected. */
@Component({
  selector: 'ts-assignment',
  imports: [May, RouterLink, ButtonModule, DialogModule, AssignmentForm, CameIn, MergeDialog, NotThere],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (one(); as what) {
      <div class="page">
        <header class="page-head">
          <h1>{{ what.title }}</h1>
          <span class="quiet mono">{{ what.slug }}{{ what.code ? ' · ' + what.code : '' }}</span>
          @if (what.retired) {
            <span class="quiet">retired: not offered any more</span>
          }
          <span class="acts">
            <a pButton class="p-button-outlined" routerLink="/shelf" [queryParams]="{ q: 'for:' + what.slug }">On the shelf</a>
            <button pButton type="button" tsMay="keep the lists" class="p-button-outlined" (click)="correcting.set(true)">
              Correct…
            </button>
            <button pButton type="button" tsMay="keep the lists" class="p-button-outlined" (click)="merging.set(true)">
              Merge…
            </button>
            <button pButton type="button" tsMay="keep the lists" class="p-button-outlined" (click)="retire(!what.retired)">
              {{ what.retired ? 'Put back' : 'Retire' }}
            </button>
          </span>
        </header>
        <p>
          {{ days(what) }}{{ what.place ? ', ' + what.place : '' }}. {{ what.receivedCards }}
          {{ what.expectedCards ? 'of ' + what.expectedCards + ' expected cards' : 'cards' }} received.
          {{ detail()?.description }}
        </p>
        @if (detail()?.embargoUntil; as day) {
          <p class="trouble">Nothing of it may be shown before {{ dayName(day) }} is over.</p>
        }
        <div class="columns">
          <ts-came-in [filter]="{ assignment: what.slug }" />
          <aside>
            @if (detail(); as says) {
              <h2>Says of all pictures</h2>
              <p>{{ termsOf(says) }}</p>
              <p>{{ says.words.length ? 'Words ' + textsOf(says) : 'No words' }}</p>
              <p>{{ locationOf(says) }}</p>
              @if (says.contacts) {
                <p>Ask {{ says.contacts }}</p>
              }
            }
            <h2>Handed in</h2>
            @for (person of handed(); track person.id) {
              <p>
                <a [routerLink]="['/people/contributor', person.id]">{{ person.name }}</a>
              </p>
            } @empty {
              <p class="quiet">Nobody of those expected yet.</p>
            }
            <h2>Missing</h2>
            @for (person of missing(); track person.id) {
              <p>
                <a [routerLink]="['/people/contributor', person.id]">{{ person.name }}</a>
              </p>
            } @empty {
              <p class="quiet">Everybody named has handed in.</p>
            }
          </aside>
        </div>
      </div>
      <p-dialog
        closeAriaLabel="Close"
        [header]="'Correct ' + what.title"
        [modal]="true"
        [visible]="correcting()"
        (visibleChange)="correcting.set(false)"
      >
        @if (correcting() && detail()) {
          <ts-assignment-form
            [everybody]="contributors()"
            [day]="what.from"
            [correcting]="what"
            [detail]="detail()"
            (added)="correcting.set(false)"
          />
        }
      </p-dialog>
      @if (merging()) {
        <ts-merge-dialog what="assignments" [id]="what.id" [called]="what.title" [others]="others" (done)="merging.set(false)" />
      }
    } @else if (looked()) {
      <ts-not-there what="There is no such assignment" />
    } @else {
      <div class="page"><div class="skeleton" style="height: 240px"></div></div>
    }
  `,
  styleUrl: './record-of.css',
})
export class AssignmentPage {
  readonly id = input.required<string>();
  private readonly people = inject(PeopleService);
  private readonly messages = inject(MessageService);
  private readonly found = toSignal(toObservable(this.id).pipe(switchMap((id) => this.people.assignments([Number(id)]))));
  protected readonly contributors = toSignal(this.people.everybody, { initialValue: [] });
  protected readonly correcting = signal(false);

  private readonly credit = inject(CreditService);
  private readonly terms = toSignal(this.credit.terms, { initialValue: [] });
  private readonly locations = toSignal(this.credit.locations, { initialValue: [] });
  protected readonly detail = toSignal(
    toObservable(this.id).pipe(switchMap((id) => this.credit.assignment(Number(id)).pipe(catchError(() => of(undefined))))),
  );
  protected readonly merging = signal(false);
  protected readonly others = (typed: string) =>
    this.people
      .choices(typed)
      .pipe(
        map((all) =>
          all.filter(({ id }) => String(id) !== this.id()).map(({ id, title, slug }) => ({ id, name: `${title} (${slug})` })),
        ),
      );
  protected readonly textsOf = ({ words }: AssignmentDetail) => words.map(({ text }) => text).join(', ');
  protected readonly dayName = (day: string) => daysOf({ from: day, to: day });
  protected termsOf({ termsId }: AssignmentDetail): string {
    return this.terms().find(({ id }) => id === termsId)?.name ?? 'Terms as whoever took them says';
  }
  protected locationOf({ locationId }: AssignmentDetail): string {
    const location = this.locations().find(({ id }) => id === locationId);
    return location ? `Taken at ${location.name}` : 'No known location';
  }

  protected readonly one = computed(() => this.found()?.find(({ id }) => String(id) === this.id()));
  protected readonly looked = computed(() => this.found() !== undefined);
  protected readonly handed = computed(() => this.one()?.expected.filter(({ handedIn }) => handedIn) ?? []);
  protected readonly missing = computed(() => this.one()?.expected.filter(({ handedIn }) => !handedIn) ?? []);
  protected readonly days = daysOf;

  protected retire(retired: boolean): void {
    this.people.changeAssignment(Number(this.id()), { retired }).subscribe({
      error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 }),
    });
  }
}
