import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { IntakeSummary } from '@tally/contract';
import { catchError, of, switchMap } from 'rxjs';
import { IntakesService, type LogFilter } from '../api/intakes.service';
import { LiveService } from '../api/live.service';
import { CountPipe, HouseTimePipe } from '../shared/amounts';
import { StateMark } from '../shared/state-mark';
import { Stick } from '../stick/stick';

const SHOWN = 100;

/** What came in of somebody, or for something: by month, each intake with its stick. */
@Component({
  selector: 'ts-came-in',
  imports: [RouterLink, Stick, StateMark, CountPipe, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>
      What came in
      @if (page(); as found) {
        <span class="quiet">{{ found.total | count: 'intake' }}, {{ found.sums.filed | count: 'item' }} filed</span>
      }
    </h2>
    @for (month of months(); track month.name) {
      <h3>
        {{ month.name }} <span class="quiet">{{ month.items | count: 'item' }}</span>
      </h3>
      <ul>
        @for (intake of month.intakes; track intake.id) {
          <li>
            <a class="mono" [routerLink]="['/logbook', intake.id]">{{ intake.number }}</a>
            <span class="quiet">{{ intake.receivedAt | houseTime: 'day' }}</span>
            <span class="what">{{ other(intake) }}</span>
            <ts-stick [runs]="intake.stick" />
            <ts-state [state]="intake.state" />
          </li>
        }
      </ul>
    } @empty {
      <p class="empty">{{ page() ? 'Nothing yet.' : 'Fetching the log' }}</p>
    }
    @if ((page()?.total ?? 0) > shown) {
      <p>
        <a routerLink="/logbook" [queryParams]="filter()">All {{ page()!.total }} in the logbook</a>
      </p>
    }
  `,
  styles: `
    :host {
      display: block;
    }
    h3 {
      margin: 14px 0 2px;
      font-size: 15px;
    }
    li {
      display: grid;
      grid-template-columns: 96px 104px minmax(0, 1fr) minmax(80px, 220px) 130px;
      gap: 12px;
      align-items: center;
      min-height: 36px;
      border-bottom: 1px solid var(--line);
    }
    .what {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    ts-stick {
      height: 16px;
    }
    @media (max-width: 700px) {
      li {
        grid-template-columns: 96px minmax(0, 1fr) 110px;
      }
      li .quiet,
      li ts-stick {
        display: none;
      }
    }
  `,
})
export class CameIn {
  private readonly service = inject(IntakesService);
  private readonly live = inject(LiveService);
  /** What narrows the log: a contributor's code, or an assignment's short name. */
  readonly filter = input.required<LogFilter>();
  protected readonly shown = SHOWN;

  protected readonly page = toSignal(
    toObservable(this.filter).pipe(
      switchMap((filter) => this.live.whenever('intake', 'desk').pipe(switchMap(() => this.find(filter)))),
    ),
  );

  protected readonly months = computed(() => {
    const months = new Map<string, IntakeSummary[]>();
    for (const intake of this.page()?.intakes ?? []) {
      const name = MONTH.format(new Date(intake.receivedAt));
      months.set(name, [...(months.get(name) ?? []), intake]);
    }
    return [...months].map(([name, intakes]) => ({
      ...{ name, intakes, items: intakes.reduce((sum, { filed }) => sum + filed, 0) },
    }));
  });

  /** What an intake is about besides what the page is about. */
  protected other({ parts, card, ...slip }: IntakeSummary): string {
    const all = parts.length ? parts : [slip];
    const names = all.flatMap(
      ({ contributor, assignment }) => ('contributor' in this.filter() ? assignment?.title : contributor?.name) ?? [],
    );
    return [...new Set(names)].join(', ') || (card.label ?? card.volume);
  }

  private find(filter: LogFilter) {
    return this.service.find({ ...filter, limit: SHOWN }).pipe(catchError(() => of(undefined)));
  }
}

const MONTH = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric' });
