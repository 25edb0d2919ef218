import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { checkFormat, FIELD_WORDS, fieldNamed, fieldText, TEXT_FORMATS, writeLine, type Piece } from '@tally/core/rule';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { InputTextModule } from 'primeng/inputtext';
import { Draft } from './draft';

const FORMATS = {
  date: ['yyyy', 'yyyy-MM', 'yyyy-MM-dd', 'yyyyMMdd', 'MM', 'dd', 'HHmmss', 'MMMM', "YYYY-'W'ww", 'QQQ'],
  number: ['0', '000', '0000', '00000'],
  text: TEXT_FORMATS,
} as const;

/** How one piece is written: text, or a field's format and whether it may be left out. */
@Component({
  selector: 'ts-piece-form',
  imports: [FormsModule, ButtonModule, CheckboxModule, InputTextModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (field(); as field) {
      <p>
        <b>{{ words[field.name] }}</b> <code>{{ field.name }}</code> <span class="quiet">{{ field.explanation }}</span>
      </p>
      <label>
        <span class="quiet">written as</span>
        <input
          pInputText
          pSize="small"
          spellcheck="false"
          [placeholder]="field.type === 'date' ? 'yyyy-MM-dd' : 'as it is'"
          [attr.aria-invalid]="wrong() !== null"
          [ngModel]="format()"
          (ngModelChange)="format.set($event); say()"
        />
      </label>
      @if (wrong(); as words) {
        <p class="fault">{{ words }}</p>
      }
      <ul>
        @for (one of formats(); track one.format) {
          <li>
            <button type="button" [class.here]="one.format === format()" (click)="format.set(one.format); say()">
              <code>{{ one.format }}</code> <span>{{ one.value }}</span>
            </button>
          </li>
        }
      </ul>
      <label class="check" for="piece-optional">
        <p-checkbox
          inputId="piece-optional"
          [binary]="true"
          [ngModel]="optional()"
          (ngModelChange)="optional.set($event); say()"
        />
        leave out when nobody says it
      </label>
      @if (optional()) {
        <div class="around">
          <label
            ><span class="quiet">text before</span>
            <input pInputText pSize="small" [ngModel]="before()" (ngModelChange)="before.set($event); say()" />
          </label>
          <label
            ><span class="quiet">text after</span>
            <input pInputText pSize="small" [ngModel]="after()" (ngModelChange)="after.set($event); say()" />
          </label>
        </div>
      }
    } @else {
      <label>
        <span class="quiet">{{ piece().type === 'text' ? 'text' : 'optional part' }}</span>
        <input pInputText pSize="small" spellcheck="false" [ngModel]="source()" (ngModelChange)="saySource($event)" />
      </label>
    }
    <div class="acts">
      <button type="button" (click)="moved.emit(-1)" [disabled]="first()" aria-label="Move to the left">
        <i class="pi pi-arrow-left" aria-hidden="true"></i>
      </button>
      <button type="button" (click)="moved.emit(1)" [disabled]="last()" aria-label="Move to the right">
        <i class="pi pi-arrow-right" aria-hidden="true"></i>
      </button>
      <button type="button" class="end" (click)="removed.emit()">Remove</button>
    </div>
  `,
  styles: `
    :host {
      display: grid;
      gap: 8px;
      width: 300px;
      font-size: 13px;
    }
    label {
      display: grid;
      gap: 2px;
    }
    .check {
      display: flex;
      gap: 8px;
      align-items: center;
    }
    .around {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 8px;
    }
    .around input {
      width: 100%;
    }
    input {
      font-family: var(--font-mono);
    }
    .fault {
      color: var(--trouble);
    }
    li button {
      display: flex;
      justify-content: space-between;
      gap: 12px;
      width: 100%;
      min-height: 26px;
      border: 0;
      background: none;
      color: inherit;
      font: inherit;
      cursor: pointer;
    }
    li span {
      color: var(--quiet);
      overflow-wrap: anywhere;
      text-align: right;
    }
    li button:hover,
    li .here {
      background: var(--reed-soft);
    }
    .acts {
      display: flex;
      gap: 6px;
    }
    .acts button {
      min-height: 28px;
      min-width: 32px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--sheet);
      color: var(--ink);
      font: inherit;
      cursor: pointer;
    }
    .acts button:disabled {
      opacity: 0.4;
    }
    .end {
      margin-left: auto;
    }
  `,
})
export class PieceForm {
  protected readonly words = FIELD_WORDS;
  private readonly draft = inject(Draft);
  readonly piece = input.required<Piece>();
  readonly first = input(false);
  readonly last = input(false);
  /** The piece as it is written now. */
  readonly changed = output<string>();
  readonly removed = output();
  readonly moved = output<number>();

  /** The one field of this piece: alone, or in an optional part with text around it. */
  private readonly one = computed(() => {
    const piece = this.piece();
    if (piece.type === 'field') return { piece, before: '', after: '', optional: false };
    if (piece.type === 'text') return null;
    const fields = piece.pieces.filter((inner) => inner.type === 'field');
    if (fields.length !== 1) return null;
    const at = piece.pieces.indexOf(fields[0]!);
    return {
      piece: fields[0]!,
      before: textOf(piece.pieces.slice(0, at)),
      after: textOf(piece.pieces.slice(at + 1)),
      optional: true,
    };
  });
  protected readonly field = computed(() => {
    const one = this.one();
    return one ? (fieldNamed(one.piece.name) ?? null) : null;
  });
  protected readonly format = linkedSignal(() => this.one()?.piece.format ?? '');
  protected readonly optional = linkedSignal(() => this.one()?.optional ?? false);
  protected readonly before = linkedSignal(() => this.one()?.before ?? '');
  protected readonly after = linkedSignal(() => this.one()?.after ?? '');
  protected readonly source = computed(() => {
    const piece = this.piece();
    return piece.type === 'text' ? piece.text : writeLine([piece]);
  });
  protected readonly wrong = computed(() => {
    const field = this.field();
    return field && this.format() ? checkFormat(field.type, this.format()) : null;
  });
  protected readonly formats = computed(() => {
    const field = this.field();
    if (!field) return [];
    return FORMATS[field.type].map((format) => ({
      format,
      value: fieldText({ name: field.name, format }, this.draft.context(), this.draft.settings()),
    }));
  });

  protected say(): void {
    const field = this.field();
    if (!field || this.wrong() !== null) return;
    const inner = this.format() ? `{${field.name}:${this.format()}}` : `{${field.name}}`;
    const text = (plain: string) => plain.replace(/[{}[\]]/g, '$&$&');
    this.changed.emit(this.optional() ? `[${text(this.before())}${inner}${text(this.after())}]` : inner);
  }

  protected saySource(source: string): void {
    this.changed.emit(this.piece().type === 'text' ? source.replace(/[{}[\]]/g, '$&$&') : source);
  }
}

const textOf = (pieces: readonly Piece[]) => pieces.map((piece) => (piece.type === 'text' ? piece.text : '')).join('');
