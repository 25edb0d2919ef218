import type { NavigationError } from '@angular/router';

/** How browsers say that a part of the interface did not come: Chromium, Firefox, Safari. From memory. */
const DID_NOT_COME = /dynamically imported module|Importing a module script failed/i;
const TRIED = 'parts that did not come';
/** Long enough for a network that changes; so often in a row, then somebody reloads by hand. */
const AFTER_MS = 1_500;
const MOST = 5;

interface Page {
  readonly sessionStorage: Pick<Storage, 'getItem' | 'setItem'>;
  readonly location: Pick<Location, 'assign'>;
  setTimeout(run: () => void, ms: number): unknown;
}

/**
 * A page whose files did not come, as when a laptop goes from one network to another, is loaded again by itself: the browser
 * keeps a file that failed, and the frame would stay empty. @returns whether it is
 */
export function comeAgain({ error, url }: Pick<NavigationError, 'error' | 'url'>, page: Page): boolean {
  if (!DID_NOT_COME.test(String((error as Error | null)?.message ?? error))) return false;
  const tried = Number(page.sessionStorage.getItem(TRIED) ?? 0);
  if (tried >= MOST) return false;
  page.sessionStorage.setItem(TRIED, String(tried + 1));
  page.setTimeout(() => page.location.assign(url), AFTER_MS);
  return true;
}

/** What came is no failure in a row any more. */
export const came = (page: Pick<Page, 'sessionStorage'>): void => page.sessionStorage.setItem(TRIED, '0');
