import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { CompletionView, WordView } from '@tally/contract';
import { wordText } from '@tally/core/words';
import { MessageService } from 'primeng/api';
import { AutoCompleteModule, type AutoCompleteCompleteEvent } from 'primeng/autocomplete';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { SelectButtonModule } from 'primeng/selectbutton';
import { CreditService } from '../api/credit.service';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { WordForm } from './word-form';
import { May } from '../shared/may';

/** The words of the house, by name and a hundred at a time: what each stands under, its synonyms and other languages. */
@Component({
  selector: 'ts-words-list',
  imports: [May, FormsModule, AutoCompleteModule, ButtonModule, DialogModule, SelectButtonModule, WordForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-selectbutton
      size="small"
      ariaLabel="Which words"
      [options]="whiches"
      optionLabel="words"
      optionValue="which"
      [allowEmpty]="false"
      [ngModel]="which()"
      (ngModelChange)="which.set($event)"
    />
    <div class="rows" tabindex="0" role="region" aria-label="Words of the house">
      <table>
        <thead>
          <tr>
            <th scope="col">Word</th>
            <th scope="col">Stands under</th>
            <th scope="col">Above</th>
            <th scope="col">Also called</th>
            <th scope="col"><span class="visually-hidden">What to do</span></th>
          </tr>
        </thead>
        <tbody>
          @for (word of words(); track word.id) {
            <tr [class.retired]="word.retired">
              <td>
                <button type="button" class="plain" (click)="correcting.set(word)">{{ textOf(word) }}</button>
                @if (!word.listed) {
                  <span class="quiet">free</span>
                }
                {{ word.retired ? 'retired' : '' }}
              </td>
              <td>{{ texts(word.broader) }}</td>
              <td [title]="texts(word.narrower)">{{ texts(word.narrower) }}</td>
              <td>
                @for (label of others(word); track label.language + label.text) {
                  <span class="label"
                    >{{ label.text }}
                    @if (label.language) {
                      <span class="quiet">{{ label.language }}</span>
                    }
                  </span>
                }
              </td>
              <td class="does">
                @if (!word.listed) {
                  <button type="button" class="plain" (click)="take(word)">into the list</button>
                }
                <button type="button" class="plain" tsMay="keep the lists" (click)="merging.set(word)">merge…</button>
                <button type="button" class="plain" (click)="retire(word)">{{ word.retired ? 'put back' : 'retire' }}</button>
              </td>
            </tr>
          } @empty {
            <tr>
              <td colspan="5" class="empty">
                {{ loading() ? 'Fetching the list' : 'No word here: add one, or take a list in from a file.' }}
              </td>
            </tr>
          }
        </tbody>
      </table>
      @if (next()) {
        <button type="button" class="plain more" (click)="more()">More words</button>
      }
    </div>
    <p-dialog
      closeAriaLabel="Close"
      [header]="adding() ? 'New word' : 'Correct ' + (correcting() ? textOf(correcting()!) : '')"
      [modal]="true"
      [visible]="adding() || correcting() !== null"
      (visibleChange)="close()"
    >
      @if (adding() || correcting()) {
        <ts-word-form [word]="correcting()" (saved)="saved($event)" />
      }
    </p-dialog>
    <p-dialog
      closeAriaLabel="Close"
      [header]="'Merge ' + (merging() ? textOf(merging()!) : '')"
      [modal]="true"
      [visible]="merging() !== null"
      (visibleChange)="merging.set(null)"
    >
      @if (merging(); as word) {
        <div class="merge">
          <p>“{{ textOf(word) }}” becomes another name of the word you choose, everywhere.</p>
          <label class="field" for="word-into"
            ><span>Is the same as</span>
            <p-autocomplete
              inputId="word-into"
              optionLabel="text"
              [forceSelection]="true"
              appendTo="body"
              fluid
              [suggestions]="found()"
              [ngModel]="into()"
              (ngModelChange)="into.set($event)"
              (completeMethod)="find($event)"
            />
          </label>
          <button pButton type="button" [disabled]="!into()?.id" (click)="merge(word)">Make them one</button>
        </div>
      }
    </p-dialog>
  `,
  styleUrl: './words-list.css',
})
export class WordsList {
  readonly sought = input('');
  private readonly service = inject(CreditService);
  private readonly messages = inject(MessageService);
  private readonly changed = toSignal(inject(LiveService).whenever('people'));
  protected readonly whiches = [
    { which: 'listed', words: 'In the list' },
    { which: 'free', words: 'Free' },
    { which: 'all', words: 'All' },
  ];
  protected readonly which = signal<string>('listed');
  protected readonly words = signal<readonly WordView[]>([]);
  protected readonly next = signal<string | null>(null);
  protected readonly loading = signal(true);
  readonly adding = signal(false);
  protected readonly correcting = signal<WordView | null>(null);
  protected readonly merging = signal<WordView | null>(null);
  protected readonly into = signal<CompletionView | null>(null);
  protected readonly found = signal<CompletionView[]>([]);
  private readonly query = computed(() => ({ typed: this.sought(), which: this.which(), changed: this.changed() }));
  private asked = 0;

  constructor() {
    effect(() => {
      this.query();
      untracked(() => this.fetch(''));
    });
  }

  protected readonly textOf = (word: WordView): string => wordText(word);
  protected readonly texts = (some: readonly { text: string }[]) => some.map(({ text }) => text).join(', ');
  protected others(word: WordView): WordView['labels'] {
    const text = wordText(word);
    return word.labels.filter((label) => label.text !== text || !label.preferred);
  }

  protected more(): void {
    this.fetch(this.next() ?? '');
  }

  private fetch(after: string): void {
    const asked = ++this.asked;
    this.loading.set(true);
    this.service.wordPage({ typed: this.sought(), which: this.which(), after }).subscribe({
      next: ({ words, next }) => {
        // What was asked since is the one that counts.
        if (asked !== this.asked) return;
        this.words.update((before) => (after ? [...before, ...words] : words));
        this.next.set(next);
        this.loading.set(false);
      },
      error: (error: unknown) => this.warn(error),
    });
  }

  protected close(): void {
    this.adding.set(false);
    this.correcting.set(null);
  }

  protected saved(words: string): void {
    this.close();
    this.messages.add({ severity: 'success', summary: words, life: 6000 });
    this.fetch('');
  }

  protected take(word: WordView): void {
    const { labels, note, revision } = word;
    const said = { labels, note, revision, broader: word.broader.map(({ id }) => id), listed: true };
    this.service.correctWord(word.id, said).subscribe({
      next: () => this.saved(`${wordText(word)} is in the list.`),
      error: (error: unknown) => this.warn(error),
    });
  }

  protected retire(word: WordView): void {
    this.service
      .retireWord(word.id, !word.retired)
      .subscribe({ next: () => this.fetch(''), error: (error: unknown) => this.warn(error) });
  }

  protected find({ query }: AutoCompleteCompleteEvent): void {
    this.service.complete(query).subscribe({
      next: (found) => this.found.set(found.filter(({ id }) => id !== this.merging()?.id)),
      error: () => this.found.set([]),
    });
  }

  protected merge(word: WordView): void {
    const into = this.into();
    if (!into) return;
    this.service.merge('words', word.id, into.id).subscribe({
      next: ({ items }) => {
        this.merging.set(null);
        this.into.set(null);
        this.saved(`${wordText(word)} is ${into.text} now: ${items} items.`);
      },
      error: (error: unknown) => this.warn(error),
    });
  }

  private warn(error: unknown): void {
    this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 8000 });
  }
}
