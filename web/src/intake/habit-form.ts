import { ChangeDetectionStrategy, Component, computed, inject, output, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { AnswerField, Belonging } from '@tally/core/credit';
import { ButtonModule } from 'primeng/button';
import { CheckboxModule } from 'primeng/checkbox';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';
import { IntakeStore } from './intake-store';

/** Keeps what the slip says as a habit, or changes the habit that filled it, in one step. */
@Component({
  selector: 'ts-habit-form',
  imports: [FormsModule, ButtonModule, CheckboxModule, InputTextModule, SelectModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="keep()">
      <p>What the slip says now is said by itself next time: {{ says() || 'it says nothing yet' }}.</p>
      <label class="field" for="habit-of"
        ><span>Belongs to</span>
        <p-select
          inputId="habit-of"
          ariaLabel="Belongs to"
          name="of"
          [options]="belongings()"
          optionLabel="words"
          optionValue="belongs"
          appendTo="body"
          fluid
          [ngModel]="belongs()"
          (ngModelChange)="belongs.set($event)"
        />
      </label>
      <label class="field"
        ><span>Called</span
        ><input pInputText name="name" maxlength="80" [ngModel]="name() ?? proposed()" (ngModelChange)="name.set($event)"
      /></label>
      <span class="tick"
        ><p-checkbox inputId="habit-none" name="none" [binary]="true" [(ngModel)]="takeNone" /><label for="habit-none"
          >take nothing at first</label
        ></span
      >
      <span class="tick"
        ><p-checkbox inputId="habit-file" name="file" [binary]="true" [(ngModel)]="fileByItself" /><label for="habit-file"
          >file by itself</label
        ></span
      >
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="!says()">{{ known() ? 'Change the habit' : 'Keep this as a habit' }}</button>
      @if (known()) {
        <p class="quiet">“{{ known()!.name }}” is there already: it says this from now on.</p>
      }
    </form>
  `,
  styles: `
    form {
      display: grid;
      gap: 10px;
      width: 340px;
      font-size: 15px;
      font-weight: 400;
    }
    .tick {
      display: flex;
      gap: 8px;
      align-items: center;
      min-height: 28px;
    }
  `,
})
export class HabitForm {
  readonly done = output();
  private readonly store = inject(IntakeStore);
  private readonly service = inject(CreditService);
  private readonly habits = toSignal(this.service.habits, { initialValue: [] });
  protected readonly problem = signal('');
  protected readonly name = signal<string | null>(null);
  protected readonly belongs = signal<Belonging>('contributor');
  protected takeNone = false;
  protected fileByItself = false;

  protected readonly belongings = computed(() => {
    const intake = this.store.intake();
    return [
      ...(intake?.contributor
        ? [{ belongs: 'contributor', of: String(intake.contributor.id), words: intake.contributor.name }]
        : []),
      ...(intake?.assignment
        ? [{ belongs: 'assignment', of: String(intake.assignment.id), words: intake.assignment.title }]
        : []),
      // A card without a label is not known again.
      ...(intake?.card.label ? [{ belongs: 'card', of: String(intake.card.id), words: `card ${intake.card.label}` }] : []),
      ...(intake?.reader?.reader
        ? [{ belongs: 'reader', of: intake.reader.reader, words: `reader ${intake.reader.reader}` }]
        : []),
      { belongs: 'house', of: '', words: 'the house: every slip' },
    ];
  });
  private readonly of = computed(
    () => this.belongings().find(({ belongs }) => belongs === this.belongs()) ?? this.belongings()[0]!,
  );
  /** One that belongs to the same: it is changed. */
  protected readonly known = computed(() =>
    this.habits().find((habit) => !habit.retired && habit.belongs === this.of().belongs && habit.of === this.of().of),
  );
  protected readonly proposed = computed(() => this.known()?.name ?? `As ${this.of().words}`);

  /** What the slip says, without what another habit answers: that one goes on answering it. */
  private readonly answers = computed(() => {
    const [intake, context] = [this.store.intake(), this.store.credit()];
    const slip = context?.slip;
    const belongs = this.of().belongs;
    const own = (field: AnswerField) => [undefined, this.known()?.id].includes(context?.answeredBy[field]?.id);
    return {
      ...(intake?.contributor && !['contributor', 'house'].includes(belongs) && own('contributorId')
        ? { contributorId: intake.contributor.id }
        : {}),
      ...(intake?.assignment && !['assignment', 'house'].includes(belongs) && own('assignmentId')
        ? { assignmentId: intake.assignment.id }
        : {}),
      ...(slip?.words.length && own('wordIds') ? { wordIds: slip.words.map(({ id }) => id) } : {}),
      ...(slip?.locationId && own('locationId') ? { locationId: slip.locationId } : {}),
      ...(slip?.termsId && own('termsId') ? { termsId: slip.termsId } : {}),
      ...(slip?.creditLine && own('creditLine') ? { creditLine: slip.creditLine } : {}),
      ...(slip?.copyrightNotice && own('copyrightNotice') ? { copyrightNotice: slip.copyrightNotice } : {}),
    };
  });

  protected says(): string {
    const [intake, context] = [this.store.intake(), this.store.credit()];
    const { contributorId, assignmentId, wordIds, locationId, termsId, creditLine, copyrightNotice } = this.answers();
    return [
      contributorId && intake?.contributor?.name,
      assignmentId && intake?.assignment?.title,
      creditLine,
      copyrightNotice,
      termsId && context?.terms.find(({ id }) => id === termsId)?.name,
      wordIds && context?.slip.words.map(({ text }) => text).join(', '),
      locationId && context?.locations.find(({ id }) => id === locationId)?.name,
      this.takeNone && 'take nothing',
      this.fileByItself && 'file by itself',
    ]
      .filter(Boolean)
      .join('; ');
  }

  protected keep(): void {
    const { belongs, of } = this.of();
    const answers = {
      ...this.answers(),
      ...(this.takeNone ? { take: 'none' } : {}),
      ...(this.fileByItself ? { fileByItself: true } : {}),
    };
    const name = (this.name() ?? this.proposed()).trim();
    const known = this.known();
    const asked = known
      ? this.service.correct('habits', known.id, { name, answers, revision: known.revision })
      : this.service.add('habits', { name, belongs, of, answers });
    asked.subscribe({
      next: () => this.done.emit(),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}
