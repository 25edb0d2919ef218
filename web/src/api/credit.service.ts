import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  AssignmentDetail,
  CompletionView,
  ContributorDetail,
  CorrectionAnswer,
  CreditAnswer,
  CreditChange,
  HabitView,
  HouseCreditView,
  HouseListName,
  HouseLists,
  ImportAnswer,
  ImportName,
  IntakeCredit,
  LocationView,
  PicturedView,
  ShownAnswer,
  TermsView,
  TrackAnswer,
  WordListAnswer,
  WordSaid,
  WrittenView,
} from '@tally/contract';
import { shareReplay, switchMap, type Observable } from 'rxjs';
import { LiveService } from './live.service';

/** Whose things are and what may be done with them: lists of the house, words, credit of slips and items. */
@Injectable({ providedIn: 'root' })
export class CreditService {
  private readonly http = inject(HttpClient);
  private readonly live = inject(LiveService);

  readonly terms: Observable<TermsView[]> = this.kept('/api/lists/terms');
  readonly locations: Observable<LocationView[]> = this.kept('/api/lists/locations');
  readonly pictured: Observable<PicturedView[]> = this.kept('/api/lists/pictured');
  readonly habits: Observable<HabitView[]> = this.kept('/api/lists/habits');
  readonly house: Observable<HouseCreditView> = this.kept('/api/house-credit');

  list<L extends HouseListName>(list: L): Observable<HouseLists[L][]> {
    return this[list] as unknown as Observable<HouseLists[L][]>;
  }

  add(list: HouseListName, said: object): Observable<{ id: number }> {
    return this.http.post<{ id: number }>(`/api/lists/${list}`, said);
  }

  correct(list: HouseListName, id: number, change: object): Observable<CorrectionAnswer> {
    return this.http.patch<CorrectionAnswer>(`/api/lists/${list}/${id}`, change);
  }

  merge(what: HouseListName | 'contributors' | 'assignments' | 'words', id: number, into: number): Observable<CorrectionAnswer> {
    const path = ['contributors', 'assignments', 'words'].includes(what) ? what : `lists/${what}`;
    return this.http.post<CorrectionAnswer>(`/api/${path}/${id}/merge`, { into });
  }

  whereShown(id: number): Observable<ShownAnswer> {
    return this.http.get<ShownAnswer>(`/api/lists/pictured/${id}/shown`);
  }

  changeHouse(change: object): Observable<HouseCreditView> {
    return this.http.patch<HouseCreditView>('/api/house-credit', change);
  }

  complete(typed: string, limit = 12): Observable<CompletionView[]> {
    return this.http.get<CompletionView[]>('/api/words', { params: { typed, limit } });
  }

  wordPage(query: { typed: string; which: string; after: string }): Observable<WordListAnswer> {
    return this.http.get<WordListAnswer>('/api/words/list', { params: query });
  }

  addWord(said: WordSaid): Observable<{ id: number }> {
    return this.http.post<{ id: number }>('/api/words', said);
  }

  correctWord(id: number, said: WordSaid): Observable<CorrectionAnswer> {
    return this.http.put<CorrectionAnswer>(`/api/words/${id}`, said);
  }

  retireWord(id: number, retired: boolean): Observable<unknown> {
    return this.http.patch(`/api/words/${id}`, { retired });
  }

  /** What a file would change; `apply`: changes it. */
  take(what: ImportName, file: Blob, isTurtle: boolean, apply: boolean): Observable<ImportAnswer> {
    const headers = { 'Content-Type': isTurtle ? 'text/turtle' : 'text/csv' };
    return this.http.post<ImportAnswer>(`/api/import/${what}`, file, { headers, params: { apply: apply ? 'yes' : 'no' } });
  }

  ofIntake(id: number): Observable<IntakeCredit> {
    return this.http.get<IntakeCredit>(`/api/intakes/${id}/credit`);
  }

  change(change: CreditChange): Observable<CreditAnswer> {
    return this.http.patch<CreditAnswer>('/api/credit', change);
  }

  /** What stands in an item's file and beside it, and what will. */
  written(itemId: number): Observable<WrittenView> {
    return this.http.get<WrittenView>(`/api/items/${itemId}/written`);
  }

  track(intakeId: number, gpx: Blob): Observable<TrackAnswer> {
    return this.http.post<TrackAnswer>(`/api/intakes/${intakeId}/track`, gpx, {
      headers: { 'Content-Type': 'application/gpx+xml' },
    });
  }

  contributor(id: number): Observable<ContributorDetail> {
    return this.live.whenever('people').pipe(switchMap(() => this.http.get<ContributorDetail>(`/api/contributors/${id}`)));
  }

  assignment(id: number): Observable<AssignmentDetail> {
    return this.live.whenever('people').pipe(switchMap(() => this.http.get<AssignmentDetail>(`/api/assignments/${id}`)));
  }

  addAgreement(contributorId: number, said: object): Observable<{ id: number }> {
    return this.http.post<{ id: number }>(`/api/contributors/${contributorId}/agreements`, said);
  }

  removeAgreement(id: number): Observable<unknown> {
    return this.http.delete(`/api/agreements/${id}`);
  }

  keepScan(id: number, scan: Blob): Observable<unknown> {
    return this.http.put(`/api/agreements/${id}/scan`, scan, { headers: { 'Content-Type': 'application/octet-stream' } });
  }

  private kept<T>(url: string): Observable<T> {
    return this.live.whenever('people').pipe(
      switchMap(() => this.http.get<T>(url)),
      shareReplay({ bufferSize: 1, refCount: true }),
    );
  }
}
