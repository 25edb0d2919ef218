import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { IntakeSummary, LogPage, LogQuery } from '@tally/contract';
import { auditTime, Subject, switchMap, catchError, of } from 'rxjs';
import { IntakesService, type LogFilter } from '../api/intakes.service';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';

/** What narrows and orders the log; every part may stand in the page's address. */
export type LogView = Partial<
  Pick<LogQuery, 'words' | 'state' | 'contributor' | 'assignment' | 'from' | 'to' | 'order' | 'descending'>
>;

const PAGE = 100;

/** The log as a long list of which only the looked-at parts are fetched. */
@Injectable()
export class LogStore {
  private readonly service = inject(IntakesService);
  private readonly asked = new Subject<{ first: number; anew: boolean }>();
  private view: LogView = {};
  private first = 0;

  /** One place for each intake found; null until it has been fetched. */
  readonly rows = signal<(IntakeSummary | null)[]>([]);
  readonly total = signal<number | null>(null);
  /** What all of them come to. */
  readonly sums = signal<LogPage['sums'] | null>(null);
  readonly problem = signal('');

  constructor() {
    const destroyed = inject(DestroyRef);
    this.asked
      .pipe(
        auditTime(40),
        switchMap(({ first, anew }) => {
          const offset = Math.floor(first / PAGE) * PAGE;
          return this.service.find({ ...this.filter(), limit: PAGE * 2, offset }).pipe(
            catchError((error: unknown) => {
              this.problem.set(wordsFor(error));
              return of(null);
            }),
            switchMap((page) => of({ page, offset, anew })),
          );
        }),
        takeUntilDestroyed(destroyed),
      )
      .subscribe(({ page, offset, anew }) => {
        if (!page) return;
        this.problem.set('');
        this.total.set(page.total);
        this.sums.set(page.sums);
        this.rows.update((rows) => {
          const next =
            anew || rows.length !== page.total
              ? Array.from({ length: page.total }, (_, i) => (anew ? null : (rows[i] ?? null)))
              : [...rows];
          page.intakes.forEach((intake, index) => (next[offset + index] = intake));
          return next;
        });
      });
    inject(LiveService)
      .whenever('intake', 'desk')
      .pipe(auditTime(500), takeUntilDestroyed(destroyed))
      .subscribe(() => this.asked.next({ first: this.first, anew: false }));
  }

  show(view: LogView): void {
    this.view = view;
    this.asked.next({ first: 0, anew: true });
  }

  /** Fetches the part around a row unless it is there. */
  need(first: number, last: number): void {
    this.first = first;
    const rows = this.rows();
    for (let i = first; i < Math.min(last, rows.length); i++) if (!rows[i]) return this.asked.next({ first: i, anew: false });
  }

  filter(): LogFilter {
    return filled(this.view);
  }
}

/** The parts of a view that say something, as parameters of a request. */
export function filled(view: LogView): LogFilter {
  return Object.fromEntries(Object.entries(view).flatMap(([key, value]) => (isSaid(value) ? [[key, value]] : [])));
}

// The address bar can hold empty parts, whatever the types say.
const isSaid = (value: unknown) => value !== undefined && value !== null && value !== '';
