import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, viewChildren } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { SlipChange } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { Popover, PopoverModule } from 'primeng/popover';
import { SelectModule } from 'primeng/select';
import { SessionService } from '../api/session.service';
import { creditOfItem, whoSays } from '../sheet/credit-of-item';
import { focusBack } from '../shared/focus-back';
import { type HadWord, WordsBox } from '../shared/words-box';
import { HabitForm } from './habit-form';
import { IntakeStore } from './intake-store';
import { LocationPicker } from './location-picker';

export const CLAUSES = ['credit', 'terms', 'words', 'location', 'habit'] as const;
export type Clause = (typeof CLAUSES)[number];

/** The end of the slip's sentence: how it is credited, what may be done with it, what it is of and where; filled already. */
@Component({
  selector: 'ts-credit-clauses',
  imports: [FormsModule, PopoverModule, ButtonModule, InputTextModule, SelectModule, WordsBox, LocationPicker, HabitForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (credit(); as says) {
      <!-- The sentence goes on. -->
      <span>, credited</span>{{ ' ' }}
      <button #creditWord type="button" class="word" [title]="from('creditLine')" (click)="creditBox.toggle($event)">
        {{ says.creditLine || 'nobody' }}</button>,
      <button
        #termsWord
        type="button"
        class="word"
        [class.blank]="says.terms === null"
        [class.never]="says.standing.mark === 'no'"
        [title]="from('termsId')"
        (click)="termsBox.toggle($event)"
      >
        {{ says.terms ? lower(says.standing.words) : 'on what terms?' }}</button>, words
      <button
        #wordsWord
        type="button"
        class="word"
        [class.none]="!says.words.length"
        [title]="from('wordIds')"
        (click)="wordsBox.toggle($event)"
      >
        {{ wordsLine() }}</button>, at
      <button
        #locationWord
        type="button"
        class="word"
        [class.none]="!says.location"
        [title]="from('locationId')"
        (click)="locationBox.toggle($event)"
      >
        {{ says.location?.name ?? 'no location' }}</button>.
      <button #habitWord type="button" class="habit" (click)="habitBox.toggle($event)">{{ habitWords() }}</button>
      <p-popover #creditBox ariaLabel="Credit" (onHide)="back(creditWord, creditBox)">
        <form class="form" (ngSubmit)="sayLines(); creditBox.hide()">
          <label class="field"
            ><span>Credit line</span
            ><input
              pInputText
              name="credit"
              maxlength="300"
              [ngModel]="line('creditLine')"
              (ngModelChange)="creditLine = $event"
              [placeholder]="says.creditLine"
          /></label>
          <label class="field"
            ><span>Copyright notice</span
            ><input
              pInputText
              name="copyright"
              maxlength="300"
              [ngModel]="line('copyrightNotice')"
              (ngModelChange)="copyright = $event"
              [placeholder]="says.copyrightNotice"
          /></label>
          <p class="quiet">
            {{ '{contributor.name}, {house}, {year}, {assignment.title}' }} are filled in. Left empty: {{ from('creditLine') }}.
          </p>
          <button pButton type="submit">Say it</button>
        </form>
      </p-popover>
      <p-popover #termsBox ariaLabel="Terms" (onHide)="back(termsWord, termsBox)">
        <div class="form">
          <label class="field" for="slip-terms"
            ><span>What may be done with them</span>
            <p-select
              inputId="slip-terms"
              ariaLabel="What may be done with them"
              [options]="terms()"
              optionLabel="name"
              optionValue="id"
              [showClear]="true"
              placeholder="as the assignment or the contributor says"
              appendTo="body"
              fluid
              [ngModel]="slip()?.termsId"
              (ngModelChange)="say({ termsId: $event ?? null }); termsBox.hide()"
            />
          </label>
          @if (says.terms?.sentence; as sentence) {
            <p class="quiet">{{ sentence }}</p>
          }
        </div>
      </p-popover>
      <p-popover #wordsBox ariaLabel="Words" (onHide)="back(wordsWord, wordsBox)">
        <div class="form">
          <label class="field" for="slip-words"
            ><span>Words for all of it</span
            ><ts-words-box
              inputId="slip-words"
              [autofocus]="true"
              [words]="slip()?.words ?? []"
              (added)="say({ addWords: $event })"
              (removed)="removeWord($event)"
          /></label>
          @if (assignmentWords(); as also) {
            <p class="quiet">The assignment adds {{ also }}.</p>
          }
        </div>
      </p-popover>
      <p-popover #locationBox ariaLabel="Location" (onHide)="back(locationWord, locationBox)">
        <ts-location-picker
          [chosen]="slip()?.locationId ?? null"
          (said)="say({ locationId: $event }); locationBox.hide()"
          (done)="locationBox.hide()"
        />
      </p-popover>
      <p-popover #habitBox ariaLabel="Habit" (onHide)="back(habitWord, habitBox)"
        ><ts-habit-form (done)="habitBox.hide(); habitWord.focus()"
      /></p-popover>
    } @else {
      <!-- As long as the clauses commonly are, so that nothing below moves when they come. -->
      @for (length of coming; track $index) {
        <span class="coming" aria-hidden="true" [style.width.ch]="length"></span>{{ ' ' }}
      }
    }
  `,
  styleUrl: './clauses.css',
})
export class CreditClauses {
  private readonly store = inject(IntakeStore);
  private readonly session = inject(SessionService);
  private readonly boxes = viewChildren(Popover);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  protected readonly back = focusBack;
  protected readonly coming = [8, 24, 18, 16, 15, 18];
  protected creditLine: string | undefined;
  protected copyright: string | undefined;

  protected readonly slip = computed(() => this.store.credit()?.slip ?? null);
  protected readonly credit = computed(() => {
    const [intake, context] = [this.store.intake(), this.store.credit()];
    return intake && context ? creditOfItem(null, intake, context, this.session.today()) : null;
  });
  protected readonly terms = computed(() => this.store.credit()?.terms.filter(({ retired }) => !retired) ?? []);
  protected readonly wordsLine = computed(() => {
    const words = this.credit()?.words.map(({ text }) => text) ?? [];
    return words.length > 4 ? `${words.slice(0, 3).join(' · ')} and ${words.length - 3} more` : words.join(' · ') || 'none yet';
  });
  protected readonly assignmentWords = computed(() => {
    const own = new Set(this.slip()?.words.map(({ id }) => id));
    return this.credit()
      ?.words.filter(({ id }) => !own.has(id))
      .map(({ text }) => text)
      .join(', ');
  });
  protected readonly habitWords = computed(() => {
    const names = [...new Set(Object.values(this.store.credit()?.answeredBy ?? {}).map(({ name }) => name))];
    return names.length ? `by the habit ${names.map((name) => `“${name}”`).join(' and ')}…` : 'Keep this as a habit…';
  });

  /** Opens a clause as if its word were pressed. */
  open(clause: Clause): void {
    const at = CLAUSES.indexOf(clause);
    const word = this.host.querySelectorAll('button.word, button.habit')[at];
    if (word) this.boxes()[at]?.show(null, word);
  }

  /** In the middle of a sentence; an abbreviation stays as it is. */
  protected readonly lower = (text: string) => text.replace(/^\p{Lu}(?=\p{Ll})/u, (first) => first.toLowerCase());

  protected from(field: 'creditLine' | 'termsId' | 'locationId' | 'wordIds'): string {
    const by = this.store.credit()?.answeredBy[field];
    if (field === 'wordIds') return by ? `by the habit “${by.name}”` : 'words of the slip and of the assignment';
    return whoSays(this.credit()?.from[field] ?? null, by);
  }

  protected line(field: 'creditLine' | 'copyrightNotice'): string {
    return this.slip()?.[field] ?? '';
  }

  protected sayLines(): void {
    const change: SlipChange = {
      ...(this.creditLine === undefined ? {} : { creditLine: this.creditLine.trim() || null }),
      ...(this.copyright === undefined ? {} : { copyrightNotice: this.copyright.trim() || null }),
    };
    [this.creditLine, this.copyright] = [undefined, undefined];
    if (Object.keys(change).length) this.say(change);
  }

  protected say(change: SlipChange): void {
    this.store.say(change);
  }

  protected removeWord(word: HadWord): void {
    this.say({ removeWordIds: [word.id] });
  }
}
