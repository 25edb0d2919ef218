import type { Popover } from 'primeng/popover';

/**
 * Gives the focus back to the word that a box belongs to, once the box has closed; unless it went elsewhere while that
 * took its time, into the next box for one.
 */
export function focusBack(word: HTMLElement, box: Popover): void {
  const at = document.activeElement;
  if (!at || at === document.body || box.container?.contains(at)) word.focus();
}
