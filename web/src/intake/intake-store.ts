import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed, toObservable, toSignal } from '@angular/core/rxjs-interop';
import { CreditService } from '../api/credit.service';
import type {
  IntakeCredit,
  FilingWish,
  BodyView,
  EventView,
  IntakeSummary,
  ItemView,
  JudgeChange,
  PlanView,
  Progress,
  SlipChange,
} from '@tally/contract';
import { notchesOf } from '@tally/core/copies';
import { type AsideReason, type ItemStanding, standingOfItem } from '@tally/core/life';
import { planDifference, type PlanChange } from '@tally/core/plan';
import { MessageService } from 'primeng/api';
import {
  audit,
  catchError,
  concatMap,
  debounceTime,
  filter,
  finalize,
  map,
  of,
  Subject,
  switchMap,
  tap,
  timeout,
  timer,
  type Observable,
} from 'rxjs';
import { DeskService } from '../api/desk.service';
import { IntakesService } from '../api/intakes.service';
import { LiveService, ofIntake } from '../api/live.service';
import { isNotFound, wordsFor } from '../api/problem';
import type { Notch } from '../stick/draw';
import { SheetSource } from '../sheet/sheet-source';
import { tilesKept, type Tile } from '../sheet/tiles';

/** A drive that does not answer must not keep *File* waiting for ever. */
const PLAN_WITHIN_MS = 30_000;

const WRITTEN_REST_MS = 400;
/** While a card is read, its plan is made again after this at the earliest. */
const LEAST_WHILE_READING_MS = 1_500;

const LARGE = 1_500;
/** So long after a change it is summed up: by then it has been drawn. */
const SETTLED_AFTER_MS = 60;

/** One intake as the page sees it, kept in step with the server. */
@Injectable()
export class IntakeStore extends SheetSource {
  private readonly service = inject(IntakesService);
  private readonly crediting = inject(CreditService);
  private readonly messages = inject(MessageService);
  private readonly live = inject(LiveService);
  private readonly destroyed = inject(DestroyRef);

  readonly intake = signal<IntakeSummary | null>(null);
  readonly items = signal<readonly ItemView[]>([]);
  readonly plan = signal<PlanView | null>(null);
  readonly credit = signal<IntakeCredit | null>(null);
  readonly events = signal<readonly EventView[]>([]);
  readonly progress = signal<Progress | null>(null);
  /** What differs from the plan that was on screen, waiting for a yes. */
  readonly changes = signal<readonly PlanChange[] | null>(null);
  readonly loading = signal(true);
  readonly problem = signal('');
  /** Is there no such intake? */
  readonly notThere = signal(false);
  readonly busy = signal(false);
  /** Is the card being let go? */
  readonly lettingGo = signal(false);
  /** Is the plan on screen older than what was said since? */
  readonly planning = signal(true);

  private readonly replan = new Subject<void>();
  private readonly reading = new Subject<void>();
  id = 0;
  private version = 0;
  private readonly requests = new Subject<Observable<unknown>>();
  private changesMade = 0;
  private changesUnderway = 0;
  /** Words of the slip that are on their way. */
  private saying = 0;
  /** How often a plan was wanted: one that was asked for before the last time is not the one. */
  private plansWanted = 0;
  /** Has anything been changed that moves the plan, since it was asked for last? */
  private planMoved = false;
  /** Somebody pressed *File* while the plan was being made; and whether the one on screen then was complete. */
  private readonly asked = signal<{ readonly complete: boolean } | null>(null);
  /** Does *File* wait for the plan? */
  readonly waitsToFile = computed(() => this.asked() !== null);

  /** The places a card is filed to, in the order of the stick's rows. */
  readonly places = toSignal(
    inject(DeskService)
      .places()
      .pipe(catchError(() => of([]))),
    { initialValue: [] },
  );

  /** Where each item stands among them: made anew only when others are there. */
  private readonly indexes = computed<Indexes>(() => new Map(this.ids().map((id, index) => [id, index])));
  private readonly ids = computed(() => this.items().map(({ id }) => id), {
    equal: (a, b) => a.length === b.length && a.every((id, index) => id === b[index]),
  });

  readonly material = computed(() => this.items().filter((item) => item.setAside === null));
  readonly setAside = computed(() => this.items().filter((item) => item.setAside !== null));

  /** From so many items on they are summed up a moment after they changed. */
  private readonly isLarge = computed(() => this.items().length > LARGE);
  private readonly later = signal<readonly ItemView[]>([]);
  private readonly settledItems = computed(() => (this.isLarge() ? this.later() : this.items()));
  readonly settled = computed(() => this.settledItems().filter((item) => item.setAside === null));
  private readonly madeSettledTiles = tilesKept();
  readonly settledTiles = computed<Tile[]>(() => this.madeSettledTiles(this.settledItems()));

  private readonly madeTiles = tilesKept();
  readonly tiles = computed<Tile[]>(() => this.madeTiles(this.items()));

  /** Has anybody said that some items belong elsewhere than the slip says? */
  readonly isSplit = computed(() => this.settled().some((item) => item.assignment ?? item.contributor));
  readonly bodies = signal<readonly BodyView[]>([]);
  /** Serial numbers of cameras that are known to be somebody else's than the slip's contributor's. */
  readonly foreignBodies = computed<ReadonlySet<string>>(() => {
    const who = this.intake()?.contributor?.id;
    const others = who === undefined ? [] : this.bodies().filter(({ owner }) => owner && owner.id !== who);
    return new Set(others.flatMap(({ serial }) => serial ?? []));
  });

  readonly notches = computed<Notch[]>(() => {
    const places = this.places().map((place) => place.id);
    const material = this.settled();
    const largest = Math.max(1, ...material.map((item) => item.bytes));
    return material.map((item) => {
      // Width by size, softened: a clip is wider than a picture, but a picture still shows.
      const weight = 0.35 + Math.sqrt(item.bytes / largest);
      return { weight, ...notchesOf(item, places) };
    });
  });

  readonly counts = computed(() => {
    const material = this.settled();
    const card = this.intake() ?? { tray: 'on the desk' as const };
    const stands = new Map(material.map((item) => [item, standingOfItem(item, card)]));
    const those = (...which: readonly ItemStanding[]) => material.filter((item) => which.includes(stands.get(item)!));
    const taken = those('taken');
    const filed = those('filed');
    const promised = those('filed', 'being filed', 'not filed');
    const bytesOf = (items: readonly ItemView[]) => items.reduce((sum, item) => sum + item.bytes, 0);
    return {
      taken: taken.length,
      takenBytes: bytesOf(taken),
      already: those('already filed').length,
      comparing: those('being compared').length,
      left: those('left').length,
      gone: those('left and gone').length,
      out: those('left and out').length,
      aside: those('set aside').length,
      filed: filed.length,
      filedBytes: bytesOf(filed),
      promised: promised.length,
      promisedBytes: bytesOf(promised),
      odd: material.filter((item) => item.remark ?? item.problem).length,
      twins: material.filter((item) => item.twinOf).length,
      namesakes: material.filter((item) => item.namesake && !item.filedAs).length,
    };
  });

  /** Files of this intake that are on its card still, as far as anybody knows. */
  readonly onTheCard = computed(() => this.settled().filter((item) => item.goneAt === null).length);

  /** Places that still wait for copies of what is filed. */
  readonly lagging = computed(() =>
    this.places().filter(({ id }) =>
      this.settledItems().some((item) => item.copies.some((copy) => copy.place === id && copy.state === 'waiting')),
    ),
  );

  /** Items whose filing did not come to a whole copy anywhere, though their card is here: what can be set aside. */
  readonly stuck = computed(() =>
    this.intake()?.state === 'needs attention'
      ? this.material().filter((item) => standingOfItem(item, this.intake()!) === 'not filed')
      : [],
  );

  /** Is there a copy that differs, is missing or could not be made? */
  readonly troubled = computed(() =>
    this.settledItems().some((item) => item.copies.some(({ state }) => ['differs', 'missing', 'unreadable'].includes(state))),
  );

  constructor() {
    super();
    // Changes that come quickly are summed up together, but not for ever later.
    toObservable(this.items)
      .pipe(
        audit(() => timer(SETTLED_AFTER_MS)),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.later.set(this.items()));
  }

  open(id: number): void {
    this.id = id;
    this.loading.set(true);
    this.loadIntake();
    this.loadItems();
    this.requests
      .pipe(
        concatMap((request) => request),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe();
    this.replan
      .pipe(
        debounceTime(60),
        switchMap(() => {
          // Asked for while something that was said is on its way, it may not know of it.
          const wanted = this.changesUnderway + this.saying === 0 ? this.plansWanted : null;
          const plan = this.intake()?.state === 'filing' ? of(null) : this.loadPlan();
          return plan.pipe(map((made) => ({ made, wanted })));
        }),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe(({ made, wanted }) => {
        if (made) this.plan.set(made);
        // What was said since it was asked for is not in it: another one is made, once the server knows of that.
        if (wanted !== this.plansWanted) {
          if (this.changesUnderway + this.saying > 0) this.planMoved = true;
          else this.planAgain();
          return;
        }
        this.planning.set(false);
        if (this.asked()) this.askToFile();
      });
    this.reading
      .pipe(
        audit(() => timer(Math.max(LEAST_WHILE_READING_MS, this.items().length / 2))),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe(() => this.replan.next());
    const mine = this.live.events.pipe(ofIntake(id));
    mine.pipe(takeUntilDestroyed(this.destroyed)).subscribe((event) => {
      if (event.type === 'progress') this.takeProgress(event.progress);
      if (event.type === 'intake' || event.type === 'again') this.loadIntake();
    });
    // Each folder and place says so: what lags behind is asked for once they rest.
    mine
      .pipe(
        filter((event) => event.type === 'written'),
        debounceTime(WRITTEN_REST_MS),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe(() => this.loadCredit());
    mine
      .pipe(
        filter((event) => event.type === 'items' || event.type === 'intake' || event.type === 'again'),
        // A long list takes its time to lay out: the longer it is, the less often.
        audit(() => timer(Math.max(200, this.items().length / 8))),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe(() => this.loadItems());
    this.planAgain();
  }

  judge(change: JudgeChange): Observable<unknown> {
    return this.service.judge(this.id, change);
  }

  say(change: SlipChange): void {
    this.planning.set(true);
    this.plansWanted++;
    this.saying++;
    this.service.say(this.id, change).subscribe({
      next: (intake) => {
        this.saying--;
        this.takeIntake(intake);
      },
      error: (error: unknown) => {
        this.saying--;
        this.complain(error);
        this.planAgain();
      },
    });
  }

  /**
   * Shows a change of items at once; the server follows, one request after the other, and puts it right if it refuses.
   * @param plans whether the change moves anything in the plan.
   */
  change(ids: readonly number[], change: (item: ItemView) => ItemView, request: Observable<unknown>, plans: boolean): void {
    const chosen = new Set(ids);
    if (plans) {
      this.planning.set(true);
      this.plansWanted++;
      this.planMoved = true;
    }
    this.items.update((items) => patched(items, this.indexes(), chosen, change));
    this.changesMade++;
    this.changesUnderway++;
    this.requests.next(
      request.pipe(
        tap((answer) => {
          if (isSummary(answer)) this.takeIntake(answer);
        }),
        catchError((error: unknown) => {
          this.complain(error);
          // What was shown is not so: look at everything again.
          this.version = 0;
          return of(null);
        }),
        finalize(() => {
          this.changesUnderway--;
          if (this.changesUnderway > 0) return;
          this.loadItems();
          // What was shown at once is in the plan only when it is made again, whatever the server tells of it.
          if (this.planMoved) this.planAgain();
          this.planMoved = false;
        }),
      ),
    );
  }

  /** Files, or says in words why not. Never files a plan that nobody could have seen. */
  askToFile(): void {
    const missing = this.plan()?.missing ?? ['contributor', 'assignment'];
    if (this.planning()) {
      this.asked.update((asked) => asked ?? { complete: missing.length === 0 });
      return;
    }
    const sawIt = this.asked()?.complete ?? true;
    this.asked.set(null);
    const words = { contributor: 'who took these', assignment: 'what they were shot for' };
    if (!this.counts().taken) this.warn('Nothing is taken: take at least one item to file.');
    else if (missing.length) this.warn(`First say ${missing.map((what) => words[what]).join(' and ')}, in the sentence above.`);
    else if (!this.plan()) this.warn('Where everything goes is not known: see what is said above, then try again.');
    else if (!this.intake()?.present) this.warn('The card is not in the reader. Put it back to file it.');
    else if (!sawIt) this.warn('Where everything goes has only just been worked out: look at it, then file.');
    else this.file();
  }

  file(): void {
    const plan = this.plan();
    if (!plan || this.busy()) return;
    this.busy.set(true);
    this.service.file(this.id, plan.seal).subscribe({
      next: (answer) => {
        this.busy.set(false);
        if (answer.outcome === 'changed') {
          this.changes.set(planDifference(plan, answer.plan));
          this.plan.set(answer.plan);
        } else this.changes.set(null);
        this.loadIntake();
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.complain(error);
      },
    });
  }

  again(): void {
    this.service.again(this.id).subscribe({ next: () => this.loadIntake(), error: (error: unknown) => this.complain(error) });
  }

  halt(wish: FilingWish): void {
    this.service
      .halt(this.id, wish)
      .subscribe({ next: () => this.loadIntake(), error: (error: unknown) => this.complain(error) });
  }

  /** Sets items aside with a reason, so that the intake goes on without them. */
  goOnWithout(items: readonly ItemView[], reason: AsideReason, then: () => void = () => undefined): void {
    const itemIds = items.map((item) => item.id);
    this.service.setAside(this.id, { itemIds, reason }).subscribe({
      next: (intake) => {
        this.version = 0;
        this.takeIntake(intake);
        this.loadItems();
        then();
      },
      error: (error: unknown) => this.complain(error),
    });
  }

  /** Lets the card go, so that it may be pulled. */
  letGo(anyway: boolean): void {
    if (this.lettingGo()) return;
    this.lettingGo.set(true);
    this.service
      .letGo(this.id, anyway)
      .pipe(finalize(() => this.lettingGo.set(false)))
      .subscribe({ error: (error: unknown) => this.complain(error) });
  }

  giveBack(then: () => void): void {
    this.service.giveBack(this.id).subscribe({ next: then, error: (error: unknown) => this.complain(error) });
  }

  complain(error: unknown): void {
    this.planning.set(false);
    // Whoever waits for a plan that does not come is told why, and asks again.
    this.asked.set(null);
    this.messages.add({ severity: 'error', summary: wordsFor(error), life: 8000 });
  }

  warn(summary: string): void {
    this.messages.add({ severity: 'warn', summary, life: 6000 });
  }

  private loadIntake(): void {
    this.service
      .one(this.id)
      .subscribe({ next: (intake) => this.takeIntake(intake), error: (error: unknown) => this.lost(error) });
    this.loadCredit();
    // Who owns which camera adds to what is seen; without it everything else still works.
    this.service.bodies(this.id).subscribe({ next: (bodies) => this.bodies.set(bodies), error: () => undefined });
  }

  private loadCredit(): void {
    // Without it the sheet works; what it would say is asked again with the next change.
    this.crediting.ofIntake(this.id).subscribe({ next: (credit) => this.credit.set(credit), error: () => undefined });
  }

  private lost(error: unknown): void {
    if (isNotFound(error)) this.notThere.set(true);
    else this.problem.set(wordsFor(error));
  }

  private takeIntake(intake: IntakeSummary): void {
    this.problem.set('');
    // Where items stand is no change of theirs: when the intake's state changes, all of them are looked at again.
    const before = this.intake();
    if (before && (before.state !== intake.state || before.filed !== intake.filed)) {
      this.version = 0;
      this.loadItems();
    }
    this.intake.set(intake);
    if (intake.state !== 'filing') this.progress.set(null);
    this.planAgain();
  }

  /** Fetches what changed. An answer that may be older than what the person did since is dropped; another comes with the last change. */
  private loadItems(): void {
    // Asked for while a change is on its way, it may not know of it: the last change asks again.
    if (this.changesUnderway > 0) return;
    const asked = this.changesMade;
    const since = this.version;
    this.service.items(this.id, since).subscribe({
      next: ({ version, items }) => {
        if (asked !== this.changesMade || this.changesUnderway > 0) return;
        // Another answer was quicker: what is newer than that one is asked for.
        if (since !== this.version) {
          this.loadItems();
          return;
        }
        this.loading.set(false);
        this.version = version;
        const [before, indexes] = [this.items(), this.indexes()];
        if (since === 0) this.items.set(items);
        else if (items.length) this.items.set(merged(before, indexes, items));
        if (since === 0 || changesThePlan(before, indexes, items)) this.planWithReading();
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  /** What is read of a card moves the plan again and again: until all of it is read it is made now and then only. */
  private planWithReading(): void {
    if (this.intake()?.readThrough !== false || this.asked() || !this.plan()) this.planAgain();
    else {
      this.planning.set(true);
      this.plansWanted++;
      this.reading.next();
    }
  }

  private planAgain(): void {
    this.planning.set(true);
    this.plansWanted++;
    this.replan.next();
  }

  private loadPlan(): Observable<PlanView | null> {
    return this.service.plan(this.id).pipe(
      timeout(PLAN_WITHIN_MS),
      catchError((error: unknown) => {
        this.problem.set(wordsFor(error));
        return of(null);
      }),
    );
  }

  /** Cuts notches as copies tally, without asking for the items again. */
  private takeProgress(progress: Progress): void {
    this.progress.set(progress);
    if (!progress.tallied.length) return;
    const done = new Set(progress.tallied);
    // Places that are filled later have nothing yet.
    const later = new Set(this.places().flatMap((place) => (place.fill === 'later' ? [place.id] : [])));
    const cut = (copy: ItemView['copies'][number]) => (later.has(copy.place) ? copy : { ...copy, state: 'tallied' as const });
    this.items.update((items) => patched(items, this.indexes(), done, (item) => ({ ...item, copies: item.copies.map(cut) })));
  }
}

type Indexes = ReadonlyMap<number, number>;

/** The same items, some of them changed, in the same order. */
function patched(
  all: readonly ItemView[],
  indexes: Indexes,
  ids: Iterable<number>,
  change: (item: ItemView) => ItemView,
): ItemView[] {
  const next = [...all];
  for (const id of ids) {
    const index = indexes.get(id);
    if (index !== undefined) next[index] = change(next[index]!);
  }
  return next;
}

/** What was changed takes its place; what is new comes last. */
function merged(all: readonly ItemView[], indexes: Indexes, changed: readonly ItemView[]): ItemView[] {
  const next = [...all];
  for (const item of changed) next[indexes.get(item.id) ?? next.length] = item;
  return next;
}

/** Does a change of items move anything in the plan? A preview that was made does not. */
function changesThePlan(before: readonly ItemView[], indexes: Indexes, changed: readonly ItemView[]): boolean {
  const planned = (item: ItemView | undefined) =>
    item && [
      item.captured.local,
      item.taken,
      item.aside,
      item.make,
      item.model,
      item.contributor?.id,
      item.assignment?.id,
      item.alreadyFiled?.path,
      item.alreadyFiled?.confirmed,
      item.description,
      item.role,
      item.profile,
      item.clip,
    ];
  const known = ({ id }: ItemView) => before[indexes.get(id) ?? -1];
  return changed.some((item) => JSON.stringify(planned(item)) !== JSON.stringify(planned(known(item))));
}

const isSummary = (answer: unknown): answer is IntakeSummary =>
  typeof answer === 'object' && answer !== null && 'stick' in answer && 'number' in answer;
