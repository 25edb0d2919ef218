import { ChangeDetectionStrategy, Component, inject, input, output, signal } from '@angular/core';
import type { ImportAnswer, ImportName } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';

/** Takes a list in from a file: first what it would change, line by line, then all of it or nothing. */
@Component({
  selector: 'ts-import-dialog',
  imports: [ButtonModule, DialogModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="'Take ' + words() + ' in from a file'"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '760px' }"
    >
      <label class="field"
        ><span>{{ what() === 'words' ? 'CSV, or SKOS in Turtle (.ttl)' : 'CSV, as a spreadsheet saves it' }}</span
        ><input type="file" [accept]="what() === 'words' ? '.csv,.txt,.ttl' : '.csv,.txt'" (change)="look($event)"
      /></label>
      @if (name()) {
        <p class="mono">{{ name() }}</p>
      }
      @if (answer(); as says) {
        <p role="status">
          Read as {{ says.read }}: <b>{{ says.added }}</b> new, <b>{{ says.changed }}</b> changed, {{ says.same }} as they are.
        </p>
        @if (says.faults.length) {
          <p class="attention" role="alert">Nothing is taken in while something is wrong:</p>
          <ul class="lines" tabindex="0" aria-label="What is wrong">
            @for (fault of says.faults; track $index) {
              <li>{{ fault.line ? 'Line ' + fault.line + ' ' : '' }}{{ fault.what }}</li>
            }
          </ul>
        } @else {
          <ul class="lines" tabindex="0" aria-label="What changes">
            @for (line of says.lines; track $index) {
              <li>
                <b>{{ line.key }}</b> {{ line.does === 'add' ? 'is new' : line.words }}
              </li>
            }
          </ul>
        }
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Not now</button>
        <button pButton type="button" [disabled]="!ready()" (click)="apply()">
          Take in {{ (answer()?.added ?? 0) + (answer()?.changed ?? 0) || '' }}
        </button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    .lines {
      max-height: 44vh;
      overflow-y: auto;
      margin-top: 8px;
    }
    .lines li {
      padding: 5px 0;
      border-bottom: 1px solid var(--line);
      overflow-wrap: anywhere;
    }
    p {
      margin-top: 10px;
    }
  `,
})
export class ImportDialog {
  readonly what = input.required<ImportName>();
  readonly words = input.required<string>();
  readonly done = output();
  private readonly service = inject(CreditService);
  protected readonly answer = signal<ImportAnswer | null>(null);
  protected readonly problem = signal('');
  protected readonly name = signal('');
  private file: File | null = null;

  protected ready(): boolean {
    const says = this.answer();
    return says !== null && says.faults.length === 0 && says.added + says.changed > 0;
  }

  protected look(event: Event): void {
    const input = event.target as HTMLInputElement;
    const [file] = input.files ?? [];
    if (!file) return;
    this.file = file;
    this.name.set(file.name);
    // The same file, put right, is looked at again.
    input.value = '';
    this.ask(false);
  }

  protected apply(): void {
    this.ask(true);
  }

  private ask(apply: boolean): void {
    if (!this.file) return;
    this.problem.set('');
    this.service.take(this.what(), this.file, /\.(ttl|turtle)$/i.test(this.file.name), apply).subscribe({
      next: (answer) => {
        this.answer.set(answer);
        if (answer.applied) this.done.emit();
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
