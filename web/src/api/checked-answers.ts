import { HttpResponse, type HttpEvent, type HttpInterceptorFn } from '@angular/common/http';
import { concatMap, from, map, of, type Observable } from 'rxjs';

type Check = (method: string, url: string, body: unknown) => void;

/**
 * Compares every answer with the contract, so that whoever works on it learns at once where the two part. In production
 * nobody asks for the schemas, and they stay out of the page.
 * @param check at hand, or loaded when the first answer comes.
 */
export function checkedAnswers(check: Check | (() => Promise<Check>)): HttpInterceptorFn {
  const withCheck = (): Observable<Check> => {
    // What takes no parameters loads it.
    const found = check.length === 0 ? (check as () => Promise<Check>)() : check;
    return found instanceof Promise ? from(found) : of(found);
  };
  return (request, next) =>
    next(request).pipe(
      concatMap((event: HttpEvent<unknown>) => {
        if (!(event instanceof HttpResponse) || event.body === null || request.responseType !== 'json') return of(event);
        return withCheck().pipe(
          map((compare) => {
            compare(request.method, request.urlWithParams, event.body);
            return event;
          }),
        );
      }),
    );
}
