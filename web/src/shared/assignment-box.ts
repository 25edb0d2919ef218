import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { Assignment } from '@tally/contract';
import { AutoCompleteModule } from 'primeng/autocomplete';
import { PeopleService } from '../api/people.service';

/** A box for one of the house's assignments, found by any of its words. */
@Component({
  selector: 'ts-assignment-box',
  imports: [FormsModule, AutoCompleteModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-autocomplete
      [inputId]="inputId()"
      [suggestions]="found()"
      optionLabel="title"
      [forceSelection]="true"
      [showClear]="true"
      appendTo="body"
      fluid
      [placeholder]="placeholder()"
      [ngModel]="chosen()"
      (ngModelChange)="said($event)"
      (completeMethod)="find($event.query)"
    />
  `,
})
export class AssignmentBox {
  readonly inputId = input('');
  readonly placeholder = input('as it is');
  /** null: none. */
  readonly choice = output<number | null>();
  private readonly people = inject(PeopleService);
  protected readonly found = signal<Assignment[]>([]);
  protected readonly chosen = signal<Assignment | string | null>(null);

  protected find(words: string): void {
    this.people.choices(words).subscribe((found) => this.found.set(found));
  }

  protected said(value: Assignment | string | null): void {
    this.chosen.set(value);
    this.choice.emit(value && typeof value !== 'string' ? value.id : null);
  }
}
