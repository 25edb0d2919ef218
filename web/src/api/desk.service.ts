import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type { Desk, PlaceView, RuleView } from '@tally/contract';
import type { Observable } from 'rxjs';

/** The desk, the places and the rule in force. */
@Injectable({ providedIn: 'root' })
export class DeskService {
  private readonly http = inject(HttpClient);

  desk(): Observable<Desk> {
    return this.http.get<Desk>('/api/desk');
  }

  places(): Observable<PlaceView[]> {
    return this.http.get<PlaceView[]>('/api/places');
  }

  rule(): Observable<RuleView> {
    return this.http.get<RuleView>('/api/rule');
  }
}
