import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type { Assignment, Contributor, NewAssignment, NewContributor } from '@tally/contract';
import { shareReplay, switchMap, type Observable } from 'rxjs';
import { LiveService } from './live.service';

/** Contributors and assignments, kept up to date while somebody looks. */
@Injectable({ providedIn: 'root' })
export class PeopleService {
  private readonly http = inject(HttpClient);
  private readonly live = inject(LiveService);

  readonly contributors: Observable<Contributor[]> = this.kept('/api/contributors');
  readonly assignments: Observable<Assignment[]> = this.kept('/api/assignments');

  addContributor(contributor: NewContributor): Observable<{ id: number }> {
    return this.http.post<{ id: number }>('/api/contributors', contributor);
  }

  addAssignment(assignment: NewAssignment): Observable<{ id: number }> {
    return this.http.post<{ id: number }>('/api/assignments', assignment);
  }

  private kept<T>(url: string): Observable<T> {
    return this.live.whenever('people', 'desk').pipe(
      switchMap(() => this.http.get<T>(url)),
      shareReplay({ bufferSize: 1, refCount: true }),
    );
  }
}
