import { computed, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import type {
  FoundItem,
  IntakeCredit,
  IntakeSummary,
  ItemView,
  JudgeChange,
  MadeOfAnswer,
  PlanView,
  QuestionView,
  ShelfPage,
} from '@tally/contract';
import { MessageService } from 'primeng/api';
import type { TermsStanding } from '@tally/core/credit';
import { auditTime, catchError, concatMap, EMPTY, filter, of, Subject, switchMap, tap, type Observable } from 'rxjs';
import { LiveService } from '../api/live.service';
import { wordsFor } from '../api/problem';
import { type Listed, ShelfService } from '../api/shelf.service';
import { SheetSource } from '../sheet/sheet-source';
import { tilesKept } from '../sheet/tiles';

const PAGE = 120;
/** As much is held of what is found; what is far away is forgotten, and asked for again. */
const MOST_HELD = 720;
const REFRESH_MS = 1_500;
export const NEWEST: Listed = { order: 'taken', descending: true };

interface Held {
  /** Place of the first among everything that is found. */
  readonly from: number;
  readonly items: readonly FoundItem[];
}

const isFound = (item: ItemView): item is FoundItem => 'intake' in item;

/** What answers a question, as far as somebody looks at it: a stretch of it is held, wherever it lies in 22 years. */
@Injectable()
export class ShelfStore extends SheetSource {
  private readonly service = inject(ShelfService);
  private readonly messages = inject(MessageService);

  readonly id = 0;
  override readonly isShelf = true;
  readonly loading = signal(true);
  readonly intake = signal<IntakeSummary | null>(null);
  readonly plan = signal<PlanView | null>(null);
  readonly setAside = signal<readonly ItemView[]>([]);
  readonly isSplit = signal(false);
  readonly foreignBodies = signal<ReadonlySet<string>>(new Set());
  readonly credit = signal<IntakeCredit | null>(null);

  readonly problem = signal('');
  readonly asked = signal('');
  readonly question = signal<QuestionView | null>(null);
  readonly total = signal<number | null>(null);
  readonly bytes = signal(0);
  readonly madeOf = signal<MadeOfAnswer | null>(null);

  private readonly held = signal<Held>({ from: 0, items: [] });
  readonly from = computed(() => this.held().from);
  readonly material = computed<readonly FoundItem[]>(() => this.held().items);
  private readonly made = tilesKept();
  readonly tiles = computed(() => this.made(this.material()));
  readonly settled = this.material;
  readonly settledTiles = this.tiles;

  private readonly wanted = new Subject<number>();
  private readonly more = new Subject<'start' | 'end'>();
  private growing = false;
  private readonly changes = new Subject<Observable<unknown>>();

  constructor() {
    super();
    const failed = (error: unknown) => {
      this.problem.set(wordsFor(error));
      this.loading.set(false);
      this.growing = false;
      return EMPTY;
    };
    this.wanted
      .pipe(
        switchMap((from) => this.service.page(this.asked(), from, PAGE, NEWEST).pipe(catchError(failed))),
        takeUntilDestroyed(),
      )
      .subscribe((page) => this.take(page, { from: page.from, items: page.items }));
    toObservable(this.asked)
      .pipe(
        switchMap((question) => this.service.madeOf(question).pipe(catchError(() => EMPTY))),
        takeUntilDestroyed(),
      )
      .subscribe((made) => this.madeOf.set(made));
    this.more
      .pipe(
        filter(() => !this.growing && !this.loading()),
        concatMap((where) => this.grow(where).pipe(catchError(failed))),
        takeUntilDestroyed(),
      )
      .subscribe();
    // What others do here is seen a moment later.
    inject(LiveService)
      .events.pipe(
        filter(({ type }) => type === 'again' || type === 'items' || type === 'intake' || type === 'shelf' || type === 'people'),
        auditTime(REFRESH_MS),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.refresh());
    this.changes
      .pipe(
        concatMap((request) =>
          request.pipe(
            catchError((error: unknown) => {
              this.warn(wordsFor(error));
              this.refresh();
              return of(null);
            }),
          ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe();
  }

  /** Asks a question from its newest on. */
  ask(question: string): void {
    this.asked.set(question);
    this.loading.set(true);
    this.wanted.next(0);
  }

  /** Goes to a place among everything that is found. */
  goTo(place: number): void {
    this.loading.set(true);
    this.wanted.next(place);
  }

  /** More is wanted at an end of what is held. */
  need(where: 'start' | 'end'): void {
    this.more.next(where);
  }

  override termsOf(item: ItemView): TermsStanding | null {
    if (!isFound(item)) return null;
    const { mark, words } = item.terms;
    return { mark, words, stance: mark === 'no' ? 'not to be shown' : mark === 'ask' ? 'ask first' : 'free for the house' };
  }

  override isAway(item: ItemView): boolean {
    return isFound(item) && item.away !== null;
  }

  override headOf(items: readonly ItemView[]): string | null {
    const found = items.filter(isFound);
    const one = (names: readonly (string | undefined)[], many: string) => {
      const all = [...new Set(names.filter(Boolean))];
      return all.length > 2 ? `${all.length} ${many}` : all.join(' and ');
    };
    const by = one(
      found.map(({ contributor }) => contributor?.name),
      'contributors',
    );
    const covered = one(
      found.map(({ assignment }) => assignment?.title),
      'assignments',
    );
    return [by, covered].filter(Boolean).join(' · ') || null;
  }

  judge(change: JudgeChange): Observable<unknown> {
    return this.service.judge(change);
  }

  /** There is no slip here. */
  say(): void {
    this.warn('What is filed has its slip in the logbook.');
  }

  warn(words: string): void {
    this.messages.add({ severity: 'warn', summary: words, life: 6_000 });
  }

  change(ids: readonly number[], change: (item: ItemView) => ItemView, request: Observable<unknown>): void {
    const mine = new Set(ids);
    this.held.update(({ from, items }) => ({
      from,
      items: items.map((item) => (mine.has(item.id) ? { ...item, ...change(item) } : item)),
    }));
    this.changes.next(request);
  }

  private grow(where: 'start' | 'end'): Observable<unknown> {
    const { from, items } = this.held();
    const total = this.total() ?? 0;
    const at = where === 'end' ? from + items.length : Math.max(0, from - PAGE);
    const count = where === 'end' ? Math.min(PAGE, total - at) : from - at;
    if (count <= 0) return EMPTY;
    this.growing = true;
    const question = this.asked();
    return this.service.page(question, at, count, NEWEST).pipe(
      tap((page) => {
        this.growing = false;
        if (question !== this.asked()) return;
        const known = new Set(this.held().items.map(({ id }) => id));
        const fresh = page.items.filter(({ id }) => !known.has(id));
        if (where === 'end') {
          const all = [...this.held().items, ...fresh];
          const dropped = Math.max(0, all.length - MOST_HELD);
          this.take(page, { from: from + dropped, items: all.slice(dropped) });
        } else this.take(page, { from: at, items: [...fresh, ...this.held().items].slice(0, MOST_HELD) });
      }),
    );
  }

  /** Looks again at what is held, where it lies. */
  private refresh(): void {
    const { from, items } = this.held();
    const question = this.asked();
    this.service
      .page(question, from, Math.min(400, Math.max(PAGE, items.length)), NEWEST)
      .pipe(catchError(() => EMPTY))
      .subscribe((page) => {
        if (question !== this.asked() || this.held().from !== from || this.loading()) return;
        const fresh = new Map(page.items.map((item) => [item.id, item]));
        // Of a long stretch the beginning is looked at; the rest when it is scrolled to.
        const rest = this.held()
          .items.slice(page.items.length)
          .filter(({ id }) => !fresh.has(id));
        this.take(page, { from, items: [...page.items, ...(items.length > page.items.length ? rest : [])] });
      });
    this.service
      .madeOf(question)
      .pipe(catchError(() => EMPTY))
      .subscribe((made) => question === this.asked() && this.madeOf.set(made));
  }

  private take(page: ShelfPage, held: Held): void {
    this.problem.set('');
    this.question.set(page.question);
    this.total.set(page.total);
    this.bytes.set(page.bytes);
    this.held.set(held);
    this.loading.set(false);
  }
}
