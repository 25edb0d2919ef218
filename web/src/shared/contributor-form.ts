import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { Contributor } from '@tally/contract';
import { proposeCode } from '@tally/core/rule';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';

/** Adds a contributor: a name, and a short code that no one else has. Emits the new id. */
@Component({
  selector: 'ts-contributor-form',
  imports: [FormsModule, ButtonModule, InputTextModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="add()">
      <label class="field"
        ><span>Name</span><input pInputText name="name" maxlength="120" [(ngModel)]="name" (ngModelChange)="propose()"
      /></label>
      <label class="field"
        ><span>Code, 2 to 4 letters, used in file names</span
        ><input pInputText name="code" class="mono" maxlength="4" [(ngModel)]="code"
      /></label>
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="!name.trim() || !code.trim()">Add {{ name.trim() || 'them' }}</button>
    </form>
  `,
  styleUrl: './small-form.css',
})
export class ContributorForm {
  readonly known = input.required<readonly Contributor[]>();
  readonly added = output<number>();
  private readonly people = inject(PeopleService);
  protected readonly problem = signal('');
  protected name = '';
  protected code = '';

  protected propose(): void {
    this.code = proposeCode(this.name, new Set(this.known().map((one) => one.code)));
  }

  protected add(): void {
    this.people.addContributor({ name: this.name, code: this.code }).subscribe({
      next: ({ id }) => this.added.emit(id),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
