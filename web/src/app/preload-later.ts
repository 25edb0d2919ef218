import { Injectable } from '@angular/core';
import type { PreloadingStrategy, Route } from '@angular/router';
import { catchError, EMPTY, mergeMap, timer, type Observable } from 'rxjs';

/** By then the page that was asked for stands, and its own requests are answered. */
const AFTER_MS = 4_000;

/** The next screens are there before somebody asks for them, but not at the expense of the first. */
@Injectable({ providedIn: 'root' })
export class PreloadLater implements PreloadingStrategy {
  preload(_route: Route, load: () => Observable<unknown>): Observable<unknown> {
    // What could not be fetched ahead is fetched when it is asked for.
    return timer(AFTER_MS).pipe(
      mergeMap(load),
      catchError(() => EMPTY),
    );
  }
}
