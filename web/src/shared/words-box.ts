import { ChangeDetectionStrategy, Component, inject, input, output, signal, viewChild } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { CompletionView } from '@tally/contract';
import { foldText, partsOfTyped } from '@tally/core/words';
import { AutoComplete, AutoCompleteModule, type AutoCompleteCompleteEvent } from 'primeng/autocomplete';
import { CreditService } from '../api/credit.service';

/** A word that something has; where not all of several have it, how many. */
export interface HadWord {
  readonly id: number;
  readonly text: string;
  readonly some?: string;
}

/** Words as tags, and a box that completes from the house's list and goes on with a comma. */
@Component({
  selector: 'ts-words-box',
  imports: [FormsModule, AutoCompleteModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span class="tags">
      @for (word of words(); track word.id) {
        <span class="tag" [class.some]="word.some">
          {{ word.text }}
          @if (word.some) {
            <span class="quiet">{{ word.some }}</span>
            <button
              type="button"
              [attr.aria-label]="'Give ' + word.text + ' to all'"
              title="all of them"
              (click)="added.emit([word.text])"
            >
              <i class="pi pi-plus" aria-hidden="true"></i>
            </button>
          }
          <button type="button" [attr.aria-label]="'Take out ' + word.text" (click)="removed.emit(word)">
            <i class="pi pi-times" aria-hidden="true"></i>
          </button>
        </span>
      }
    </span>
    <p-autocomplete
      [inputId]="inputId()"
      optionLabel="text"
      [placeholder]="placeholder()"
      appendTo="body"
      [autofocus]="autofocus()"
      [minQueryLength]="1"
      [delay]="60"
      [showEmptyMessage]="false"
      fluid
      size="small"
      [suggestions]="found()"
      [ngModel]="typed()"
      (ngModelChange)="typed.set($event ?? '')"
      (completeMethod)="find($event)"
      (onSelect)="choose($event.value)"
      (onKeyUp)="key($event)"
    >
      <ng-template #item let-one
        ><span>{{ one.text }}</span>
        @if (one.by) {
          <span class="by">{{ one.by }}</span>
        }
      </ng-template>
    </p-autocomplete>
  `,
  styles: `
    :host {
      display: grid;
      gap: 6px;
    }
    .tags {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
    }
    .tag {
      display: inline-flex;
      align-items: center;
      gap: 4px;
      min-height: 28px;
      padding: 0 4px 0 10px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--sheet);
    }
    .tag.some {
      border-style: dashed;
    }
    .tag button {
      width: 24px;
      min-height: 24px;
      border: 0;
      background: none;
      color: var(--quiet);
      cursor: pointer;
    }
    .by {
      margin-left: 8px;
      color: var(--quiet);
    }
  `,
})
export class WordsBox {
  readonly words = input<readonly HadWord[]>([]);
  readonly inputId = input('words');
  readonly placeholder = input('Type a word, comma for the next');
  readonly autofocus = input(false);
  /** Are only words meant that the house knows? Then `picked` tells which. */
  readonly onlyKnown = input(false);
  readonly picked = output<CompletionView>();
  readonly added = output<string[]>();
  readonly removed = output<HadWord>();
  private readonly credit = inject(CreditService);
  private readonly box = viewChild.required(AutoComplete);
  protected readonly found = signal<CompletionView[]>([]);
  protected readonly typed = signal<string | CompletionView>('');

  protected find({ query }: AutoCompleteCompleteEvent): void {
    const had = new Set(this.words().map(({ text }) => foldText(text)));
    this.credit.complete(query).subscribe({
      next: (found) => this.found.set(found.filter(({ text }) => !had.has(foldText(text)))),
      // Without completions one can still type.
      error: () => this.found.set([]),
    });
  }

  protected choose(word: CompletionView): void {
    if (!this.onlyKnown()) return this.add(word.text);
    this.picked.emit(word);
    this.empty();
  }

  /** A comma takes what was typed as it is, Enter too when nothing is chosen from the list. */
  protected key(event: KeyboardEvent): void {
    const text = this.text();
    if (this.onlyKnown()) return;
    if (text.includes(',') || (event.key === 'Enter' && text.trim() !== '')) this.add(text);
  }

  private text(): string {
    const typed = this.typed();
    return typeof typed === 'string' ? typed : typed.text;
  }

  private add(text: string): void {
    const words = partsOfTyped(text);
    if (words.length) this.added.emit(words);
    this.empty();
  }

  private empty(): void {
    this.found.set([]);
    this.typed.set('');
    this.box().hide();
  }
}
