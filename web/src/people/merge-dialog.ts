import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import { MessageService } from 'primeng/api';
import { AutoCompleteModule } from 'primeng/autocomplete';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { Subject, switchMap, type Observable } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';

interface Other {
  readonly id: number;
  readonly name: string;
}

/** Makes two records of one person, or of one assignment, one. */
@Component({
  selector: 'ts-merge-dialog',
  imports: [FormsModule, ButtonModule, DialogModule, AutoCompleteModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      closeAriaLabel="Close"
      [header]="'Merge ' + called()"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '460px' }"
    >
      <p>
        All intakes, items, loans and agreements of {{ called() }} are the other’s from now on. Names on the drive stay as they
        are,
        {{
          what() === 'contributors' ? 'and the code in them keeps meaning the same person' : 'and the log keeps the short name'
        }}.
      </p>
      <label class="field" for="record-into"
        ><span>Is the same as</span>
        <p-autocomplete
          inputId="record-into"
          ariaLabel="Is the same as"
          optionLabel="name"
          placeholder="Type its name"
          [dropdown]="true"
          dropdownAriaLabel="Show others"
          [forceSelection]="true"
          [autoOptionFocus]="true"
          [suggestions]="found()"
          appendTo="body"
          fluid
          (completeMethod)="typed.next($event.query)"
          [ngModel]="into()"
          (ngModelChange)="into.set($event)"
        />
      </label>
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Not now</button>
        <button pButton type="button" [disabled]="!into()?.id" (click)="merge()">Make them one</button>
      </ng-template>
    </p-dialog>
  `,
})
export class MergeDialog {
  readonly what = input.required<'contributors' | 'assignments'>();
  readonly id = input.required<number>();
  readonly called = input.required<string>();
  /** Finds others by what was typed. */
  readonly others = input.required<(typed: string) => Observable<Other[]>>();
  readonly done = output();
  private readonly service = inject(CreditService);
  private readonly router = inject(Router);
  private readonly messages = inject(MessageService);
  protected readonly typed = new Subject<string>();
  protected readonly found = toSignal(this.typed.pipe(switchMap((typed) => this.others()(typed))), {
    initialValue: [] as Other[],
  });
  protected readonly into = signal<Other | null>(null);
  protected readonly problem = signal('');

  protected merge(): void {
    const into = this.into();
    if (!into?.id) return;
    this.service.merge(this.what(), this.id(), into.id).subscribe({
      next: ({ items }) => {
        this.done.emit();
        this.messages.add({ severity: 'success', summary: `${this.called()} is ${into.name} now: ${items} items.`, life: 6000 });
        void this.router.navigate(['/people', this.what() === 'contributors' ? 'contributor' : 'assignment', into.id]);
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
