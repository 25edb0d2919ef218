import { HttpErrorResponse } from '@angular/common/http';
import type { Problem } from '@tally/contract';

/** What to tell the person when a request failed: the server's own words where it has some. */
export function wordsFor(error: unknown): string {
  if (error instanceof HttpErrorResponse) {
    if (error.status === 0) return 'The server does not answer. Nothing is lost; this page tries again by itself.';
    const problem = error.error as Partial<Problem> | null;
    if (problem?.faults?.length) return problem.faults.map((fault) => `${fault.where}: ${fault.what}`).join('. ');
    if (problem?.title) return problem.title;
  }
  return 'Something went wrong. Nothing was changed.';
}

/** Is there nothing at that address, or may there be nothing (an id that is none)? */
export const isNotFound = (error: unknown): boolean =>
  error instanceof HttpErrorResponse && (error.status === 404 || error.status === 400);

/** What the server wants done or said first; null: nothing. */
export const needsOf = (error: unknown): string | null =>
  error instanceof HttpErrorResponse ? ((error.error as Partial<Problem> | null)?.needs ?? null) : null;
