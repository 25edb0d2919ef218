import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { HabitView } from '@tally/contract';
import { foldText } from '@tally/core/words';
import { MessageService } from 'primeng/api';
import { TableModule } from 'primeng/table';
import { switchMap } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';

/** What slips say by themselves, and to whom or what each habit belongs. They are made and changed on the slip. */
@Component({
  selector: 'ts-habits-list',
  imports: [TableModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-table
      [value]="rows()"
      [scrollable]="true"
      scrollHeight="flex"
      [tableStyle]="{ 'table-layout': 'fixed', 'min-width': '640px' }"
    >
      <ng-template #header>
        <tr>
          <th scope="col" style="width: 26%">Habit</th>
          <th scope="col" style="width: 24%">Belongs to</th>
          <th scope="col">Says by itself</th>
          <th scope="col" style="width: 110px"><span class="visually-hidden">What to do</span></th>
        </tr>
      </ng-template>
      <ng-template #body let-one>
        <tr [class.retired]="one.retired">
          <td [title]="one.name">{{ one.name }} {{ one.retired ? 'retired' : '' }}</td>
          <td>{{ one.belongs === 'house' ? 'the house: every slip' : one.belongs + ' ' + one.ofName }}</td>
          <td [title]="says(one)">{{ says(one) }}</td>
          <td>
            <button type="button" class="plain" (click)="retire(one)">{{ one.retired ? 'put back' : 'retire' }}</button>
          </td>
        </tr>
      </ng-template>
      <ng-template #emptymessage
        ><tr>
          <td colspan="4" class="empty">
            {{ habits() ? 'No habit yet: fill a slip, then keep it as one (Y).' : 'Fetching the list' }}
          </td>
        </tr></ng-template
      >
    </p-table>
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
    }
    .plain {
      min-height: 24px;
      border: 0;
      background: none;
      color: var(--quiet);
      font: inherit;
      cursor: pointer;
      text-decoration: underline;
    }
    .retired {
      color: var(--quiet);
    }
  `,
})
export class HabitsList {
  readonly sought = input('');
  private readonly service = inject(CreditService);
  private readonly messages = inject(MessageService);
  private readonly people = inject(PeopleService);
  protected readonly habits = toSignal(this.service.habits);
  private readonly terms = toSignal(this.service.terms, { initialValue: [] });
  private readonly locations = toSignal(this.service.locations, { initialValue: [] });
  private readonly contributors = toSignal(this.people.everybody, { initialValue: [] });
  private readonly assignments = toSignal(
    toObservable(computed(() => [...new Set((this.habits() ?? []).flatMap(({ answers }) => answers.assignmentId ?? []))])).pipe(
      switchMap((ids) => this.people.assignments(ids)),
    ),
    { initialValue: [] },
  );
  protected readonly rows = computed(() => {
    const sought = foldText(this.sought());
    return (this.habits() ?? []).filter((habit) => foldText(`${habit.name} ${habit.ofName}`).includes(sought));
  });

  protected says({ answers }: HabitView): string {
    const named = <T extends { id: number }>(all: readonly T[], id: number | undefined, of: (one: T) => string) => {
      const one = id === undefined ? undefined : all.find((each) => each.id === id);
      return one ? of(one) : null;
    };
    return [
      named(this.contributors(), answers.contributorId, ({ name }) => `from ${name}`),
      named(this.assignments(), answers.assignmentId, ({ title }) => `for ${title}`),
      answers.creditLine && `credited ${answers.creditLine}`,
      answers.copyrightNotice,
      named(this.terms(), answers.termsId, ({ name }) => name),
      answers.wordIds?.length && `${answers.wordIds.length} ${answers.wordIds.length === 1 ? 'word' : 'words'}`,
      named(this.locations(), answers.locationId, ({ name }) => `at ${name}`),
      answers.take && `take ${answers.take}`,
      answers.fileByItself && 'file by itself',
    ]
      .filter(Boolean)
      .join('; ');
  }

  protected retire(habit: HabitView): void {
    this.service.correct('habits', habit.id, { retired: !habit.retired, revision: habit.revision }).subscribe({
      error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 }),
    });
  }
}
