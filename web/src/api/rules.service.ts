import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type { NewRevision, RevisionView, RuleMaterial, RulesAnswer } from '@tally/contract';
import { map, type Observable } from 'rxjs';

/** The house rule: its revisions, and real items to try one on. */
@Injectable({ providedIn: 'root' })
export class RulesService {
  private readonly http = inject(HttpClient);

  /** Newest first. */
  revisions(): Observable<RevisionView[]> {
    return this.http.get<RulesAnswer>('/api/rules').pipe(map(({ revisions }) => revisions));
  }

  save(revision: NewRevision): Observable<number> {
    return this.http.post<{ revision: number }>('/api/rules', revision).pipe(map(({ revision: saved }) => saved));
  }

  material(intakeId: number | null): Observable<RuleMaterial> {
    return this.http.get<RuleMaterial>('/api/rules/material', { params: intakeId === null ? {} : { intake: intakeId } });
  }
}
