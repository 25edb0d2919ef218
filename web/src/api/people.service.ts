import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  Assignment,
  AssignmentChange,
  Contributor,
  ContributorChange,
  NewAssignment,
  NewContributor,
} from '@tally/contract';
import { map, shareReplay, switchMap, type Observable } from 'rxjs';
import { LiveService } from './live.service';

/** Contributors and assignments, kept up to date while somebody looks. */
@Injectable({ providedIn: 'root' })
export class PeopleService {
  private readonly http = inject(HttpClient);
  private readonly live = inject(LiveService);

  /** Everybody, those too who are retired. */
  readonly everybody: Observable<Contributor[]> = this.kept('/api/contributors');
  readonly everything: Observable<Assignment[]> = this.kept('/api/assignments');
  /** Those who are offered. */
  readonly contributors = this.everybody.pipe(map((all) => all.filter(({ retired }) => !retired)));
  readonly assignments = this.everything.pipe(map((all) => all.filter(({ retired }) => !retired)));

  addContributor(contributor: NewContributor): Observable<{ id: number }> {
    return this.http.post<{ id: number }>('/api/contributors', contributor);
  }

  addAssignment(assignment: NewAssignment): Observable<{ id: number }> {
    return this.http.post<{ id: number }>('/api/assignments', assignment);
  }

  changeContributor(id: number, change: ContributorChange): Observable<unknown> {
    return this.http.patch(`/api/contributors/${id}`, change);
  }

  changeAssignment(id: number, change: AssignmentChange): Observable<unknown> {
    return this.http.patch(`/api/assignments/${id}`, change);
  }

  private kept<T>(url: string): Observable<T> {
    return this.live.whenever('people', 'desk').pipe(
      switchMap(() => this.http.get<T>(url)),
      shareReplay({ bufferSize: 1, refCount: true }),
    );
  }
}
