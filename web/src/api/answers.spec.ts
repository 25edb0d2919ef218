import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { HttpClient, provideHttpClient, withInterceptors } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { describe, expect, it } from '@jest/globals';
import { answerTo, check } from './answers';
import { checkedAnswers } from './checked-answers';

describe('answers are what the contract says', () => {
  it('every typed call of every service has its schema', () => {
    const folder = dirname(fileURLToPath(import.meta.url));
    const calls = readdirSync(folder)
      .filter((name) => name.endsWith('.service.ts'))
      .flatMap((name) => [
        ...readFileSync(join(folder, name), 'utf8').matchAll(
          /http\s*\.(get|post|patch)<(?!undefined)[^(]*?>\(\s*[`']([^`']+)[`']/g,
        ),
      ])
      .map(([, method, url]) => [method!.toUpperCase(), url!.replace('${kind}', 'card').replace(/\$\{[^}]+\}/g, '1')] as const);
    expect(calls.length).toBeGreaterThan(25);
    expect(calls.filter(([method, url]) => answerTo(method, url) === undefined)).toEqual([]);
  });

  it('an answer that is not is an error of the request, at hand or loaded', async () => {
    for (const how of [checkedAnswers(check), checkedAnswers(() => Promise.resolve(check))]) {
      TestBed.resetTestingModule();
      TestBed.configureTestingModule({ providers: [provideHttpClient(withInterceptors([how])), provideHttpClientTesting()] });
      const http = TestBed.inject(HttpClient);
      const wire = TestBed.inject(HttpTestingController);
      const outcome = (body: object) =>
        new Promise((resolve) => {
          http.get('/api/labels/next').subscribe({ next: () => resolve('answer'), error: () => resolve('error') });
          wire.expectOne('/api/labels/next').flush(body);
        });
      expect(await outcome({ label: 'C-015' })).toBe('answer');
      expect(await outcome({ label: 15 })).toBe('error');
    }
  });
});
