import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { Contributor } from '@tally/contract';
import { AutoCompleteModule, type AutoCompleteCompleteEvent } from 'primeng/autocomplete';
import { PeopleService } from '../api/people.service';
import { ContributorForm } from './contributor-form';

/** Chooses a contributor by name or code, or adds somebody on the spot. Emits the id. */
@Component({
  selector: 'ts-contributor-box',
  imports: [FormsModule, AutoCompleteModule, ContributorForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="field" for="contributor"
      ><span>{{ label() }}</span>
      <p-autocomplete
        inputId="contributor"
        optionLabel="name"
        placeholder="Name or code"
        appendTo="body"
        [autofocus]="true"
        [autoOptionFocus]="true"
        [dropdown]="true"
        dropdownAriaLabel="Show everybody"
        [forceSelection]="true"
        [suggestions]="found()"
        (completeMethod)="find($event)"
        (onSelect)="chosen.emit($event.value.id)"
      >
        <ng-template #item let-one
          ><span>{{ one.name }}</span> <code class="code">{{ one.code }}</code></ng-template
        >
      </p-autocomplete>
    </label>
    <details>
      <summary>Somebody new</summary>
      <ts-contributor-form [known]="all()" (added)="chosen.emit($event)" />
    </details>
  `,
  styleUrl: './small-form.css',
})
export class ContributorBox {
  readonly label = input.required<string>();
  readonly chosen = output<number>();
  protected readonly all = toSignal(inject(PeopleService).contributors, { initialValue: [] as Contributor[] });
  protected readonly found = signal<Contributor[]>([]);

  protected find({ query }: AutoCompleteCompleteEvent): void {
    const words = query.toLowerCase();
    this.found.set(
      this.all().filter((one) => one.name.toLowerCase().includes(words) || one.code.toLowerCase().startsWith(words)),
    );
  }
}
