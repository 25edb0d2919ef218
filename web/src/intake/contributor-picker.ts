import { ChangeDetectionStrategy, Component, inject, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { Contributor } from '@tally/contract';
import { AutoCompleteModule, type AutoCompleteCompleteEvent } from 'primeng/autocomplete';
import { PeopleService } from '../api/people.service';
import { ContributorForm } from '../people/contributor-form';
import { IntakeStore } from './intake-store';

/** Chooses who handed the card in, or adds somebody on the spot. */
@Component({
  selector: 'ts-contributor-picker',
  imports: [FormsModule, AutoCompleteModule, ContributorForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="field" for="contributor"
      ><span>Who took these?</span>
      <p-autocomplete
        inputId="contributor"
        optionLabel="name"
        placeholder="Name or code"
        appendTo="body"
        [autofocus]="true"
        [dropdown]="true"
        dropdownAriaLabel="Show everybody"
        [forceSelection]="true"
        [suggestions]="found()"
        (completeMethod)="find($event)"
        (onSelect)="choose($event.value.id)"
      >
        <ng-template #item let-one
          ><span>{{ one.name }}</span> <code class="code">{{ one.code }}</code></ng-template
        >
      </p-autocomplete>
    </label>
    <details>
      <summary>Somebody new</summary>
      <ts-contributor-form [known]="all()" (added)="choose($event)" />
    </details>
  `,
  styleUrl: '../shared/small-form.css',
})
export class ContributorPicker {
  readonly done = output();
  private readonly people = inject(PeopleService);
  private readonly store = inject(IntakeStore);
  protected readonly all = toSignal(this.people.contributors, { initialValue: [] as Contributor[] });
  protected readonly found = signal<Contributor[]>([]);

  protected find({ query }: AutoCompleteCompleteEvent): void {
    const words = query.toLowerCase();
    this.found.set(
      this.all().filter((one) => one.name.toLowerCase().includes(words) || one.code.toLowerCase().startsWith(words)),
    );
  }

  protected choose(contributorId: number): void {
    this.store.say({ contributorId });
    this.done.emit();
  }
}
