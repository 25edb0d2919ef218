import { ChangeDetectionStrategy, Component, inject, input, output, signal, type OnInit } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { WordSaid, WordView } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { InputTextModule } from 'primeng/inputtext';
import { map } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';
import { type HadWord, WordsBox } from '../shared/words-box';

interface Label {
  language: string;
  text: string;
  preferred: boolean;
}

/** Adds a word, or corrects one: its names in every language, synonyms, and what means more. */
@Component({
  selector: 'ts-word-form',
  imports: [FormsModule, WordsBox, ButtonModule, CheckboxModule, InputTextModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="save()">
      <table>
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Language</th>
            <th scope="col">Goes by it</th>
          </tr>
        </thead>
        <tbody>
          @for (label of labels; track $index; let i = $index) {
            <tr>
              <td>
                <input
                  pInputText
                  [name]="'text' + i"
                  maxlength="120"
                  aria-label="Name"
                  [(ngModel)]="label.text"
                  (ngModelChange)="room()"
                />
              </td>
              <td>
                <input
                  pInputText
                  [name]="'language' + i"
                  maxlength="12"
                  placeholder="any"
                  aria-label="Language"
                  [(ngModel)]="label.language"
                />
              </td>
              <td>
                <p-checkbox [name]="'preferred' + i" [binary]="true" ariaLabel="Goes by it" [(ngModel)]="label.preferred" />
              </td>
            </tr>
          }
        </tbody>
      </table>
      <label class="field" for="broader"
        ><span>Stands under (means less than)</span>
        <ts-words-box
          inputId="broader"
          placeholder="A word of the list"
          [onlyKnown]="true"
          [words]="broader()"
          (picked)="under($event)"
          (removed)="notUnder($event)"
        />
      </label>
      <label class="field"><span>Note</span><input pInputText name="note" maxlength="500" [(ngModel)]="note" /></label>
      <span class="tick"
        ><p-checkbox inputId="word-listed" name="listed" [binary]="true" [(ngModel)]="listed" /><label for="word-listed"
          >in the house’s list</label
        ></span
      >
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="!said().labels.length">{{ word() ? 'Save' : 'Add the word' }}</button>
    </form>
  `,
  styles: `
    form {
      display: grid;
      gap: 12px;
      width: 480px;
    }
    table {
      width: 100%;
      border-collapse: collapse;
    }
    th {
      text-align: start;
      font-weight: 400;
      color: var(--quiet);
      font-size: 13px;
    }
    td {
      padding: 3px 6px 3px 0;
    }
    td:nth-child(2) {
      width: 96px;
    }
    td:nth-child(3) {
      width: 84px;
      text-align: center;
    }
    input {
      width: 100%;
    }
    .tick {
      display: flex;
      gap: 8px;
      align-items: center;
    }
    button {
      justify-content: center;
    }
  `,
})
export class WordForm implements OnInit {
  readonly word = input<WordView | null>(null);
  readonly saved = output<string>();
  private readonly service = inject(CreditService);
  protected readonly problem = signal('');
  protected labels: Label[] = [];
  protected readonly broader = signal<readonly HadWord[]>([]);
  protected note = '';
  protected listed = true;

  ngOnInit(): void {
    const word = this.word();
    this.labels = (word?.labels ?? []).map((label) => ({ ...label }));
    if (!word) this.labels = [{ language: '', text: '', preferred: true }];
    this.broader.set(word?.broader ?? []);
    this.note = word?.note ?? '';
    this.listed = word?.listed ?? true;
    this.room();
  }

  /** There is always room for one more name. */
  protected room(): void {
    if (this.labels.at(-1)?.text !== '') this.labels.push({ language: '', text: '', preferred: false });
  }

  protected under(word: HadWord): void {
    if (word.id !== this.word()?.id) this.broader.update((words) => [...words.filter(({ id }) => id !== word.id), word]);
  }

  protected notUnder(word: HadWord): void {
    this.broader.update((words) => words.filter(({ id }) => id !== word.id));
  }

  protected said(): WordSaid {
    const labels = this.labels.filter(({ text }) => text.trim() !== '');
    const { note, listed } = this;
    const revision = this.word()?.revision;
    return { labels, broader: this.broader().map(({ id }) => id), note, listed, ...(revision === undefined ? {} : { revision }) };
  }

  protected save(): void {
    const word = this.word();
    const said = this.said();
    const asked = word
      ? this.service
          .correctWord(word.id, said)
          .pipe(map(({ items }) => (items ? `Saved. It is said of ${items} items.` : 'Saved.')))
      : this.service.addWord(said).pipe(map(() => `${said.labels[0]?.text} is in the list.`));
    asked.subscribe({
      next: (words) => this.saved.emit(words),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
