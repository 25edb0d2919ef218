import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { Assignment } from '@tally/contract';
import { mondayOf, weeksOf } from '@tally/core/trays';
import { switchMap } from 'rxjs';
import { PeopleService } from '../api/people.service';
import { SessionService } from '../api/session.service';
import { daysOf, missingOf } from './assignment-words';

const WEEKS = 8;
const WEEK_MS = 7 * 86_400_000;
/** More squares than this say less than a number. */
const MOST_SQUARES = 8;

/** Weeks as lines, assignments as tapes along their days, a small square for each card expected, filled when it came. */
@Component({
  selector: 'ts-calendar',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header>
      <button type="button" (click)="go(-4)" aria-label="Four weeks back">
        <i class="pi pi-arrow-up" aria-hidden="true"></i>
      </button>
      <button type="button" (click)="go(4)" aria-label="Four weeks on">
        <i class="pi pi-arrow-down" aria-hidden="true"></i>
      </button>
      <button type="button" (click)="from.set(start())">Around today</button>
      <span class="quiet">{{ span() }}</span>
      <span class="key"
        ><span class="square full"></span> card came <span class="square"></span> still expected
        <span class="late-key"></span> over, and something is missing</span
      >
    </header>
    <div class="weeks" role="list" aria-label="Assignments by week" tabindex="0">
      <div class="names" aria-hidden="true">
        <span>Week of</span>
        @for (name of names; track name) {
          <span>{{ name }}</span>
        }
      </div>
      @for (week of weeks(); track week.monday) {
        <div class="week" role="listitem" [style.min-height.px]="36 + week.lines * 34">
          <span class="monday">{{ dayName(week.monday) }}</span>
          @for (day of week.days; track day; let i = $index) {
            <span class="day" [style.grid-column]="i + 2" [class.today]="day === today" [class.past]="day < today">{{
              +day.slice(8)
            }}</span>
          }
          @for (tape of week.tapes; track tape.of.id) {
            <a
              class="tape"
              [routerLink]="['/people/assignment', tape.of.id]"
              [class.before]="tape.before"
              [class.after]="tape.after"
              [class.late]="isLate(tape.of)"
              [style.grid-column]="tape.first + 2 + ' / span ' + tape.days"
              [style.top.px]="26 + tape.line * 34"
              [title]="words(tape.of)"
              [attr.aria-label]="words(tape.of)"
            >
              <span class="title">{{ tape.of.title }}</span>
              <span class="squares" aria-hidden="true">
                @for (full of squares(tape.of); track $index) {
                  <span class="square" [class.full]="full"></span>
                }
                @if (tape.of.expectedCards > most) {
                  {{ tape.of.receivedCards }} of {{ tape.of.expectedCards }}
                }
              </span>
            </a>
          }
        </div>
      }
    </div>
  `,
  styleUrl: './calendar-of.css',
})
export class CalendarOf {
  readonly sought = input('');
  private readonly people = inject(PeopleService);
  protected readonly today = inject(SessionService).today();
  protected readonly start = () => shifted(mondayOf(this.today), -3);
  protected readonly from = signal(this.start());
  protected readonly names = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
  protected readonly most = MOST_SQUARES;

  /** Those of the weeks in view. */
  private readonly inView = toSignal(
    toObservable(this.from).pipe(switchMap((from) => this.people.around({ from, to: shifted(from, WEEKS), ids: [] }))),
    { initialValue: [] as Assignment[] },
  );

  protected readonly weeks = computed(() => {
    const words = this.sought().toLowerCase().split(/\s+/).filter(Boolean);
    const text = ({ title, slug, code, place }: Assignment) => `${title} ${slug} ${code} ${place}`.toLowerCase();
    const shown = this.inView().filter((one) => words.every((word) => text(one).includes(word)));
    return weeksOf(shown, this.from(), WEEKS).map((week) => ({
      ...week,
      lines: week.tapes.reduce((most, { line }) => Math.max(most, line + 1), 0),
    }));
  });
  protected readonly span = computed(() => {
    const last = this.weeks().at(-1)!.days[6]!;
    return LONG.formatRange(new Date(this.from()), new Date(last));
  });

  protected go(weeks: number): void {
    this.from.update((from) => shifted(from, weeks));
  }

  protected squares({ expectedCards, receivedCards }: Assignment): boolean[] {
    return expectedCards > MOST_SQUARES ? [] : Array.from({ length: expectedCards }, (_, i) => i < receivedCards);
  }

  protected isLate(one: Assignment): boolean {
    const missing = one.expected.some(({ handedIn }) => !handedIn) || one.receivedCards < one.expectedCards;
    return one.to < this.today && missing;
  }

  protected words(one: Assignment): string {
    return [`${one.title}, ${daysOf(one)}`, one.place, missingOf(one) && `missing: ${missingOf(one)}`]
      .filter(Boolean)
      .join(' · ');
  }

  protected dayName(day: string): string {
    return SHORT.format(new Date(day));
  }
}

const SHORT = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short' });
const LONG = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'long', year: 'numeric' });
const shifted = (day: string, weeks: number) => new Date(Date.parse(day) + weeks * WEEK_MS).toISOString().slice(0, 10);
