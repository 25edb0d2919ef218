import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { Ended, sendFile } from './sending';

type Answer = { readonly status: number; readonly headers?: Readonly<Record<string, string>> } | 'lost';

/** The browser's requests, as far as an upload makes them: each is answered by what the test lies down for it. */
class Line {
  static answers: Answer[] = [];
  static asked: string[] = [];
  readonly upload = {};
  status = 0;
  responseText = '';
  onload: (() => void) | null = null;
  onerror: (() => void) | null = null;
  private headers: Readonly<Record<string, string>> = {};
  private asks = '';

  open(method: string, url: string): void {
    this.asks = `${method} ${url.replace(/^https?:\/\/[^/]+/, '')}`;
  }
  setRequestHeader(): void {
    // What stands in the headers is the library's affair.
  }
  getResponseHeader(name: string): string | null {
    return this.headers[name.toLowerCase()] ?? null;
  }
  abort(): void {
    this.onload = null;
  }
  send(): void {
    Line.asked.push(this.asks);
    const answer = Line.answers.shift() ?? { status: 500 };
    setTimeout(() => {
      if (answer === 'lost') {
        this.onerror?.();
        return;
      }
      this.status = answer.status;
      this.headers = answer.headers ?? {};
      this.onload?.();
    });
  }
}

const XHR = globalThis.XMLHttpRequest;
beforeEach(() => {
  Object.assign(globalThis, { XMLHttpRequest: Line });
  Line.asked = [];
  globalThis.localStorage.clear();
});
afterEach(() => void Object.assign(globalThis, { XMLHttpRequest: XHR }));

const send = () =>
  sendFile(
    new File([new Uint8Array(10)], 'HM2_0001.JPG'),
    { handIn: 4, position: 0, hash: '0'.repeat(32) },
    { sent: () => undefined, waiting: () => undefined },
    new AbortController().signal,
  );
const BEGUN: Answer = { status: 201, headers: { location: '/api/uploads/4-0-aa' } };

describe('a file on its way in', () => {
  it('that arrived while the line broke, so that only the answer was lost, has arrived', async () => {
    // Begun; its bytes go, no answer comes; it is not open any more; begun anew, nobody waits for it.
    Line.answers = [BEGUN, 'lost', { status: 404 }, { status: 409 }];
    await expect(send()).resolves.toBeUndefined();
    expect(Line.asked).toEqual([
      ...['POST /api/uploads', 'PATCH /api/uploads/4-0-aa', 'HEAD /api/uploads/4-0-aa', 'POST /api/uploads'],
    ]);
  });

  it('ends in words when the link was ended in the middle of it', async () => {
    Line.answers = [BEGUN, { status: 401 }];
    await expect(send()).rejects.toThrow(Ended);
  });

  it('that the server refuses says why', async () => {
    Line.answers = [{ status: 413 }];
    await expect(send()).rejects.toThrow();
  });
});
