import { Injectable } from '@angular/core';
import type { PreloadingStrategy, Route } from '@angular/router';
import { EMPTY, catchError, defer, Subject, concatMap, timer, type Observable } from 'rxjs';

/** By then the page that was asked for stands, and its own requests are answered. */
const AFTER_MS = 4_000;

/** The next screens are there before somebody asks for them, but not at the expense of the first: later, one after the other. */
@Injectable({ providedIn: 'root' })
export class PreloadLater implements PreloadingStrategy {
  private readonly asked = new Subject<Observable<unknown>>();

  constructor() {
    this.asked.pipe(concatMap((load) => load.pipe(catchError(() => EMPTY)))).subscribe();
  }

  preload(_route: Route, load: () => Observable<unknown>): Observable<unknown> {
    return timer(AFTER_MS).pipe(
      concatMap(() => {
        this.asked.next(defer(load));
        return EMPTY;
      }),
    );
  }
}
