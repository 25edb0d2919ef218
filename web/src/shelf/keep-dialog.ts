import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { QuestionView } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { wordsFor } from '../api/problem';
import { ShelfService } from '../api/shelf.service';

/** Keeps a question under a name. */
@Component({
  selector: 'ts-keep-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, InputTextModule, CheckboxModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Keep this question"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '460px' }"
    >
      <p>{{ question().sentence }}.</p>
      <label class="field" for="standing-name"
        ><span>Name</span>
        <input pInputText id="standing-name" maxlength="120" [(ngModel)]="name" (keydown.enter)="accept()" />
      </label>
      <label class="tells" for="standing-tells"
        ><p-checkbox inputId="standing-tells" [binary]="true" [(ngModel)]="tells" /> Tell the desk when something new answers
        it</label
      >
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Not now</button>
        <button pButton type="button" [disabled]="!name().trim()" (click)="accept()">Keep it</button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    p {
      margin-bottom: 12px;
    }
    .tells {
      display: flex;
      gap: 10px;
      align-items: center;
      min-height: 36px;
      margin-top: 6px;
    }
  `,
})
export class KeepDialog {
  readonly question = input.required<QuestionView>();
  readonly done = output();
  private readonly service = inject(ShelfService);
  private readonly messages = inject(MessageService);
  protected readonly name = signal('');
  protected readonly tells = signal(true);
  protected readonly problem = signal('');

  protected accept(): void {
    const name = this.name().trim();
    if (!name) return;
    this.service.keep(name, this.question().text, this.tells()).subscribe({
      next: (kept) => {
        this.done.emit();
        this.messages.add({ severity: 'success', summary: `“${kept.name}” is kept: ${kept.items} items now.`, life: 5_000 });
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
