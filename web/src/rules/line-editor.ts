import { CdkDrag, CdkDropList, type CdkDragDrop } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, viewChild } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { writeLine, type Piece } from '@tally/core/rule';
import { Popover, PopoverModule } from 'primeng/popover';
import { InputTextModule } from 'primeng/inputtext';
import { Draft, type LineName } from './draft';
import { PieceForm } from './piece-form';

/** One line of a rule, as pieces that are dragged and as text: the same line twice, always in step. */
@Component({
  selector: 'ts-line-editor',
  imports: [CdkDropList, CdkDrag, FormsModule, InputTextModule, PopoverModule, PieceForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2 [id]="line() + '-title'">
      {{ title() }} <span class="quiet">{{ hint() }}</span>
    </h2>
    <div
      class="pieces"
      cdkDropList
      cdkDropListOrientation="mixed"
      [id]="'pieces-' + line()"
      [cdkDropListData]="line()"
      [cdkDropListDisabled]="!parsed().ok"
      [class.stale]="!parsed().ok"
      (cdkDropListDropped)="dropped($event)"
      [attr.aria-label]="title() + ', as pieces'"
      role="list"
    >
      @for (piece of pieces(); track $index) {
        <span role="listitem" cdkDrag [cdkDragData]="piece" class="holder">
          <button
            type="button"
            class="piece"
            [class.text]="piece.type === 'text'"
            [class.optional]="piece.type === 'optional'"
            [disabled]="!parsed().ok"
            [attr.aria-label]="spoken(piece)"
            (click)="edit($event, $index)"
            (keydown)="keys($event, $index)"
          >
            {{ short(piece) }}
          </button>
        </span>
      } @empty {
        <span class="quiet">nothing yet: drag a field here, or click one</span>
      }
      <span cdkDrag [cdkDragDisabled]="true" class="rest" aria-hidden="true"></span>
    </div>
    <input
      pInputText
      class="source"
      spellcheck="false"
      autocomplete="off"
      [attr.aria-labelledby]="line() + '-title'"
      [attr.aria-invalid]="!parsed().ok"
      [attr.aria-describedby]="parsed().ok ? null : line() + '-fault'"
      [ngModel]="draft.lines()[line()]"
      (ngModelChange)="draft.setLine(line(), $event, true)"
      #source
    />
    @if (fault(); as fault) {
      <p class="fault" [id]="line() + '-fault'" role="status">
        <span class="mono mark" aria-hidden="true"
          >{{ fault.before }}<b>{{ fault.at || ' ' }}</b
          >{{ fault.after }}</span
        >
        {{ fault.message }}
        @if (fault.meant) {
          <button type="button" class="plain" (click)="use(fault.meant)">Use {{ fault.meant }}</button>
        }
      </p>
    }
    <p-popover #editor (onHide)="at.set(null)">
      @if (chosen(); as piece) {
        <ts-piece-form
          [piece]="piece"
          [first]="at() === 0"
          [last]="at() === pieces().length - 1"
          (changed)="draft.replace(line(), at()!, $event)"
          (removed)="draft.replace(line(), at()!, ''); editor.hide()"
          (moved)="move($event)"
        />
      }
    </p-popover>
  `,
  styles: `
    h2 {
      font-size: 15px;
      margin-bottom: 6px;
    }
    h2 .quiet {
      font: 13px var(--font-text);
    }
    .pieces {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      min-height: 38px;
      padding: 4px;
      border: 1px solid var(--line);
      border-bottom: 0;
      border-radius: 6px 6px 0 0;
      background: var(--sheet);
      align-items: center;
    }
    .stale {
      opacity: 0.55;
    }
    .holder {
      display: inline-flex;
    }
    /* What is dropped behind the last piece belongs at the end. */
    .rest {
      flex: 1 0 24px;
      align-self: stretch;
    }
    .source {
      width: 100%;
      border-radius: 0 0 6px 6px;
      font-family: var(--font-mono);
      font-size: 13px;
    }
    .fault {
      margin-top: 6px;
      color: var(--trouble);
      font-size: 13px;
    }
    .mark {
      display: block;
      color: var(--ink);
      overflow-wrap: anywhere;
    }
    .mark b {
      background: var(--straw);
      color: var(--ochre);
      text-decoration: underline wavy var(--trouble);
      white-space: pre;
    }
  `,
})
export class LineEditor {
  protected readonly draft = inject(Draft);
  readonly line = input.required<LineName>();
  readonly title = input.required<string>();
  readonly hint = input('');
  private readonly editor = viewChild.required<Popover>('editor');

  protected readonly parsed = computed(() => this.draft.parsed()[this.line()]);
  /** The pieces as they are; while the line cannot be read, as they last were. */
  protected readonly pieces = linkedSignal<ReturnType<typeof this.parsed>, readonly Piece[]>({
    source: this.parsed,
    computation: (parsed, before) => (parsed.ok ? parsed.pieces : (before?.value ?? [])),
  });
  protected readonly at = linkedSignal<LineName, number | null>({ source: this.line, computation: () => null });
  protected readonly chosen = computed(() => {
    const at = this.at();
    return at === null ? null : (this.pieces()[at] ?? null);
  });
  protected readonly fault = computed(() => {
    const parsed = this.parsed();
    if (parsed.ok) return null;
    const text = this.draft.lines()[this.line()];
    const { span, message, meant } = parsed.error;
    return { message, meant, before: text.slice(0, span.from), at: text.slice(span.from, span.to), after: text.slice(span.to) };
  });

  protected short(piece: Piece): string {
    if (piece.type === 'text') return piece.text;
    if (piece.type === 'optional') return `[ ${piece.pieces.map((one) => this.short(one)).join(' ')} ]`;
    return piece.format === null ? piece.name : `${piece.name} ${piece.format}`;
  }

  protected spoken(piece: Piece): string {
    if (piece.type === 'text') return `text ${piece.text}`;
    return piece.type === 'optional' ? `optional ${writeLine(piece.pieces)}` : `field ${writeLine([piece])}`;
  }

  protected edit(event: Event, index: number): void {
    this.at.set(index);
    this.editor().show(event);
  }

  /** Alt and an arrow moves a piece; Delete removes it. */
  protected keys(event: KeyboardEvent, index: number): void {
    const step = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    const target = index + step;
    if (event.altKey && step && target >= 0 && target < this.pieces().length) {
      event.preventDefault();
      this.draft.move(this.line(), index, target);
      const host = (event.target as HTMLElement).closest('.pieces');
      queueMicrotask(() => host?.querySelectorAll<HTMLElement>('.piece')[target]?.focus());
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      this.draft.replace(this.line(), index, '');
    }
  }

  protected move(step: number): void {
    const at = this.at();
    if (at === null) return;
    this.draft.move(this.line(), at, at + step);
    this.at.set(at + step);
  }

  protected use(meant: string): void {
    const parsed = this.parsed();
    if (parsed.ok) return;
    const { from, to } = parsed.error.span;
    const text = this.draft.lines()[this.line()];
    this.draft.setLine(this.line(), text.slice(0, from) + meant + text.slice(to));
  }

  protected dropped({ previousContainer, container, previousIndex, currentIndex, item }: CdkDragDrop<LineName>): void {
    const from = previousContainer.data as LineName | 'fields';
    const source = typeof item.data === 'string' ? item.data : writeLine([item.data as Piece]);
    if (previousContainer === container) {
      this.draft.move(this.line(), previousIndex, Math.min(currentIndex, this.pieces().length - 1));
    } else {
      this.draft.insert(this.line(), source, Math.min(currentIndex, this.pieces().length));
      if (from !== 'fields') this.draft.replace(from, previousIndex, '');
    }
  }
}
