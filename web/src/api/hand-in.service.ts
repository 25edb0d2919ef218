import { HttpClient, HttpContext } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type { HandInChoices, HandInStart, HandInView } from '@tally/contract';
import type { Observable } from 'rxjs';
import { STAYS } from './stays';

/** Handing in through the browser. */
@Injectable({ providedIn: 'root' })
export class HandInService {
  private readonly http = inject(HttpClient);

  /** @param instead ends the session of somebody else in this browser */
  openLink(token: string, instead = false): Observable<unknown> {
    return this.http.post('/api/hand-in/open', { token, instead });
  }

  choices(): Observable<HandInChoices> {
    return this.http.get<HandInChoices>('/api/hand-in/choices');
  }

  /** Asked by and by while files are on their way: a link that has ended leads nobody away from them. */
  one(id: number): Observable<HandInView> {
    return this.http.get<HandInView>(`/api/hand-in/${id}`, { context: new HttpContext().set(STAYS, true) });
  }

  begin(start: HandInStart): Observable<HandInView> {
    return this.http.post<HandInView>('/api/hand-in', start);
  }

  done(id: number, withoutMissing: boolean): Observable<HandInView> {
    return this.http.post<HandInView>(`/api/hand-in/${id}/done`, { withoutMissing });
  }
}
