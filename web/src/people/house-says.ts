import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { CREDITED_KINDS, type CreditedKind, WRITING_BY_ITSELF, type WritingOf, WRITINGS } from '@tally/core/fields';
import { partsOfTyped } from '@tally/core/words';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';
import { May } from '../shared/may';

const HOW_WORDS: Readonly<Record<WritingOf, string>> = {
  ...{ inside: 'in the files', beside: 'in sidecars', 'record only': 'in the records only' },
};
const KIND_WORDS: Readonly<Record<CreditedKind, string>> = { photo: 'Photos', raw: 'Raw files', video: 'Videos', sound: 'Sound' };
const CREDITED = CREDITED_KINDS.map((name) => ({
  name,
  words: KIND_WORDS[name],
  options: ([...(name === 'photo' ? (['inside'] as const) : []), 'beside', 'record only'] as const).map((value) => ({
    value,
    words:
      value === 'inside'
        ? 'in the file (JPEG), else beside it'
        : value === 'beside'
          ? 'in a sidecar beside it'
          : 'in the records only',
  })),
}));

/** What the house says of every picture unless somebody nearer does: a sentence, and a form behind it. */
@Component({
  selector: 'ts-house-says',
  imports: [May, FormsModule, ButtonModule, DialogModule, InputTextModule, SelectModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (house(); as says) {
      <p>
        Unless item, slip, assignment or contributor says otherwise: credited <code>{{ says.creditLine ?? 'nobody' }}</code>,
        <code>{{ says.copyrightNotice ?? 'no notice' }}</code>, {{ termsName() }}. Contributors are
        {{ says.kinds.join(', ') || 'of no kinds' }}. Credit is written {{ writingWords() }}.
        <button type="button" class="plain" tsMay="house" (click)="open()">Change what the house says…</button>
      </p>
      <p-dialog
        header="What the house says"
        closeAriaLabel="Close"
        [modal]="true"
        [visible]="saying()"
        (visibleChange)="saying.set(false)"
        [style]="{ width: '480px' }"
      >
        <form (ngSubmit)="save()">
          <label class="field"
            ><span>Credit line</span><input pInputText name="credit" maxlength="300" [(ngModel)]="creditLine"
          /></label>
          <label class="field"
            ><span>Copyright notice</span><input pInputText name="copyright" maxlength="300" [(ngModel)]="copyrightNotice"
          /></label>
          <p class="quiet">
            Fields: {{ '{contributor.name}, {contributor.given}, {contributor.family}, {house}, {year}, {assignment.title}' }}
          </p>
          <label class="field" for="house-terms"
            ><span>Terms</span>
            <p-select
              inputId="house-terms"
              ariaLabel="Terms"
              name="terms"
              [options]="terms()"
              optionLabel="name"
              optionValue="id"
              [showClear]="true"
              placeholder="nothing agreed: ask first"
              appendTo="body"
              fluid
              [(ngModel)]="termsId"
            />
          </label>
          <label class="field"
            ><span>Kinds of contributors, with commas</span><input pInputText name="kinds" maxlength="400" [(ngModel)]="kinds"
          /></label>
          <fieldset>
            <legend>Where credit is written</legend>
            @for (kind of credited; track kind.name) {
              <label class="kind" [for]="'writing-' + kind.name"
                ><span>{{ kind.words }}</span>
                <p-select
                  [inputId]="'writing-' + kind.name"
                  [ariaLabel]="kind.words"
                  [name]="'writing-' + kind.name"
                  [options]="kind.options"
                  optionLabel="words"
                  optionValue="value"
                  appendTo="body"
                  fluid
                  [(ngModel)]="writing[kind.name]"
                />
              </label>
            }
          </fieldset>
          @if (problem()) {
            <p class="attention" role="alert">{{ problem() }}</p>
          }
          <button pButton type="submit">Save</button>
        </form>
      </p-dialog>
    }
  `,
  styles: `
    p {
      padding: 10px 0;
    }
    .plain {
      min-height: 24px;
      border: 0;
      background: none;
      padding: 0;
      color: var(--reed);
      font: inherit;
      text-decoration: underline;
      cursor: pointer;
    }
    form {
      display: grid;
      gap: 12px;
    }
    fieldset {
      display: grid;
      gap: 6px;
      margin: 0;
      padding: 8px 12px 12px;
      border: 1px solid var(--line);
      border-radius: 6px;
    }
    .kind {
      display: grid;
      grid-template-columns: 110px 1fr;
      gap: 12px;
      align-items: center;
    }
  `,
})
export class HouseSays {
  private readonly service = inject(CreditService);
  private readonly messages = inject(MessageService);
  protected readonly house = toSignal(this.service.house);
  private readonly allTerms = toSignal(this.service.terms, { initialValue: [] });
  protected readonly terms = computed(() => this.allTerms().filter(({ retired }) => !retired));
  protected readonly termsName = computed(
    () =>
      this.allTerms()
        .find(({ id }) => id === this.house()?.termsId)
        ?.name.toLowerCase() ?? 'nothing agreed: ask first',
  );
  protected readonly saying = signal(false);
  protected readonly problem = signal('');
  protected creditLine = '';
  protected copyrightNotice = '';
  protected termsId: number | null = null;
  protected kinds = '';
  protected writing: Record<CreditedKind, WritingOf> = { ...WRITING_BY_ITSELF };
  protected readonly credited = CREDITED;
  /** `in the files of photos, in sidecars of raw files, videos and sound` */
  protected readonly writingWords = computed(() => {
    const says = this.house()?.writing ?? {};
    return WRITINGS.flatMap((how) => {
      const kinds = CREDITED.filter(({ name }) => (says[name] ?? WRITING_BY_ITSELF[name]) === how);
      return kinds.length ? [`${HOW_WORDS[how]} of ${kinds.map(({ words }) => words.toLowerCase()).join(', ')}`] : [];
    }).join('; ');
  });

  protected open(): void {
    const says = this.house();
    if (!says) return;
    [this.creditLine, this.copyrightNotice] = [says.creditLine ?? '', says.copyrightNotice ?? ''];
    [this.termsId, this.kinds] = [says.termsId, says.kinds.join(', ')];
    this.writing = { ...WRITING_BY_ITSELF, ...says.writing };
    this.problem.set('');
    this.saying.set(true);
  }

  protected save(): void {
    const change = {
      ...{ creditLine: this.creditLine.trim() || null, copyrightNotice: this.copyrightNotice.trim() || null },
      ...{ termsId: this.termsId, kinds: partsOfTyped(this.kinds), revision: this.house()?.revision },
      writing: this.writing,
    };
    this.service.changeHouse(change).subscribe({
      next: () => {
        this.saying.set(false);
        this.messages.add({ severity: 'success', summary: 'The house says so from now on.', life: 5000 });
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
