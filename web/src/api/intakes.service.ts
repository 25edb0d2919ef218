import { HttpClient, HttpErrorResponse } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  AsideChange,
  BelongChange,
  BodyView,
  ClearAnswer,
  LetGoAnswer,
  ClearanceView,
  ClearRequest,
  ClockChange,
  EventView,
  FileAnswer,
  FilingWish,
  RestoreAnswer,
  IntakeSummary,
  ItemDetails,
  ItemsAnswer,
  SoundWave,
  JudgeChange,
  KeptReceipt,
  LogCalendar,
  LogPage,
  PlanView,
  SlipChange,
} from '@tally/contract';
import { catchError, map, of, throwError, type Observable } from 'rxjs';

export type LogFilter = Readonly<Record<string, string | number | boolean>>;

/** Intakes: the logbook's list, and everything one can say to one of them. */
@Injectable({ providedIn: 'root' })
export class IntakesService {
  private readonly http = inject(HttpClient);

  find(filter: LogFilter): Observable<LogPage> {
    return this.http.get<LogPage>('/api/intakes', { params: filter });
  }

  /** The newest intakes that have been filed. */
  recent(limit: number): Observable<IntakeSummary[]> {
    return this.find({ state: 'tallied', limit }).pipe(map(({ intakes }) => intakes));
  }

  calendar(): Observable<LogCalendar> {
    return this.http.get<LogCalendar>('/api/intakes/calendar');
  }

  tabSeparated(filter: LogFilter): Observable<string> {
    return this.http.get('/api/intakes/export.tsv', { params: filter, responseType: 'text' });
  }

  one(id: number): Observable<IntakeSummary> {
    return this.http.get<IntakeSummary>(`/api/intakes/${id}`);
  }

  items(id: number, since: number): Observable<ItemsAnswer> {
    return this.http.get<ItemsAnswer>(`/api/intakes/${id}/items`, { params: { since } });
  }

  bodies(id: number): Observable<BodyView[]> {
    return this.http.get<BodyView[]>(`/api/intakes/${id}/bodies`);
  }

  judge(id: number, change: JudgeChange): Observable<unknown> {
    return this.http.patch(`/api/intakes/${id}/judged`, change);
  }

  belongs(id: number, change: BelongChange): Observable<IntakeSummary> {
    return this.http.patch<IntakeSummary>(`/api/intakes/${id}/belongs`, change);
  }

  setAside(id: number, change: AsideChange): Observable<IntakeSummary> {
    return this.http.patch<IntakeSummary>(`/api/intakes/${id}/aside`, change);
  }

  /** Says to others that an intake is open in this window, or is not any more. */
  here(id: number, key: string, open: boolean): Observable<unknown> {
    return this.http.post(`/api/intakes/${id}/here`, { key, open });
  }

  clock(id: number, change: ClockChange): Observable<unknown> {
    return this.http.patch(`/api/intakes/${id}/clock`, change);
  }

  /** What the camera wrote about an exposure. */
  details(itemId: number): Observable<ItemDetails> {
    return this.http.get<ItemDetails>(`/api/items/${itemId}/details`);
  }

  wave(itemId: number): Observable<SoundWave> {
    return this.http.get<SoundWave>(`/api/items/${itemId}/wave`);
  }

  receipts(id: number): Observable<KeptReceipt[]> {
    return this.http.get<KeptReceipt[]>(`/api/intakes/${id}/receipts`);
  }

  events(id: number): Observable<EventView[]> {
    return this.http.get<EventView[]>(`/api/intakes/${id}/events`);
  }

  plan(id: number): Observable<PlanView> {
    return this.http.get<PlanView>(`/api/intakes/${id}/plan`);
  }

  say(id: number, change: SlipChange): Observable<IntakeSummary> {
    return this.http.patch<IntakeSummary>(`/api/intakes/${id}/slip`, change);
  }

  take(id: number, itemIds: number[], taken: boolean): Observable<IntakeSummary> {
    return this.http.patch<IntakeSummary>(`/api/intakes/${id}/taken`, { itemIds, taken });
  }

  /** A plan that changed in the meantime is an answer, not an error. */
  file(id: number, seal: string): Observable<FileAnswer> {
    return this.http.post<FileAnswer>(`/api/intakes/${id}/file`, { seal }).pipe(
      catchError((error: unknown) => {
        const body: unknown = error instanceof HttpErrorResponse ? error.error : null;
        return isAnswer(body) ? of(body) : throwError(() => error);
      }),
    );
  }

  again(id: number): Observable<unknown> {
    return this.http.post(`/api/intakes/${id}/again`, {});
  }

  halt(id: number, wish: FilingWish): Observable<unknown> {
    return this.http.post(`/api/intakes/${id}/halt`, { wish });
  }

  /** May the card be cleared, as it is now? With `full` every byte of it is read. */
  /** @param items these alone; else the whole card. */
  clearance(id: number, full: boolean, items?: readonly number[]): Observable<ClearanceView> {
    return this.http.get<ClearanceView>(`/api/intakes/${id}/clearance`, {
      params: { full, ...(items ? { items: items.join(',') } : {}) },
    });
  }

  clear(id: number, ask: ClearRequest): Observable<ClearAnswer> {
    return this.http.post<ClearAnswer>(`/api/intakes/${id}/clear`, ask);
  }

  /** Lets the card go, so that it may be pulled. @param anyway also when something on it waits. */
  letGo(id: number, anyway: boolean): Observable<LetGoAnswer> {
    return this.http.post<LetGoAnswer>(`/api/intakes/${id}/let-go`, { anyway });
  }

  /** Puts the files of an intake back on the card of another, or its own, that lies in a reader. */
  restore(id: number, cardOf: number): Observable<RestoreAnswer> {
    return this.http.post<RestoreAnswer>(`/api/intakes/${id}/restore`, { cardOf });
  }

  giveBack(id: number): Observable<unknown> {
    return this.http.post(`/api/intakes/${id}/give-back`, {});
  }

  /** It was not given back after all. */
  notGivenBack(id: number): Observable<unknown> {
    return this.http.post(`/api/intakes/${id}/not-given-back`, {});
  }

  nextLabel(): Observable<string> {
    return this.http.get<{ label: string }>('/api/labels/next').pipe(map(({ label }) => label));
  }
}

function isAnswer(body: unknown): body is FileAnswer {
  return typeof body === 'object' && body !== null && (body as { outcome?: unknown }).outcome === 'changed';
}
