import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  Assignment,
  AssignmentChange,
  AssignmentPage,
  Contributor,
  ContributorChange,
  ForgottenAnswer,
  NewAssignment,
  NewContributor,
} from '@tally/contract';
import { catchError, EMPTY, forkJoin, map, of, shareReplay, switchMap, type Observable } from 'rxjs';
import { LiveService } from './live.service';

/** What narrows and orders a page of assignments, as the address has it. */
export type AssignmentFilter = Readonly<Record<string, string | number | boolean>>;

/** Days that assignments are wanted for, `yyyy-MM-dd`, and such that come in whatever their days are. */
export interface Around {
  readonly from: string;
  readonly to: string;
  readonly ids: readonly number[];
}

/** A list that is chosen from shows no more. */
const CHOICES = 50;
/** As many as one page has. */
const MOST = 200;

const some = (ids: readonly number[]) => ids.slice(0, MOST).join(',');

/** Contributors and assignments, kept up to date while somebody looks. Assignments number thousands: they come by the page. */
@Injectable({ providedIn: 'root' })
export class PeopleService {
  private readonly http = inject(HttpClient);
  private readonly live = inject(LiveService);

  /** Everybody, those too who are retired. */
  readonly everybody: Observable<Contributor[]> = this.live.whenever('people', 'desk').pipe(
    switchMap(() => this.http.get<Contributor[]>('/api/contributors')),
    shareReplay({ bufferSize: 1, refCount: true }),
  );
  /** Those who are offered. */
  readonly contributors = this.everybody.pipe(map((all) => all.filter(({ retired }) => !retired)));

  assignmentPage(filter: AssignmentFilter): Observable<AssignmentPage> {
    return this.http.get<AssignmentPage>('/api/assignments', { params: filter });
  }

  /** Says when assignments, or what came in for them, may be others than they were. */
  readonly assignmentsMoved: Observable<void> = this.live.whenever('people', 'desk');

  /** Assignments that are offered and fit what was typed (nothing: the newest), those that last on one of these days first. */
  choices(typed: string, days: readonly string[] = []): Observable<Assignment[]> {
    const [from, to] = [[...days].sort()[0], [...days].sort().at(-1)];
    const asked = { typed: typed.trim().slice(0, 200), retired: false, limit: CHOICES };
    const ofDays = from && to ? this.assignmentPage({ ...asked, from, to }) : of({ assignments: [] as Assignment[] });
    return forkJoin([ofDays, this.assignmentPage(asked)]).pipe(
      map((pages) => {
        const all = pages.flatMap(({ assignments }) => assignments);
        const fits = (one: Assignment) => days.some((day) => one.from <= day && day <= one.to);
        return [...new Map(all.map((one) => [one.id, one])).values()].sort((a, b) => Number(fits(b)) - Number(fits(a)));
      }),
      // Whoever types on asks again.
      catchError(() => of([])),
    );
  }

  /** Such as last on days of a span, kept up to date. */
  around({ from, to, ids }: Around): Observable<Assignment[]> {
    return this.kept({ from, to, ...(ids.length ? { ids: some(ids) } : {}), retired: false });
  }

  /** These, kept up to date. */
  assignments(ids: readonly number[]): Observable<Assignment[]> {
    return ids.length ? this.kept({ ids: some(ids) }) : of([]);
  }

  /** Such as a contributor is expected for and has not handed in for. */
  missing(contributorId: number): Observable<Assignment[]> {
    return this.kept({ missing: contributorId, retired: false });
  }

  /** Asked again whenever assignments may be others; what cannot be asked now stays as it was. */
  private kept(filter: AssignmentFilter): Observable<Assignment[]> {
    return this.assignmentsMoved.pipe(
      switchMap(() => this.assignmentPage({ ...filter, limit: MOST }).pipe(catchError(() => EMPTY))),
      map(({ assignments }) => assignments),
    );
  }

  addContributor(contributor: NewContributor): Observable<{ id: number }> {
    return this.http.post<{ id: number }>('/api/contributors', contributor);
  }

  addAssignment(assignment: NewAssignment): Observable<{ id: number }> {
    return this.http.post<{ id: number }>('/api/assignments', assignment);
  }

  /** The assignment for what is sorted later. */
  unsorted(): Observable<{ id: number }> {
    return this.http.post<{ id: number }>('/api/assignments/unsorted', {});
  }

  changeContributor(id: number, change: ContributorChange): Observable<unknown> {
    return this.http.patch(`/api/contributors/${id}`, change);
  }

  forget(id: number): Observable<ForgottenAnswer> {
    return this.http.post<ForgottenAnswer>(`/api/contributors/${id}/forget`, { sure: true });
  }

  changeAssignment(id: number, change: AssignmentChange): Observable<unknown> {
    return this.http.patch(`/api/assignments/${id}`, change);
  }
}
