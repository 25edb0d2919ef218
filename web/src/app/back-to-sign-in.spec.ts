import { HttpClient, provideHttpClient, withInterceptors } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import { beforeEach, describe, expect, it } from '@jest/globals';
import { HandInService } from '../api/hand-in.service';
import { SessionService } from '../api/session.service';
import { backToSignIn } from './back-to-sign-in';

let went: unknown[];
let http: HttpTestingController;
const ended = (url: string) =>
  http.expectOne(url).flush({ title: 'No', status: 401, type: 'about:blank' }, { status: 401, statusText: 'Unauthorized' });

beforeEach(() => {
  went = [];
  const go = (...to: unknown[]) => Promise.resolve(went.push(to[0]) > 0);
  TestBed.configureTestingModule({
    providers: [
      provideHttpClient(withInterceptors([backToSignIn])),
      provideHttpClientTesting(),
      { provide: Router, useValue: { url: '/hand-in', navigate: go, navigateByUrl: go } },
      { provide: SessionService, useValue: { forget: () => undefined, refresh: () => undefined } },
    ],
  });
  http = TestBed.inject(HttpTestingController);
});

describe('a session that has ended', () => {
  it('leads to the sign-in, whatever was asked for', () => {
    TestBed.inject(HttpClient)
      .get('/api/desk')
      .subscribe({ error: () => undefined });
    ended('/api/desk');
    expect(went).toEqual([['/sign-in']]);
  });

  it('leads nobody away from files that are on their way: what carries them says so', () => {
    TestBed.inject(HandInService)
      .one(4)
      .subscribe({ error: () => undefined });
    ended('/api/hand-in/4');
    expect(went).toEqual([]);
  });
});
