import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal, type OnInit } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { toSignal } from '@angular/core/rxjs-interop';
import type { Assignment, AssignmentDetail, Contributor } from '@tally/contract';
import { proposeSlug } from '@tally/core/rule';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { MultiSelectModule } from 'primeng/multiselect';
import { SelectModule } from 'primeng/select';
import { TextareaModule } from 'primeng/textarea';
import { catchError, debounceTime, map, of, Subject, switchMap } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';
import { DayBox } from './day-box';
import { type HadWord, WordsBox } from './words-box';

/** Adds an assignment: title, slug, days, place, who is expected and with how many cards. Emits the new id. */
@Component({
  selector: 'ts-assignment-form',
  imports: [DayBox, FormsModule, ButtonModule, InputTextModule, MultiSelectModule, SelectModule, TextareaModule, WordsBox],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="add()">
      <label class="field"
        ><span>Title</span><input pInputText name="title" maxlength="160" [(ngModel)]="title" (ngModelChange)="titled()"
      /></label>
      <label class="field"
        ><span>Short name, used in folder names</span
        ><input pInputText name="slug" class="mono" maxlength="60" [(ngModel)]="slug"
      /></label>
      <label class="field"
        ><span>Code, if the house has one</span
        ><input pInputText name="code" class="mono" maxlength="20" pattern="[A-Za-z0-9-]*" [(ngModel)]="code"
      /></label>
      <div class="two">
        <label class="field" for="first-day"
          ><span>First day</span><ts-day-box inputId="first-day" label="First day" [day]="from" (dayChange)="from = $event"
        /></label>
        <label class="field" for="last-day"
          ><span>Last day</span><ts-day-box inputId="last-day" label="Last day" [min]="from" [day]="to" (dayChange)="to = $event"
        /></label>
      </div>
      <label class="field"><span>Location</span><input pInputText name="place" maxlength="160" [(ngModel)]="place" /></label>
      <label class="field" for="expected"
        ><span>Who is expected</span>
        <p-multiselect
          inputId="expected"
          name="expected"
          [options]="everybody()"
          optionLabel="name"
          optionValue="id"
          placeholder="Nobody yet"
          ariaLabel="Who is expected"
          appendTo="body"
          [(ngModel)]="expected"
          (ngModelChange)="counted()"
        />
      </label>
      <label class="field"
        ><span>Cards expected</span
        ><input pInputText type="number" min="0" max="500" name="cards" [(ngModel)]="cards" (input)="ownCount = true"
      /></label>
      <details [open]="correcting() !== undefined">
        <summary>What it says of all pictures</summary>
        <label class="field"
          ><span>Description</span
          ><textarea pTextarea name="description" rows="2" maxlength="2000" [(ngModel)]="description"></textarea>
        </label>
        <label class="field" for="assignment-at"
          ><span>Known location</span>
          <p-select
            inputId="assignment-at"
            ariaLabel="Known location"
            name="locationId"
            [options]="locations()"
            optionLabel="name"
            optionValue="id"
            [filter]="true"
            [showClear]="true"
            placeholder="none of the list"
            appendTo="body"
            fluid
            [(ngModel)]="locationId"
          />
        </label>
        <label class="field" for="assignment-words"
          ><span>Words</span
          ><ts-words-box inputId="assignment-words" [words]="words()" (added)="addWords($event)" (removed)="removeWord($event)"
        /></label>
        <label class="field" for="assignment-terms"
          ><span>Terms</span>
          <p-select
            inputId="assignment-terms"
            ariaLabel="Terms"
            name="termsId"
            [options]="terms()"
            optionLabel="name"
            optionValue="id"
            [showClear]="true"
            placeholder="as whoever took it says"
            appendTo="body"
            fluid
            [(ngModel)]="termsId"
          />
        </label>
        <label class="field" for="embargo"
          ><span>Nothing of it may be shown until</span
          ><ts-day-box inputId="embargo" label="Embargo until" [day]="embargo" (dayChange)="embargo = $event"
        /></label>
        <label class="field"
          ><span>Whom to ask there</span
          ><textarea pTextarea name="contacts" rows="2" maxlength="1000" [(ngModel)]="contacts"></textarea>
        </label>
      </details>
      @if (namesake(); as other) {
        <p class="attention">
          There is “{{ other.title }}” ({{ other.slug }}) already. If this is another one, give it a title of its own.
        </p>
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="!title.trim() || !slug.trim() || !from">
        {{ correcting() ? 'Save' : 'Add assignment' }}
      </button>
    </form>
  `,
  styleUrl: './small-form.css',
})
export class AssignmentForm implements OnInit {
  readonly everybody = input.required<Contributor[]>();
  /** The day to propose, `yyyy-MM-dd`. */
  readonly day = input.required<string>();
  /** Contributors who are expected unless somebody says otherwise. */
  readonly expecting = input<readonly number[]>([]);
  /** One that is corrected; else a new one is added. */
  readonly correcting = input<Assignment>();
  /** All that it says of pictures, where one is corrected. */
  readonly detail = input<AssignmentDetail>();
  readonly added = output<number>();
  private readonly people = inject(PeopleService);
  protected readonly problem = signal('');
  private readonly credit = inject(CreditService);
  private readonly allTerms = toSignal(this.credit.terms, { initialValue: [] });
  private readonly allLocations = toSignal(this.credit.locations, { initialValue: [] });
  protected readonly terms = computed(() => this.allTerms().filter(({ retired }) => !retired));
  protected readonly locations = computed(() => this.allLocations().filter(({ retired }) => !retired));
  protected readonly words = signal<readonly HadWord[]>([]);
  protected description = '';
  protected contacts = '';
  protected embargo = '';
  protected termsId: number | null = null;
  protected locationId: number | null = null;
  protected title = '';
  protected slug = '';
  protected code = '';
  protected from = '';
  protected to = '';
  protected place = '';
  protected cards = 1;
  protected expected: number[] = [];
  protected ownCount = false;

  ngOnInit(): void {
    this.from = this.day();
    this.expected = [...this.expecting()];
    const one = this.correcting();
    if (!one) return;
    ({ title: this.title, slug: this.slug, code: this.code, from: this.from, to: this.to, place: this.place } = one);
    this.cards = one.expectedCards;
    this.expected = one.expected.map(({ id }) => id);
    this.ownCount = true;
    const detail = this.detail();
    if (!detail) return;
    ({ description: this.description, contacts: this.contacts, termsId: this.termsId, locationId: this.locationId } = detail);
    this.embargo = detail.embargoUntil ?? '';
    this.words.set(detail.words);
  }

  protected addWords(texts: readonly string[]): void {
    this.words.update((words) => [...words, ...texts.map((text, i) => ({ id: -1 - words.length - i, text }))]);
  }

  protected removeWord(word: HadWord): void {
    this.words.update((words) => words.filter((one) => one !== word));
  }

  protected titled(): void {
    if (!this.correcting()) this.slug = proposeSlug(this.title);
    this.typedTitle.next(this.title.trim());
  }

  private readonly typedTitle = new Subject<string>();
  /** Another one of the same title: allowed, and said. */
  protected readonly namesake = toSignal(
    this.typedTitle.pipe(
      debounceTime(200),
      switchMap((title) =>
        title ? this.people.assignmentPage({ typed: title.slice(0, 200), limit: 50 }).pipe(catchError(() => of(null))) : of(null),
      ),
      map((page) =>
        page?.assignments.find(
          (one) => one.title.toLowerCase() === this.title.trim().toLowerCase() && one.id !== this.correcting()?.id,
        ),
      ),
    ),
  );

  /** A card each, until somebody says another number. */
  protected counted(): void {
    if (!this.ownCount) this.cards = Math.max(1, this.expected.length);
  }

  private more() {
    const { description, contacts, termsId, locationId } = this;
    const words = this.words().map(({ text }) => text);
    return { description, contacts, termsId, locationId, embargoUntil: this.embargo || null, words };
  }

  protected add(): void {
    const { title, slug, code, from, place, expected } = this;
    const to = this.to && this.to >= from ? this.to : from;
    const said = {
      title,
      slug,
      code,
      from,
      to,
      place,
      expectedCards: this.cards,
      expectedContributorIds: expected,
      ...this.more(),
    };
    const one = this.correcting();
    // What stands in names is not said again: then it is not refused either.
    const { slug: _slug, code: _code, ...rest } = said;
    const change = one?.slug === slug && one.code === code ? rest : said;
    const asked = one ? this.people.changeAssignment(one.id, change).pipe(map(() => one)) : this.people.addAssignment(said);
    asked.subscribe({
      next: ({ id }) => this.added.emit(id),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
