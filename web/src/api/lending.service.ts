import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type { LendingList, LendRequest, LoanHistory, NewThing, ScanAnswer, Thing, ThingKey, Tray } from '@tally/contract';
import { map, type Observable } from 'rxjs';

/** Trays, scanned labels, and what is lent. */
@Injectable({ providedIn: 'root' })
export class LendingService {
  private readonly http = inject(HttpClient);

  /** @param move whether the scan moves a card that is out or done; else it only opens. */
  scan(label: string, move: boolean): Observable<ScanAnswer> {
    return this.http.post<ScanAnswer>('/api/scans', { label, move });
  }

  move(cardId: number, to: Tray): Observable<void> {
    return this.http.post<undefined>(`/api/cards/${cardId}/move`, { to });
  }

  things(): Observable<Thing[]> {
    return this.http.get<LendingList>('/api/things').pipe(map(({ things }) => things));
  }

  add(thing: NewThing): Observable<ThingKey> {
    return this.http.post<ThingKey>('/api/things', thing);
  }

  lend(request: LendRequest): Observable<void> {
    return this.http.post<undefined>('/api/loans', request);
  }

  /** @param unused cards hold nothing new; else they are handed in. */
  back(things: readonly ThingKey[], unused: boolean): Observable<void> {
    return this.http.post<undefined>('/api/loans/back', { things: things.map(({ kind, id }) => ({ kind, id })), unused });
  }

  loans({ kind, id }: ThingKey): Observable<LoanHistory> {
    return this.http.get<LoanHistory>(`/api/things/${kind}/${id}/loans`);
  }
}
