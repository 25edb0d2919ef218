import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { consentOf, embeddedInWords } from '@tally/core/credit';
import { partsOfTyped } from '@tally/core/words';
import { AutoCompleteModule, type AutoCompleteCompleteEvent } from 'primeng/autocomplete';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { map } from 'rxjs';
import { PeopleService } from '../api/people.service';
import { CreditService } from '../api/credit.service';
import { SessionService } from '../api/session.service';
import { type HadWord, WordsBox } from '../shared/words-box';
import { Acts } from './acts';
import type { CreditSaid } from './credit-change';
import { creditOfItem, type ItemCredit, whoSays } from './credit-of-item';
import { SheetSource } from './sheet-source';
import type { Tile } from './tiles';

type Field = 'creditLine' | 'copyrightNotice' | 'termsId' | 'locationId';

/** Whose some items are, what may be done with them, what and who is in them, and where: of one item or of many at once. */
@Component({
  selector: 'ts-credit-pane',
  imports: [FormsModule, AutoCompleteModule, InputTextModule, SelectModule, WordsBox],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (credits().length) {
      <label class="field" for="pane-who"
        ><span>Taken by</span>
        <p-select
          inputId="pane-who"
          ariaLabel="Taken by"
          [options]="contributors()"
          optionLabel="name"
          [filter]="true"
          [showClear]="true"
          [placeholder]="slipContributor()"
          appendTo="body"
          fluid
          [ngModel]="whoTook()"
          (ngModelChange)="takenBy($event)"
        />
      </label>
      <label class="field"
        ><span
          >Credit line <small class="quiet">· {{ whose('creditLine') }}</small></span
        ><input
          pInputText
          maxlength="300"
          [placeholder]="placeholder('creditLine')"
          [ngModel]="own('creditLine') ?? ''"
          (change)="line('creditLine', $event)"
      /></label>
      <label class="field"
        ><span
          >Copyright notice <small class="quiet">· {{ whose('copyrightNotice') }}</small></span
        ><input
          pInputText
          maxlength="300"
          [placeholder]="placeholder('copyrightNotice')"
          [ngModel]="own('copyrightNotice') ?? ''"
          (change)="line('copyrightNotice', $event)"
      /></label>
      <label class="field" for="pane-terms"
        ><span
          >Terms <small class="quiet">· {{ whose('termsId') }}</small></span
        >
        <p-select
          inputId="pane-terms"
          ariaLabel="Terms"
          [options]="terms()"
          optionLabel="name"
          optionValue="id"
          [showClear]="true"
          [placeholder]="placeholder('termsId')"
          appendTo="body"
          fluid
          [ngModel]="own('termsId')"
          (ngModelChange)="say({ termsId: $event ?? null }, 'terms')"
        />
      </label>
      <label class="field" for="pane-location"
        ><span
          >Location <small class="quiet">· {{ whose('locationId') }}</small></span
        >
        <p-select
          inputId="pane-location"
          ariaLabel="Location"
          [options]="locations()"
          optionLabel="name"
          optionValue="id"
          [filter]="true"
          [showClear]="true"
          [placeholder]="placeholder('locationId')"
          appendTo="body"
          fluid
          [ngModel]="own('locationId')"
          (ngModelChange)="say({ locationId: $event ?? null }, 'location')"
        />
      </label>
      <label class="field" for="pane-words"
        ><span>Words</span
        ><ts-words-box
          inputId="pane-words"
          [words]="words()"
          (added)="say({ addWords: $event }, 'words')"
          (removed)="takeWord($event)"
      /></label>
      <label class="field" for="pane-shown"><span>Who is in it</span></label>
      <ul class="shown">
        @for (person of shown(); track person.id) {
          <li [class.no]="person.consent === 'no'">
            <b>{{ person.name }}</b> <span [class.quiet]="person.consent !== 'no'">{{ person.words }}</span>
            @if (person.some) {
              <span class="quiet">{{ person.some }}</span>
            }
            <button
              type="button"
              [attr.aria-label]="'Take out ' + person.name"
              (click)="say({ removePicturedIds: [person.id] }, 'who is in it')"
            >
              <i class="pi pi-times" aria-hidden="true"></i>
            </button>
          </li>
        }
      </ul>
      <p-autocomplete
        inputId="pane-shown"
        optionLabel="name"
        placeholder="A name, Enter"
        appendTo="body"
        [showEmptyMessage]="false"
        [minQueryLength]="1"
        [delay]="60"
        size="small"
        fluid
        [suggestions]="found()"
        [ngModel]="typed()"
        (ngModelChange)="typed.set($event)"
        (completeMethod)="find($event)"
        (onSelect)="show([$event.value.name])"
        (onKeyUp)="key($event)"
      />
      @if (embedded().length) {
        <h3>In the file</h3>
        <dl>
          @for (row of embedded(); track row.name) {
            <dt>{{ row.name }}</dt>
            <dd>{{ row.value }}</dd>
          }
        </dl>
        <p class="use">
          @if (fileWords().length) {
            <button type="button" (click)="say({ addWords: fileWords() }, 'words')">Use its words</button>
          }
          @if (fileDescription(); as text) {
            <button type="button" (click)="acts.judge(tiles(), { description: text }, 'describe')">Use its description</button>
          }
          @if (fileCredit(); as text) {
            <button type="button" (click)="say({ creditLine: text }, 'credit')">Use its credit</button>
          }
          @if (fileCopyright(); as text) {
            <button type="button" (click)="say({ copyrightNotice: text }, 'copyright')">Use its copyright</button>
          }
        </p>
      }
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 10px;
      align-content: start;
    }
    small {
      font-weight: 400;
    }
    .shown li {
      display: flex;
      gap: 8px;
      align-items: center;
      min-height: 30px;
    }
    .shown li button {
      margin-left: auto;
      width: 24px;
      min-height: 24px;
      border: 0;
      background: none;
      color: var(--quiet);
      cursor: pointer;
    }
    .no {
      color: var(--trouble);
    }
    h3 {
      font-size: 15px;
    }
    dl {
      display: grid;
      grid-template-columns: 128px 1fr;
      gap: 4px 10px;
    }
    dt {
      color: var(--quiet);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    .use {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
    }
    .use button {
      min-height: 28px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--sheet);
      color: var(--reed);
      font: inherit;
      cursor: pointer;
    }
  `,
})
export class CreditPane {
  readonly tiles = input.required<readonly Tile[]>();
  private readonly store = inject(SheetSource);
  protected readonly acts = inject(Acts);
  private readonly session = inject(SessionService);
  private readonly people = toSignal(inject(CreditService).pictured, { initialValue: [] });
  protected readonly found = signal<{ name: string }[]>([]);
  protected readonly typed = signal<string | { name: string }>('');

  protected readonly contributors = toSignal(
    inject(PeopleService).contributors.pipe(map((all) => all.map(({ id, code, name }) => ({ id, code, name })))),
    { initialValue: [] },
  );
  protected readonly slipContributor = computed(() => this.store.intake()?.contributor?.name ?? 'nobody named');
  /** Who took them, where that is not whom the slip says and the same for all. */
  protected readonly whoTook = computed(() => {
    const ids = new Set(this.leads().map(({ contributor }) => contributor?.id ?? null));
    const [id] = ids;
    return ids.size === 1 ? (this.contributors().find((one) => one.id === id) ?? null) : null;
  });

  protected takenBy(contributor: Tile['lead']['contributor']): void {
    this.acts.takenBy(this.tiles(), contributor);
  }

  private readonly leads = computed(() => this.tiles().map(({ lead }) => lead));
  protected readonly credits = computed<ItemCredit[]>(() => {
    const [intake, context] = [this.store.intake(), this.store.credit()];
    if (!intake || !context) return [];
    const today = this.session.today();
    return this.leads().map((item) => creditOfItem(item, intake, context, today));
  });
  protected readonly terms = computed(() => this.store.credit()?.terms.filter(({ retired }) => !retired) ?? []);
  protected readonly locations = computed(() => this.store.credit()?.locations.filter(({ retired }) => !retired) ?? []);

  /** What the items themselves say, as long as all say the same. */
  protected own(field: Field): string | number | null {
    const values = new Set(this.leads().map((item) => item.credit?.[field] ?? null));
    const [value] = values;
    return values.size === 1 ? (value ?? null) : null;
  }

  /** What applies where the items say nothing, or that they differ. */
  protected placeholder(field: Field): string {
    const values = new Set(this.credits().map((credit) => this.valueOf(credit, field)));
    return values.size > 1 ? 'they differ' : ([...values][0] ?? '');
  }

  private valueOf(credit: ItemCredit, field: Field): string {
    if (field === 'termsId') return credit.standing.words;
    return field === 'locationId' ? (credit.location?.name ?? 'no location') : credit[field];
  }

  protected whose(field: Field): string {
    const levels = new Set(this.credits().map(({ from }) => from[field]));
    if (levels.size > 1) return 'they differ';
    const [level] = levels;
    return whoSays(level ?? null, this.store.credit()?.answeredBy[field]);
  }

  /** Words that any of them has; where not all have it, how many. */
  protected readonly words = computed<HadWord[]>(() => {
    const counts = new Map<number, { text: string; n: number }>();
    for (const { words } of this.credits())
      for (const { id, text } of words) counts.set(id, { text, n: (counts.get(id)?.n ?? 0) + 1 });
    return [...counts].map(([id, { text, n }]) => ({ id, text, ...this.some(n) }));
  });

  protected readonly shown = computed(() => {
    const today = this.session.today();
    const counts = new Map<number, { person: NonNullable<Tile['lead']['credit']>['pictured'][number]; n: number }>();
    for (const { credit } of this.leads())
      for (const person of credit?.pictured ?? []) counts.set(person.id, { person, n: (counts.get(person.id)?.n ?? 0) + 1 });
    return [...counts.values()].map(({ person, n }) => {
      const standing = consentOf(person, today);
      return { ...person, consent: standing.consent, words: CONSENT_WORDS[standing.consent], ...this.some(n) };
    });
  });

  private some(n: number): { some?: string } {
    return n < this.leads().length ? { some: `${n} of ${this.leads().length}` } : {};
  }

  protected readonly embedded = computed(() => {
    const [one, ...more] = this.leads();
    return one?.embedded && !more.length ? embeddedInWords(one.embedded) : [];
  });
  private readonly file = computed(() => this.leads()[0]?.embedded ?? null);
  protected readonly fileWords = computed(() => this.file()?.words ?? []);
  protected readonly fileDescription = computed(() => {
    const text = this.file()?.description?.slice(0, 500);
    return text === this.leads()[0]?.description ? null : text;
  });
  protected readonly fileCredit = computed(() => this.file()?.creditLine);
  protected readonly fileCopyright = computed(() => this.file()?.copyrightNotice);

  protected line(field: 'creditLine' | 'copyrightNotice', event: Event): void {
    const text = (event.target as HTMLInputElement).value.trim();
    this.say({ [field]: text || null }, field === 'creditLine' ? 'credit' : 'copyright');
  }

  protected takeWord(word: HadWord): void {
    this.say({ removeWordIds: [word.id] }, 'words');
  }

  protected find({ query }: AutoCompleteCompleteEvent): void {
    const typed = query.trim().toLowerCase();
    this.found.set(
      this.people()
        .filter(({ name, retired }) => !retired && name.toLowerCase().includes(typed))
        .slice(0, 12),
    );
  }

  protected key(event: KeyboardEvent): void {
    const typed = this.typed();
    const text = typeof typed === 'string' ? typed : typed.name;
    if (text.includes(',') || (event.key === 'Enter' && text.trim() !== '')) this.show(partsOfTyped(text));
  }

  protected show(names: string[]): void {
    if (names.length) this.say({ addPictured: names }, 'who is in it');
    this.typed.set('');
    this.found.set([]);
  }

  protected say(change: CreditSaid, words: string): void {
    this.acts.credit(this.tiles(), change, words);
  }
}

const CONSENT_WORDS = { yes: 'consents', no: 'must not be shown', ask: 'ask first' } as const;
