import { ChangeDetectionStrategy, Component, effect, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { THING_KINDS, type ThingKind } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { LendingService } from '../api/lending.service';
import { wordsFor } from '../api/problem';

/** Adds a card or another thing of the house to the lending list. */
@Component({
  selector: 'ts-thing-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, InputTextModule, SelectModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="New on the lending list"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '400px' }"
    >
      <form id="thing" class="fields" (ngSubmit)="add()">
        @if (label()) {
          <p>Nothing carries the label {{ label() }} yet.</p>
        }
        <label class="field"
          ><span>What does its tape say?</span
          ><input pInputText class="mono" name="tape" [ngModel]="tape()" (ngModelChange)="tape.set($event)"
        /></label>
        @if (tape().trim().length > 24) {
          <p class="attention" role="alert">A label has at most 24 characters; this has {{ tape().trim().length }}.</p>
        }
        <div class="field">
          <span id="thing-kind">What is it?</span>
          <p-select
            name="kind"
            ariaLabelledBy="thing-kind"
            [options]="kinds"
            [ngModel]="kind()"
            (ngModelChange)="kind.set($event)"
            appendTo="body"
          />
        </div>
        <label class="field"
          ><span>Its name, if it has one</span
          ><input pInputText name="name" maxlength="120" [ngModel]="name()" (ngModelChange)="name.set($event)"
        /></label>
        @if (problem()) {
          <p class="attention" role="alert">{{ problem() }}</p>
        }
      </form>
      <ng-template #footer>
        <button pButton type="submit" form="thing" [disabled]="!tape().trim() || tape().trim().length > 24">
          Add {{ tape() }}
        </button>
      </ng-template>
    </p-dialog>
  `,
  styleUrl: '../shared/dialog-fields.css',
})
export class ThingDialog {
  readonly label = input('');
  readonly done = output();
  private readonly lending = inject(LendingService);
  protected readonly kinds = [...THING_KINDS];
  protected readonly tape = signal('');
  protected readonly kind = signal<ThingKind>('card');
  protected readonly name = signal('');
  protected readonly problem = signal('');

  constructor() {
    effect(() => this.tape.set(this.label()));
  }

  protected add(): void {
    this.lending.add({ label: this.tape(), kind: this.kind(), name: this.name() }).subscribe({
      next: () => this.done.emit(),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
