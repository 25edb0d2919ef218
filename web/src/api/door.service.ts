import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  AccountChange,
  AccountView,
  AuditPage,
  AuditVerdict,
  CodeView,
  HandInLinkView,
  LinkView,
  NewAccount,
  NewHandInLink,
  RecoveryCodes,
  SecondFactorOffer,
  SessionView,
} from '@tally/contract';
import type { Observable } from 'rxjs';

/** Who comes in: people who sign in, links, what was recorded; and what is one's own. */
@Injectable({ providedIn: 'root' })
export class DoorService {
  private readonly http = inject(HttpClient);

  accounts(): Observable<AccountView[]> {
    return this.http.get<AccountView[]>('/api/accounts');
  }

  add(account: NewAccount): Observable<CodeView> {
    return this.http.post<CodeView>('/api/accounts', account);
  }

  change(id: number, change: AccountChange): Observable<AccountView> {
    return this.http.patch<AccountView>(`/api/accounts/${id}`, change);
  }

  code(id: number): Observable<CodeView> {
    return this.http.post<CodeView>(`/api/accounts/${id}/code`, {});
  }

  endSessions(id: number): Observable<unknown> {
    return this.http.delete(`/api/accounts/${id}/sessions`);
  }

  links(before?: number): Observable<LinkView[]> {
    return this.http.get<LinkView[]>('/api/links', { params: before === undefined ? {} : { before } });
  }

  makeLink(link: NewHandInLink): Observable<HandInLinkView> {
    return this.http.post<HandInLinkView>('/api/links', link);
  }

  endLink(id: number): Observable<unknown> {
    return this.http.delete(`/api/links/${id}`);
  }

  audit(query: Readonly<Record<string, string | number>>): Observable<AuditPage> {
    return this.http.get<AuditPage>('/api/audit', { params: query });
  }

  verify(): Observable<AuditVerdict> {
    return this.http.get<AuditVerdict>('/api/audit/verify');
  }

  ownSessions(): Observable<SessionView[]> {
    return this.http.get<SessionView[]>('/api/session/all');
  }

  endOwn(id: string | null): Observable<unknown> {
    return this.http.delete(id === null ? '/api/session/all' : `/api/session/all/${id}`);
  }

  offerSecond(): Observable<SecondFactorOffer> {
    return this.http.post<SecondFactorOffer>('/api/session/second-factor', {});
  }

  confirmSecond(code: string): Observable<RecoveryCodes> {
    return this.http.post<RecoveryCodes>('/api/session/second-factor/confirm', { code });
  }

  removeSecond(code: string): Observable<unknown> {
    return this.http.post('/api/session/second-factor/remove', { code });
  }
}
