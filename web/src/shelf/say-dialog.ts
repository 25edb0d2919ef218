import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { CreditChange } from '@tally/contract';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { catchError, map, of } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';
import { PeopleService } from '../api/people.service';
import { CountPipe } from '../shared/amounts';
import { WordsBox } from '../shared/words-box';

/** Says something of many filed items at once: what is left empty stays as it is. The files and records follow. */
@Component({
  selector: 'ts-say-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, InputTextModule, SelectModule, WordsBox, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="'Credit and words of ' + (itemIds().length | count: 'item')"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '520px' }"
    >
      <div class="fields">
        <label class="field" for="say-words"
          ><span>Words they have, too</span>
          <ts-words-box inputId="say-words" [words]="had()" (added)="add($event)" (removed)="remove($event.text)" />
        </label>
        <label class="field" for="say-description"
          ><span>Description, in place of what stands there</span>
          <input pInputText id="say-description" maxlength="500" [(ngModel)]="description" />
        </label>
        <label class="field" for="say-by"
          ><span>Taken by</span>
          <p-select
            inputId="say-by"
            [options]="people()"
            optionLabel="name"
            optionValue="id"
            [showClear]="true"
            [filter]="true"
            appendTo="body"
            placeholder="as it is"
            [(ngModel)]="by"
          />
        </label>
        <label class="field" for="say-location"
          ><span>Location</span>
          <p-select
            inputId="say-location"
            [options]="locations()"
            optionLabel="name"
            optionValue="id"
            [showClear]="true"
            [filter]="true"
            appendTo="body"
            placeholder="as it is"
            [(ngModel)]="location"
          />
        </label>
        <label class="field" for="say-terms"
          ><span>Terms</span>
          <p-select
            inputId="say-terms"
            [options]="terms()"
            optionLabel="name"
            optionValue="id"
            [showClear]="true"
            appendTo="body"
            placeholder="as they are"
            [(ngModel)]="termsId"
          />
        </label>
      </div>
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Leave it</button>
        <button pButton type="button" [disabled]="!saysAnything()" (click)="accept()">Say it of {{ itemIds().length }}</button>
      </ng-template>
    </p-dialog>
  `,
  styleUrl: '../shared/dialog-fields.css',
})
export class SayDialog {
  readonly itemIds = input.required<readonly number[]>();
  readonly done = output();
  private readonly service = inject(CreditService);
  private readonly messages = inject(MessageService);

  protected readonly people = toSignal(inject(PeopleService).contributors.pipe(catchError(() => of([]))), { initialValue: [] });
  private readonly offered = <T extends { readonly retired: boolean }>(all: readonly T[]) =>
    all.filter(({ retired }) => !retired);
  protected readonly locations = toSignal(this.service.locations.pipe(map(this.offered)), { initialValue: [] });
  protected readonly terms = toSignal(this.service.terms.pipe(map(this.offered)), { initialValue: [] });
  protected readonly words = signal<readonly string[]>([]);
  protected readonly description = signal('');
  protected readonly by = signal<number | null>(null);
  protected readonly location = signal<number | null>(null);
  protected readonly termsId = signal<number | null>(null);
  protected readonly problem = signal('');
  protected readonly had = computed(() => this.words().map((text, index) => ({ id: -index - 1, text })));

  private readonly change = computed<Omit<CreditChange, 'itemIds'>>(() => ({
    ...(this.words().length ? { addWords: [...this.words()] } : {}),
    ...(this.description().trim() ? { description: this.description().trim() } : {}),
    ...(this.by() === null ? {} : { contributorId: this.by() }),
    ...(this.location() === null ? {} : { locationId: this.location() }),
    ...(this.termsId() === null ? {} : { termsId: this.termsId() }),
  }));
  protected readonly saysAnything = computed(() => Object.keys(this.change()).length > 0);

  protected add(words: readonly string[]): void {
    this.words.update((before) => [...new Set([...before, ...words])]);
  }

  protected remove(text: string): void {
    this.words.update((words) => words.filter((word) => word !== text));
  }

  protected accept(): void {
    this.service.change({ ...this.change(), itemIds: [...this.itemIds()] }).subscribe({
      next: ({ items }) => {
        this.done.emit();
        this.messages.add({ severity: 'success', summary: `Said of ${items} items; files and records follow.`, life: 5_000 });
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
