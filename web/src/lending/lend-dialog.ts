import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { Contributor, Thing } from '@tally/contract';
import { dueAfter } from '@tally/core/trays';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { LendingService } from '../api/lending.service';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { DayBox } from '../shared/day-box';
import { ContributorBox } from '../shared/contributor-box';

/** What is lent without another word is due after a week. */
const DAYS = 7;

/** Lends things to somebody, until a day. */
@Component({
  selector: 'ts-lend-dialog',
  imports: [DayBox, FormsModule, DialogModule, ButtonModule, InputTextModule, ContributorBox],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="'Lend ' + labels()"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '420px' }"
    >
      <div class="fields">
        @if (to(); as person) {
          <p>
            to <strong>{{ person.name }}</strong>
            <button type="button" class="plain" (click)="contributorId.set(null)">somebody else</button>
          </p>
        } @else {
          <ts-contributor-box label="To whom?" (chosen)="contributorId.set($event)" />
        }
        <label class="field" for="due"
          ><span>Due, if a day was agreed</span
          ><ts-day-box inputId="due" label="Due" [min]="today" [day]="due()" (dayChange)="due.set($event)"
        /></label>
        <label class="field"
          ><span>What for</span
          ><input pInputText name="note" maxlength="200" [ngModel]="note()" (ngModelChange)="note.set($event)"
        /></label>
        @if (problem()) {
          <p class="attention" role="alert">{{ problem() }}</p>
        }
      </div>
      <ng-template #footer>
        <button pButton type="button" [disabled]="contributorId() === null" (click)="lend()">
          Lend {{ things().length === 1 ? labels() : things().length }}
        </button>
      </ng-template>
    </p-dialog>
  `,
  styleUrl: '../shared/dialog-fields.css',
})
export class LendDialog {
  readonly things = input.required<readonly Thing[]>();
  readonly done = output();
  private readonly lending = inject(LendingService);
  private readonly everybody = toSignal(inject(PeopleService).contributors, { initialValue: [] as Contributor[] });

  protected readonly today = inject(SessionService).today();
  protected readonly contributorId = signal<number | null>(null);
  protected readonly due = signal(dueAfter(this.today, DAYS));
  protected readonly note = signal('');
  protected readonly problem = signal('');
  protected readonly to = computed(() => this.everybody().find(({ id }) => id === this.contributorId()));
  protected readonly labels = computed(() =>
    this.things()
      .map(({ label, name }) => label ?? name)
      .join(', '),
  );

  protected lend(): void {
    const contributorId = this.contributorId();
    if (contributorId === null) return;
    const things = this.things().map(({ kind, id }) => ({ kind, id }));
    this.lending.lend({ things, contributorId, due: this.due() || null, note: this.note() }).subscribe({
      next: () => this.done.emit(),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
