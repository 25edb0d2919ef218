import { ChangeDetectionStrategy, Component, inject, output } from '@angular/core';
import { houseDay } from '@tally/core/capture';
import { SessionService } from '../api/session.service';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { Assignment, Contributor } from '@tally/contract';
import { AutoCompleteModule, type AutoCompleteCompleteEvent } from 'primeng/autocomplete';
import { Subject, switchMap } from 'rxjs';
import { PeopleService } from '../api/people.service';
import { AssignmentForm } from '../shared/assignment-form';
import { IntakeStore } from './intake-store';

/** Chooses what the card is about, assignments of its days first, or adds one on the spot. */
@Component({
  selector: 'ts-assignment-picker',
  imports: [FormsModule, AutoCompleteModule, AssignmentForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="field" for="assignment"
      ><span>What were these shot for?</span>
      <p-autocomplete
        inputId="assignment"
        optionLabel="title"
        placeholder="Title or short name"
        appendTo="body"
        [autofocus]="true"
        [autoOptionFocus]="true"
        [dropdown]="true"
        dropdownAriaLabel="Show all assignments"
        [forceSelection]="true"
        [suggestions]="found()"
        (completeMethod)="find($event)"
        (onSelect)="choose($event.value.id)"
      >
        <ng-template #item let-one
          ><span>{{ one.title }}</span> <code class="code">{{ one.from }}</code></ng-template
        >
      </p-autocomplete>
    </label>
    <button type="button" class="plain later" (click)="later()">Unsorted for now</button>
    <details>
      <summary>A new assignment</summary>
      <ts-assignment-form [everybody]="everybody()" [day]="day" [expecting]="expecting" (added)="choose($event)" />
    </details>
  `,
  styleUrl: '../shared/small-form.css',
  styles: `
    .later {
      justify-self: start;
    }
  `,
})
export class AssignmentPicker {
  readonly done = output();
  private readonly people = inject(PeopleService);
  private readonly store = inject(IntakeStore);
  private readonly session = inject(SessionService);
  protected readonly everybody = toSignal(this.people.contributors, { initialValue: [] as Contributor[] });
  /** The card's first day, and who handed it in: what a new assignment is most likely about. */
  protected readonly day = this.days()[0] ?? '';
  protected readonly expecting = this.store.intake()?.contributor ? [this.store.intake()!.contributor!.id] : [];

  private readonly typed = new Subject<string>();
  protected readonly found = toSignal(this.typed.pipe(switchMap((typed) => this.people.choices(typed, this.days()))), {
    initialValue: [] as Assignment[],
  });

  protected find({ query }: AutoCompleteCompleteEvent): void {
    this.typed.next(query);
  }

  /** Filed loosely now, re-filed on a quiet day. */
  protected later(): void {
    this.people.unsorted().subscribe(({ id }) => this.choose(id));
  }

  private days(): string[] {
    return [...new Set(this.store.tiles().map((tile) => houseDay(tile.lead.captured.local, this.session.dayBegins())))];
  }

  protected choose(assignmentId: number): void {
    this.store.say({ assignmentId });
    this.done.emit();
  }
}
