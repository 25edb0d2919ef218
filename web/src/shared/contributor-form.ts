import { ChangeDetectionStrategy, Component, inject, input, output, signal, type OnInit } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { Contributor } from '@tally/contract';
import { proposeCode } from '@tally/core/rule';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { map } from 'rxjs';
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
      @if (namesake(); as other) {
        <p class="attention">
          There is {{ other.name }} ({{ other.code }}) already. If this is somebody else, their codes tell them apart.
        </p>
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="!name.trim() || !code.trim()">
        {{ correcting() ? 'Save' : 'Add ' + (name.trim() || 'them') }}
      </button>
    </form>
  `,
  styleUrl: './small-form.css',
})
export class ContributorForm implements OnInit {
  readonly known = input.required<readonly Contributor[]>();
  /** Somebody who is corrected; else somebody new is added. */
  readonly correcting = input<Contributor>();
  readonly added = output<number>();
  private readonly people = inject(PeopleService);
  protected readonly problem = signal('');
  protected name = '';
  protected code = '';

  ngOnInit(): void {
    const one = this.correcting();
    if (one) [this.name, this.code] = [one.name, one.code];
  }

  /** Another one of the same name: allowed, and said. */
  protected namesake(): Contributor | undefined {
    const name = this.name.trim().toLowerCase();
    return this.known().find((one) => one.name.toLowerCase() === name && one.id !== this.correcting()?.id);
  }

  protected propose(): void {
    if (this.correcting()) return;
    this.code = proposeCode(this.name, new Set(this.known().map((one) => one.code)));
  }

  protected add(): void {
    const { name, code } = this;
    const one = this.correcting();
    const asked = one
      ? this.people.changeContributor(one.id, { name, ...(code === one.code ? {} : { code }) }).pipe(map(() => one))
      : this.people.addContributor({ name, code });
    asked.subscribe({
      next: ({ id }) => this.added.emit(id),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
