import { HttpClient } from '@angular/common/http';
import { computed, inject, Injectable, signal } from '@angular/core';
import type { PasswordChange, Session, SignIn } from '@tally/contract';
import type { Deed } from '@tally/core/rights';
import { MIDNIGHT, wallClockAt, zoneOffsetMinutes } from '@tally/core/capture';
import { catchError, map, of, tap, type Observable } from 'rxjs';

/** Who is signed in, where, and what time it is in the house. */
@Injectable({ providedIn: 'root' })
export class SessionService {
  private readonly http = inject(HttpClient);
  private readonly current = signal<Session | null>(null);
  private clockAheadMs = 0;

  readonly session = this.current.asReadonly();
  readonly zone = computed(() => this.current()?.zone ?? 'UTC');

  /** In which order the house writes day and month. */
  readonly dates = computed(() => this.current()?.dates ?? 'day first');

  /** When the house's day begins, `HH:mm`. */
  readonly dayBegins = computed(() => this.current()?.dayBegins ?? MIDNIGHT);

  /** May whoever is signed in do this? The server asks again. */
  may(deed: Deed): boolean {
    return this.current()?.may.includes(deed) ?? false;
  }

  changePassword(change: PasswordChange): Observable<Session> {
    return this.http.post<Session>('/api/session/password', change).pipe(tap((session) => this.keep(session)));
  }

  /** The house's time now: the server's clock, not this browser's. */
  now(): Date {
    return new Date(Date.now() + this.clockAheadMs);
  }

  /** The house's calendar day, yyyy-MM-dd. */
  today(): string {
    const now = this.now();
    return wallClockAt(now, zoneOffsetMinutes(this.zone(), now)).slice(0, 10);
  }

  /** True when somebody is signed in. */
  check(): Observable<boolean> {
    if (this.current()) return of(true);
    return this.http.get<Session>('/api/session').pipe(
      tap((session) => this.keep(session)),
      map(() => true),
      catchError(() => of(false)),
    );
  }

  signIn(who: SignIn): Observable<Session> {
    return this.http.post<Session>('/api/session', who).pipe(tap((session) => this.keep(session)));
  }

  signOut(): Observable<unknown> {
    return this.http.delete('/api/session').pipe(tap(() => this.current.set(null)));
  }

  /** Asks again: the house has said something new. */
  refresh(): void {
    this.http.get<Session>('/api/session').subscribe({ next: (session) => this.keep(session), error: () => undefined });
  }

  forget(): void {
    this.current.set(null);
  }

  private keep(session: Session): void {
    this.clockAheadMs = Date.parse(session.now) - Date.now();
    this.current.set(session);
  }
}
