import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';
import { AssignmentForm } from '../shared/assignment-form';
import { NotThere } from '../shell/not-there';
import { daysOf } from './assignment-words';
import { CameIn } from './came-in';

/** What was covered: who handed in and who did not, what came in; and what can be corrected. */
@Component({
  selector: 'ts-assignment',
  imports: [RouterLink, ButtonModule, DialogModule, AssignmentForm, CameIn, NotThere],
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
            <button pButton type="button" class="p-button-outlined" (click)="correcting.set(true)">Correct…</button>
            <button pButton type="button" class="p-button-outlined" (click)="retire(!what.retired)">
              {{ what.retired ? 'Put back' : 'Retire' }}
            </button>
          </span>
        </header>
        <p>
          {{ days(what) }}{{ what.place ? ', ' + what.place : '' }}. {{ what.receivedCards }}
          {{ what.expectedCards ? 'of ' + what.expectedCards + ' expected cards' : 'cards' }} received.
        </p>
        <div class="columns">
          <ts-came-in [filter]="{ assignment: what.slug }" />
          <aside>
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
        @if (correcting()) {
          <ts-assignment-form
            [everybody]="contributors()"
            [day]="what.from"
            [correcting]="what"
            (added)="correcting.set(false)"
          />
        }
      </p-dialog>
    } @else if (everything()) {
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
  protected readonly everything = toSignal(this.people.everything);
  protected readonly contributors = toSignal(this.people.everybody, { initialValue: [] });
  protected readonly correcting = signal(false);

  protected readonly one = computed(() => this.everything()?.find(({ id }) => String(id) === this.id()));
  protected readonly handed = computed(() => this.one()?.expected.filter(({ handedIn }) => handedIn) ?? []);
  protected readonly missing = computed(() => this.one()?.expected.filter(({ handedIn }) => !handedIn) ?? []);
  protected readonly days = daysOf;

  protected retire(retired: boolean): void {
    this.people.changeAssignment(Number(this.id()), { retired }).subscribe({
      error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 }),
    });
  }
}
