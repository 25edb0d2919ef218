import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type { Desk, PlaceView } from '@tally/contract';
import type { Observable } from 'rxjs';

/** The desk and the places. */
@Injectable({ providedIn: 'root' })
export class DeskService {
  private readonly http = inject(HttpClient);

  desk(): Observable<Desk> {
    return this.http.get<Desk>('/api/desk');
  }

  places(): Observable<PlaceView[]> {
    return this.http.get<PlaceView[]>('/api/places');
  }
}
