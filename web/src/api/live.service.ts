import { Injectable, isDevMode } from '@angular/core';
import type { LiveEvent } from '@tally/contract';
import { filter, map, Observable, share, startWith, type OperatorFunction } from 'rxjs';

/** How long a broken stream is left alone before it is opened again, doubling up to the longest. */
const FIRST_WAIT_MS = 1_000;
const LONGEST_WAIT_MS = 15_000;

/** The one stream of live events; open while anybody listens, opened again whenever and however it breaks. */
@Injectable({ providedIn: 'root' })
export class LiveService {
  readonly events: Observable<LiveEvent> = stream('/api/live').pipe(share());

  /** Emits now, whenever one of these kinds of events comes, and when any may have been missed. */
  whenever(...types: LiveEvent['type'][]): Observable<void> {
    return this.events.pipe(
      filter((event) => event.type === 'again' || types.includes(event.type)),
      map(() => undefined),
      startWith(undefined),
    );
  }
}

/**
 * Server-sent events. A browser opens a stream again by itself when the line breaks, but gives it up for good when it is
 * answered with an error (WHATWG HTML, section 9.2.3), as by a proxy whose server restarts: then it is opened anew here.
 * After every gap it says *again*: what came meanwhile was missed.
 */
function stream(url: string): Observable<LiveEvent> {
  return new Observable<LiveEvent>((listener) => {
    let source: EventSource;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let waitMs = FIRST_WAIT_MS;
    let wasOpen = false;
    const open = () => {
      source = new EventSource(url);
      source.onopen = () => {
        waitMs = FIRST_WAIT_MS;
        if (wasOpen) listener.next({ type: 'again' });
        wasOpen = true;
      };
      source.onmessage = (message: MessageEvent<string>) => {
        const event = JSON.parse(message.data) as LiveEvent;
        if (isDevMode()) void check(event);
        listener.next(event);
      };
      source.onerror = () => {
        if (source.readyState !== EventSource.CLOSED) return;
        timer = setTimeout(open, waitMs);
        waitMs = Math.min(LONGEST_WAIT_MS, waitMs * 2);
      };
    };
    open();
    return () => {
      clearTimeout(timer);
      source.close();
    };
  });
}

/** While we work on it, an event that is not what the contract says is shouted about. */
async function check(event: LiveEvent): Promise<void> {
  const contract = await import('@tally/contract');
  contract.LiveEvent.parse(event);
}

/** What is about one intake, and what may be. */
export const ofIntake = (intakeId: number): OperatorFunction<LiveEvent, LiveEvent> =>
  filter((event) => {
    if (event.type === 'again') return true;
    if (event.type === 'progress') return event.progress.intakeId === intakeId;
    return 'intakeId' in event && event.intakeId === intakeId;
  });
