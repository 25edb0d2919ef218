import { ChangeDetectionStrategy, Component, inject, input, output, signal, type OnInit } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { HouseListName } from '@tally/contract';
import { countryCodes } from '@tally/core/country';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { TextareaModule } from 'primeng/textarea';
import { map } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';
import { DayBox } from '../shared/day-box';
import type { Entry, ListKind } from './list-fields';

/** Adds an entry to a list of the house, or corrects one. */
@Component({
  selector: 'ts-entry-form',
  imports: [FormsModule, ButtonModule, InputTextModule, SelectModule, TextareaModule, DayBox],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="save()">
      @for (field of kind().fields; track field.name) {
        <label class="field" [for]="'entry-' + field.name"
          ><span>{{ field.words }}</span>
          @switch (field.as) {
            @case ('text') {
              <textarea
                pTextarea
                rows="3"
                [id]="'entry-' + field.name"
                [name]="field.name"
                [attr.maxlength]="field.max"
                [(ngModel)]="said[field.name]"
              ></textarea>
            }
            @case ('day') {
              <ts-day-box
                [inputId]="'entry-' + field.name"
                [label]="field.words"
                [day]="said[field.name] ?? ''"
                (dayChange)="said[field.name] = $event"
              />
            }
            @case ('one of') {
              <p-select
                [inputId]="'entry-' + field.name"
                [ariaLabel]="field.words"
                [name]="field.name"
                [options]="options(field.options)"
                appendTo="body"
                fluid
                [(ngModel)]="said[field.name]"
              />
            }
            @case ('country') {
              <p-select
                [inputId]="'entry-' + field.name"
                [ariaLabel]="field.words"
                [name]="field.name"
                [options]="countries"
                optionLabel="name"
                optionValue="code"
                [filter]="true"
                filterBy="name,code"
                [showClear]="true"
                [virtualScroll]="true"
                [virtualScrollItemSize]="36"
                placeholder="nobody says"
                appendTo="body"
                fluid
                [(ngModel)]="said[field.name]"
              />
            }
            @default {
              <input
                pInputText
                [id]="'entry-' + field.name"
                [name]="field.name"
                [attr.maxlength]="field.max"
                [attr.inputmode]="field.as === 'number' ? 'decimal' : null"
                [placeholder]="field.hint ?? ''"
                [(ngModel)]="said[field.name]"
              />
            }
          }
        </label>
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="!(said['name'] ?? '').trim()">{{ entry() ? 'Save' : 'Add' }}</button>
    </form>
  `,
  styleUrl: '../shared/small-form.css',
})
export class EntryForm implements OnInit {
  readonly list = input.required<HouseListName>();
  readonly kind = input.required<ListKind>();
  /** One that is corrected; else a new one is added. */
  readonly entry = input<Entry | null>(null);
  readonly saved = output<string>();
  private readonly service = inject(CreditService);
  protected readonly problem = signal('');
  protected readonly countries = countryCodes();
  protected said: Record<string, string> = {};

  ngOnInit(): void {
    const entry = this.entry();
    for (const { name, options } of this.kind().fields) {
      const value = entry?.[name];
      this.said[name] = value === null || value === undefined ? (entry ? '' : (options?.[0] ?? '')) : textOf(value);
    }
  }

  protected options(options: readonly string[] | undefined): string[] {
    return [...(options ?? [])];
  }

  protected save(): void {
    const entry = this.entry();
    const said = Object.fromEntries(
      this.kind().fields.map((field) => [field.name, valueOf(field.as, this.said[field.name] ?? '', field.name)]),
    );
    const asked = entry
      ? this.service
          .correct(this.list(), entry.id, { ...said, revision: entry.revision })
          .pipe(
            map(({ items, following }) =>
              items ? `Saved. It is said of ${items} items; ${following} records beside the files follow.` : 'Saved.',
            ),
          )
      : this.service.add(this.list(), said).pipe(map(() => 'Added.'));
    asked.subscribe({
      next: (words) => this.saved.emit(words),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}

const textOf = (value: unknown): string => (typeof value === 'string' ? value : JSON.stringify(value));

/** What was typed as what the server takes; nothing typed is nothing said. */
function valueOf(as: string, typed: string, name: string): string | number | null | undefined {
  const text = typed.trim();
  if (as === 'number') return text === '' ? (name === 'reachM' ? undefined : null) : Number(text.replace(',', '.'));
  if (as === 'day' || name === 'web') return text || null;
  return text;
}
