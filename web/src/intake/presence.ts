import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { catchError, EMPTY, filter, Subject, switchMap, throttleTime, timer } from 'rxjs';
import { IntakesService } from '../api/intakes.service';
import { LiveService } from '../api/live.service';
import { SessionService } from '../api/session.service';

const SAY_MS = 20_000;
/** Whoever has said nothing for so long has gone without a word. */
const GONE_MS = 50_000;
const ANSWER_MS = 1_000;

/**
 * Who else has the same intake open. Each window says so under a key of its own, again and again; one that comes is
 * answered by the others. Nothing of it is kept anywhere.
 */
@Injectable()
export class Presence {
  private readonly service = inject(IntakesService);
  private readonly live = inject(LiveService);
  private readonly session = inject(SessionService);
  private readonly destroyed = inject(DestroyRef);
  private readonly key = newKey();
  private readonly seen = signal<ReadonlyMap<string, { readonly who: string; readonly at: number }>>(new Map());

  /** Names of others, and of oneself in another window. */
  readonly others = computed(() => {
    const me = this.session.session()?.person.name;
    const names = [...this.seen().values()].map(({ who }) => (who === me ? 'another window of yours' : who));
    return [...new Set(names)].sort();
  });

  follow(id: number): void {
    const say = new Subject<void>();
    say
      .pipe(
        throttleTime(ANSWER_MS, undefined, { leading: true, trailing: true }),
        // Nobody must know of it; what goes on without is the rest of the page.
        switchMap(() => this.service.here(id, this.key, true).pipe(catchError(() => EMPTY))),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe();
    this.live.events
      .pipe(
        filter((event) => event.type === 'here'),
        filter(({ intakeId, key }) => intakeId === id && key !== this.key),
        takeUntilDestroyed(this.destroyed),
      )
      .subscribe(({ who, key, open }) => {
        const isNew = open && !this.seen().has(key);
        this.seen.update(
          (seen) => new Map(open ? [...seen, [key, { who, at: Date.now() }]] : [...seen].filter(([k]) => k !== key)),
        );
        if (isNew) say.next();
      });
    timer(0, SAY_MS)
      .pipe(takeUntilDestroyed(this.destroyed))
      .subscribe(() => {
        say.next();
        const since = Date.now() - GONE_MS;
        if ([...this.seen().values()].some(({ at }) => at < since))
          this.seen.update((seen) => new Map([...seen].filter(([, { at }]) => at >= since)));
      });
    this.destroyed.onDestroy(() =>
      this.service
        .here(id, this.key, false)
        .pipe(catchError(() => EMPTY))
        .subscribe(),
    );
  }
}

/** Without TLS a browser has no `randomUUID`. */
const newKey = (): string => [...crypto.getRandomValues(new Uint8Array(12))].map((n) => n.toString(16).padStart(2, '0')).join('');
