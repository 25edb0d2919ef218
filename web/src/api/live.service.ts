import { Injectable } from '@angular/core';
import type { LiveEvent } from '@tally/contract';
import { filter, map, Observable, share, startWith, type OperatorFunction } from 'rxjs';

/** The one stream of live events; open while anybody listens, reopened by the browser when it breaks. */
@Injectable({ providedIn: 'root' })
export class LiveService {
  readonly events: Observable<LiveEvent> = new Observable<LiveEvent>((listener) => {
    const source = new EventSource('/api/live');
    source.onmessage = (message: MessageEvent<string>) => listener.next(JSON.parse(message.data) as LiveEvent);
    return () => source.close();
  }).pipe(share());

  /** Emits now and whenever one of these kinds of events comes. */
  whenever(...types: LiveEvent['type'][]): Observable<void> {
    return this.events.pipe(
      filter((event) => types.includes(event.type)),
      map(() => undefined),
      startWith(undefined),
    );
  }
}

export const ofIntake = (intakeId: number): OperatorFunction<LiveEvent, LiveEvent> =>
  filter((event) => {
    if (event.type === 'progress') return event.progress.intakeId === intakeId;
    return 'intakeId' in event && event.intakeId === intakeId;
  });
