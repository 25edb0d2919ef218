import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { WrittenView } from '@tally/contract';
import { catchError, combineLatest, debounceTime, filter, of, startWith, switchMap } from 'rxjs';
import { CreditService } from '../api/credit.service';
import { LiveService, ofIntake } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { SheetSource } from '../sheet/sheet-source';

type Question = WrittenView['questions'][number];

/** What stands in the file and beside it, where, and what will; where the two say different things, somebody answers. */
@Component({
  selector: 'ts-written',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (written(); as says) {
      <h3>In the file</h3>
      <p>{{ placed() }}</p>
      @for (fault of says.faults; track fault) {
        <p class="attention">{{ fault }}</p>
      }
      @for (asked of says.questions; track asked.field) {
        <div class="asked" [class.open]="asked.standing === null">
          <b>{{ asked.name }}</b>
          <p>
            @if (asked.theirs) {
              The file came with “{{ asked.theirs }}”, the house says “{{ asked.ours }}”.
            } @else {
              The file came with something else; the house says “{{ asked.ours }}”.
            }
          </p>
          <span role="group" [attr.aria-label]="asked.name + ': which stands'">
            <button type="button" [attr.aria-pressed]="asked.standing === 'theirs'" (click)="answer(asked, 'theirs')">
              Keep the file’s
            </button>
            <button type="button" [attr.aria-pressed]="asked.standing === 'ours'" (click)="answer(asked, 'ours')">
              Write ours
            </button>
          </span>
        </div>
      }
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <dl>
        @for (row of says.rows; track row.field) {
          <dt>{{ row.name }}</dt>
          <dd>
            {{ row.stands }}
            @if (row.where.length) {
              <span class="quiet">{{ row.where.join(', ') }}</span>
            }
            @if (row.will !== null) {
              <span class="will">{{ row.stands ? 'will be ' : '' }}{{ row.will }}</span>
            }
          </dd>
        }
      </dl>
    }
  `,
  styles: `
    h3 {
      margin: 14px 0 2px;
      font-size: 15px;
    }
    p {
      margin: 0 0 6px;
    }
    dl {
      display: grid;
      grid-template-columns: minmax(90px, auto) 1fr;
      gap: 4px 12px;
      margin: 8px 0 0;
    }
    dt {
      color: var(--quiet);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    .quiet {
      font-size: 12px;
    }
    .will {
      display: block;
      color: var(--reed);
    }
    .asked {
      margin: 6px 0;
      padding: 8px 10px;
      border: 1px solid var(--line);
      border-radius: 6px;
    }
    .asked.open {
      background: var(--straw);
      color: var(--ochre);
    }
    button {
      min-height: 28px;
      margin-right: 6px;
      padding: 0 10px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--paper);
      color: var(--ink);
      font: inherit;
      cursor: pointer;
    }
    [aria-pressed='true'] {
      background: var(--ink);
      color: var(--paper);
    }
  `,
})
export class Written {
  private readonly service = inject(CreditService);
  readonly itemId = input.required<number>();

  private readonly asked = signal(0);
  /** The files follow what is said by and by: each time they have, it is looked at again. */
  private readonly writtenSince = inject(LiveService).events.pipe(
    ofIntake(inject(SheetSource).id),
    filter(({ type }) => type === 'written' || type === 'again'),
    startWith(null),
  );
  protected readonly problem = signal('');
  protected readonly written = toSignal(
    combineLatest([toObservable(this.itemId), toObservable(this.asked), this.writtenSince]).pipe(
      debounceTime(150),
      switchMap(([id]) => this.service.written(id).pipe(catchError(() => of(null)))),
    ),
    { initialValue: null },
  );

  /** Where it stands, in a sentence. */
  protected readonly placed = computed(() => {
    const says = this.written();
    if (!says) return '';
    const will = HOW_WORDS[says.how];
    if (!says.places.length) return `Not filed yet: its credit will be written ${will}.`;
    const behind = says.places.filter((place) => place.behind).map(({ place }) => place);
    const lags = behind.length ? ` ${behind.join(' and ')} ${behind.length === 1 ? 'lags' : 'lag'} behind and will follow.` : '';
    // Beside it because it cannot be inside; in the records only because it cannot be beside it either.
    const where = says.places.some(({ how }) => how === 'none') ? HOW_WORDS['record only'] : HOW_WORDS.beside;
    if (says.reason) return `Its credit is written ${where}: ${says.reason}.${lags}`;
    return `Its credit is written ${will}.${lags}`;
  });

  protected answer({ field }: Question, whose: 'ours' | 'theirs'): void {
    this.service.change({ itemIds: [this.itemId()], standing: { [field]: whose } }).subscribe({
      next: () => {
        this.problem.set('');
        this.asked.update((times) => times + 1);
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }
}

const HOW_WORDS: Readonly<Record<WrittenView['how'], string>> = {
  ...{ inside: 'in the file', beside: 'in a sidecar beside it', 'record only': 'in the house’s records only' },
};
