import { ChangeDetectionStrategy, Component, ElementRef, input, output, signal, viewChild } from '@angular/core';
import type { QuestionView } from '@tally/contract';
import { BytesPipe, CountPipe } from '../shared/amounts';

/** The question as a sentence: its pieces can be taken out, and the box writes into it. */
@Component({
  selector: 'ts-question-line',
  imports: [BytesPipe, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="box">
      <i class="pi pi-search" aria-hidden="true"></i>
      <input
        #box
        type="search"
        [placeholder]="'Find: herons, spring 2025, raw, taken by …'"
        aria-label="Ask the shelf"
        maxlength="1000"
        spellcheck="false"
        autocomplete="off"
        [value]="typed()"
        (input)="type(box.value)"
        (keydown.enter)="accept()"
        (keydown.escape)="type(''); box.value = ''; box.blur()"
        (keydown.backspace)="box.value === '' && dropLast()"
      />
    </div>
    <p class="sentence" role="status" aria-live="polite">
      @if (question(); as asked) {
        <span class="says">{{ asked.pieces.length ? 'Everything' : 'Everything that is filed:' }}</span>
        @for (piece of asked.pieces; track piece.text) {
          <span class="said"
            >{{ piece.words
            }}<button type="button" [attr.aria-label]="'Not asked: ' + piece.words" (click)="without.emit(piece.text)">
              <i class="pi pi-times" aria-hidden="true"></i></button
          ></span>
        }
        <span class="says count" [class.first]="!asked.pieces.length"
          ><b>{{ total() === null ? '…' : (total()! | count: 'item') }}</b>
          @if (total()) {
            <span class="quiet">{{ bytes() | bytes }}</span>
          }
        </span>
      }
    </p>
    <ng-content />
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 14px;
      padding: 12px 20px 10px;
      border-bottom: 1px solid var(--strong-line);
    }
    .box {
      position: relative;
      flex: 0 1 340px;
    }
    .box .pi {
      position: absolute;
      left: 10px;
      top: 10px;
      color: var(--quiet);
      font-size: 14px;
    }
    input {
      width: 100%;
      height: 36px;
      padding: 0 10px 0 32px;
      border: 1px solid var(--quiet);
      border-radius: 6px;
      background: var(--sheet);
      color: var(--ink);
      font: 15px var(--font-text);
    }
    .sentence {
      order: 3;
      flex: 1 1 100%;
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 8px;
      font: 18px/1.3 var(--font-title);
    }
    .said {
      display: inline-flex;
      align-items: center;
      border-bottom: 2px solid var(--reed);
      font-weight: 600;
      overflow-wrap: anywhere;
    }
    .said button {
      min-width: 24px;
      min-height: 24px;
      border: 0;
      background: none;
      color: var(--quiet);
      cursor: pointer;
    }
    .said .pi {
      font-size: 10px;
    }
    .count::before {
      content: ':';
      margin: 0 6px 0 -8px;
    }
    .first.count::before {
      content: none;
    }
    .quiet {
      margin-left: 6px;
      font-family: var(--font-text);
    }
  `,
})
export class QuestionLine {
  readonly question = input.required<QuestionView | null>();
  readonly total = input.required<number | null>();
  readonly bytes = input(0);
  /** What is typed and not yet accepted is asked for, too. */
  readonly asking = output<string>();
  /** What was typed is part of the question from now on. */
  readonly accepted = output<string>();
  /** A piece is asked for no more. */
  readonly without = output<string>();

  protected readonly typed = signal('');
  private readonly input = viewChild.required<ElementRef<HTMLInputElement>>('box');

  focus(): void {
    this.input().nativeElement.focus();
    this.input().nativeElement.select();
  }

  protected type(text: string): void {
    this.typed.set(text);
    this.asking.emit(text);
  }

  protected accept(): void {
    const text = this.typed().trim();
    if (!text) return;
    this.typed.set('');
    this.input().nativeElement.value = '';
    this.accepted.emit(text);
  }

  protected dropLast(): void {
    const last = this.question()?.pieces.at(-1);
    if (last) this.without.emit(last.text);
  }
}
