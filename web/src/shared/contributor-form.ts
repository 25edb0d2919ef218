import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal, type OnInit } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { Contributor, ContributorChange, ContributorDetail } from '@tally/contract';
import { proposeCode } from '@tally/core/rule';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { InputTextModule } from 'primeng/inputtext';
import { MultiSelectModule } from 'primeng/multiselect';
import { SelectModule } from 'primeng/select';
import { TextareaModule } from 'primeng/textarea';
import { map } from 'rxjs';
import { toSignal } from '@angular/core/rxjs-interop';
import { CreditService } from '../api/credit.service';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';

const NOTHING = {
  ...{
    given: '',
    family: '',
    kind: '',
    email: '',
    phone: '',
    address: '',
    web: '',
    creditLine: '',
    copyrightNotice: '',
    notes: '',
  },
} as const;

/** What is kept of somebody in a field of text; nothing is an empty line. */
const lineOf = (detail: ContributorDetail | undefined, field: string): string => {
  const value = detail?.[field as keyof typeof NOTHING];
  return value ?? '';
};

/** Adds a contributor: a name, and a short code that no one else has. Emits the new id. */
@Component({
  selector: 'ts-contributor-form',
  imports: [FormsModule, ButtonModule, CheckboxModule, InputTextModule, MultiSelectModule, SelectModule, TextareaModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="add()">
      <label class="field"
        ><span>Name</span><input pInputText name="name" maxlength="120" [(ngModel)]="name" (ngModelChange)="propose()"
      /></label>
      <label class="field"
        ><span>Code, 2 to 4 letters, used in file names</span
        ><input pInputText name="code" class="mono" maxlength="4" [(ngModel)]="code"
      /></label>
      <details [open]="correcting() !== undefined">
        <summary>Contact, credit and terms</summary>
        <div class="two">
          <label class="field"
            ><span>Given name</span><input pInputText name="given" maxlength="60" [(ngModel)]="more.given"
          /></label>
          <label class="field"
            ><span>Family name</span><input pInputText name="family" maxlength="60" [(ngModel)]="more.family"
          /></label>
        </div>
        <label class="field" for="person-kind"
          ><span>Kind</span>
          <p-select
            inputId="person-kind"
            ariaLabel="Kind"
            name="kind"
            [options]="kinds()"
            [editable]="true"
            appendTo="body"
            fluid
            placeholder="volunteer, staff …"
            [(ngModel)]="more.kind"
          />
        </label>
        @for (way of ways; track way.name) {
          <label class="field"
            ><span>{{ way.words }}</span
            ><input pInputText [name]="way.name" maxlength="300" [(ngModel)]="more[way.name]"
          /></label>
        }
        <label class="field" for="person-inside"
          ><span>Stays inside the house</span>
          <p-multiselect
            inputId="person-inside"
            name="inside"
            [options]="ways"
            optionLabel="words"
            optionValue="name"
            placeholder="nothing"
            ariaLabel="Stays inside the house"
            [filter]="false"
            appendTo="body"
            [(ngModel)]="inside"
          />
        </label>
        <label class="field"
          ><span>Credit line</span
          ><input pInputText name="creditLine" maxlength="300" placeholder="as the house says" [(ngModel)]="more.creditLine"
        /></label>
        <label class="field"
          ><span>Copyright notice</span
          ><input
            pInputText
            name="copyrightNotice"
            maxlength="300"
            placeholder="as the house says"
            [(ngModel)]="more.copyrightNotice"
        /></label>
        <label class="field" for="person-terms"
          ><span>Terms</span>
          <p-select
            inputId="person-terms"
            ariaLabel="Terms"
            name="terms"
            [options]="terms()"
            optionLabel="name"
            optionValue="id"
            [showClear]="true"
            placeholder="as the house says"
            appendTo="body"
            fluid
            [(ngModel)]="termsId"
          />
        </label>
        <label class="check" for="person-minor">
          <p-checkbox inputId="person-minor" name="minor" [binary]="true" [(ngModel)]="minor" />
          <span>A minor: not named to whoever only looks</span>
        </label>
        <label class="field"
          ><span>Notes</span><textarea pTextarea name="notes" rows="2" maxlength="2000" [(ngModel)]="more.notes"></textarea>
        </label>
      </details>
      @if (namesake(); as other) {
        <p class="attention">
          There is {{ other.name }} ({{ other.code }}) already. If this is somebody else, their codes tell them apart.
        </p>
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="!name.trim() || !code.trim()">
        {{ correcting() ? 'Save' : 'Add ' + (name.trim() || 'them') }}
      </button>
    </form>
  `,
  styleUrl: './small-form.css',
})
export class ContributorForm implements OnInit {
  readonly known = input.required<readonly Contributor[]>();
  /** Somebody who is corrected; else somebody new is added. */
  readonly correcting = input<Contributor>();
  /** All that is kept of them, where somebody is corrected. */
  readonly detail = input<ContributorDetail>();
  readonly added = output<number>();
  private readonly people = inject(PeopleService);
  protected readonly problem = signal('');
  private readonly credit = inject(CreditService);
  private readonly allTerms = toSignal(this.credit.terms, { initialValue: [] });
  private readonly house = toSignal(this.credit.house);
  protected readonly terms = computed(() => this.allTerms().filter(({ retired }) => !retired));
  protected readonly kinds = computed(() => [...(this.house()?.kinds ?? [])]);
  protected readonly ways = [
    { name: 'email', words: 'E-mail' },
    { name: 'phone', words: 'Phone' },
    { name: 'address', words: 'Address' },
    { name: 'web', words: 'Web' },
  ];
  protected more: Record<string, string> = { ...NOTHING };
  protected inside: ContributorDetail['inside'] = [];
  protected termsId: number | null = null;
  protected minor = false;
  protected name = '';
  protected code = '';

  ngOnInit(): void {
    const one = this.correcting();
    if (one) [this.name, this.code] = [one.name, one.code];
    const detail = this.detail();
    if (!detail) return;
    for (const field of Object.keys(NOTHING)) this.more[field] = lineOf(detail, field);
    [this.inside, this.termsId, this.minor] = [[...detail.inside], detail.termsId, detail.minor];
  }

  /** Another one of the same name: allowed, and said. */
  protected namesake(): Contributor | undefined {
    const name = this.name.trim().toLowerCase();
    return this.known().find((one) => one.name.toLowerCase() === name && one.id !== this.correcting()?.id);
  }

  protected propose(): void {
    if (this.correcting()) return;
    this.code = proposeCode(this.name, new Set(this.known().map((one) => one.code)));
  }

  /** What was said beyond name and code, and only what differs from what was there. */
  private said(): ContributorChange {
    const detail = this.detail();
    const lines = { creditLine: true, copyrightNotice: true } as Readonly<Record<string, boolean>>;
    const changed = Object.entries(this.more).filter(([field, text]) => text.trim() !== lineOf(detail, field));
    return {
      ...Object.fromEntries(changed.map(([field, text]) => [field, lines[field] ? text.trim() || null : text.trim()])),
      ...(JSON.stringify(this.inside) === JSON.stringify(detail?.inside ?? [])
        ? {}
        : { inside: this.inside as ContributorChange['inside'] }),
      ...(this.termsId === (detail?.termsId ?? null) ? {} : { termsId: this.termsId }),
      ...(this.minor === (detail?.minor ?? false) ? {} : { minor: this.minor }),
      ...(detail ? { revision: detail.revision } : {}),
    };
  }

  protected add(): void {
    const { name, code } = this;
    const one = this.correcting();
    const asked = one
      ? this.people
          .changeContributor(one.id, { name, ...(code === one.code ? {} : { code }), ...this.said() })
          .pipe(map(() => one))
      : this.people.addContributor({ name, code, ...this.said() });
    asked.subscribe({
      next: ({ id }) => this.added.emit(id),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
