import { TestBed } from '@angular/core/testing';
import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import type { LiveEvent } from '@tally/contract';
import { LiveService, ofIntake } from './live.service';

/** A browser's stream of server-sent events, which the test breaks. */
class Stream {
  static readonly CLOSED = 2;
  static readonly opened: Stream[] = [];
  readyState = 0;
  onopen: (() => void) | null = null;
  onmessage: ((message: { data: string }) => void) | null = null;
  onerror: (() => void) | null = null;
  constructor(readonly url: string) {
    Stream.opened.push(this);
  }
  open(): void {
    this.readyState = 1;
    this.onopen?.();
  }
  say(event: LiveEvent): void {
    this.onmessage?.({ data: JSON.stringify(event) });
  }
  /** The browser tries again by itself (0), or was answered with an error and gives up (2). */
  fail(readyState: 0 | 2): void {
    this.readyState = readyState;
    this.onerror?.();
  }
  close(): void {
    this.readyState = 2;
  }
}

let heard: LiveEvent[];
beforeEach(() => {
  jest.useFakeTimers();
  Stream.opened.length = 0;
  Object.assign(globalThis, { EventSource: Stream });
  heard = [];
});
afterEach(() => void jest.useRealTimers());

describe('the live stream', () => {
  it('is opened again after it was answered with 502, ever less often, and says that something may have been missed', () => {
    const listening = TestBed.inject(LiveService).events.subscribe((event) => heard.push(event));
    Stream.opened[0]!.open();
    Stream.opened[0]!.say({ type: 'desk' });
    Stream.opened[0]!.fail(2);
    expect(Stream.opened).toHaveLength(1);
    jest.advanceTimersByTime(1000);
    expect(Stream.opened).toHaveLength(2);
    Stream.opened[1]!.fail(2);
    jest.advanceTimersByTime(1000);
    expect(Stream.opened).toHaveLength(2);
    jest.advanceTimersByTime(1000);
    Stream.opened[2]!.open();
    Stream.opened[2]!.say({ type: 'people' });
    expect(heard).toEqual([{ type: 'desk' }, { type: 'again' }, { type: 'people' }]);
    listening.unsubscribe();
    expect(Stream.opened[2]!.readyState).toBe(2);
  });

  it('a line that the browser mends by itself is not opened twice; what came meanwhile is asked for', () => {
    TestBed.inject(LiveService).events.subscribe((event) => heard.push(event));
    Stream.opened[0]!.open();
    Stream.opened[0]!.fail(0);
    jest.advanceTimersByTime(60_000);
    expect(Stream.opened).toHaveLength(1);
    Stream.opened[0]!.open();
    expect(heard).toEqual([{ type: 'again' }]);
  });

  it('*again* concerns every intake and everybody who looks', () => {
    let looked = 0;
    const live = TestBed.inject(LiveService);
    live.whenever('people').subscribe(() => looked++);
    live.events.pipe(ofIntake(7)).subscribe((event) => heard.push(event));
    Stream.opened[0]!.say({ type: 'again' });
    Stream.opened[0]!.say({ type: 'items', intakeId: 8 });
    expect([looked, heard]).toEqual([2, [{ type: 'again' }]]);
  });
});
