/** Between two characters of a hand scanner lie a few milliseconds; a person's fingers are slower (common practice, no source). */
const MOST_BETWEEN_MS = 40;
const FEWEST_CHARACTERS = 3;
/** So long a letter waits until it is known that a person typed it. */
const HOLD_MS = MOST_BETWEEN_MS + 5;

/**
 * Tells a hand scanner, which types like a keyboard and ends with Enter, from a person. Feed it every key; it answers
 * with what was scanned when a scan ends.
 */
export class ScanListener {
  private typed = '';
  private last = -Infinity;

  /** @param at time of the key in milliseconds. @returns what was scanned, or null. */
  key(key: string, at: number): string | null {
    const isQuick = at - this.last <= MOST_BETWEEN_MS;
    this.last = at;
    if (key === 'Enter') {
      const scanned = isQuick && this.typed.length >= FEWEST_CHARACTERS ? this.typed : null;
      this.typed = '';
      return scanned;
    }
    // Shift and the like come between the characters.
    if (key.length !== 1) return null;
    this.typed = isQuick ? this.typed + key : key;
    return null;
  }
}

/**
 * Stands before every shortcut: a letter is held for a moment, because it may be the first of a scan. A scan is handed to
 * `scanned` and reaches nobody else; what a person typed goes on to where it was typed.
 */
export class KeyGate {
  private readonly listener = new ScanListener();
  private readonly released = new WeakSet<Event>();
  private held: KeyboardEvent[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;
  /** Did a key that was let go just now move the cursor? */
  private typesInto = false;

  constructor(private readonly scanned: (label: string) => void) {}

  /** Give it every keydown in the capture phase, before anybody else hears of it. */
  take(event: KeyboardEvent): void {
    const field = event.target instanceof HTMLElement && event.target.closest(FIELDS);
    if (this.released.has(event) || field || event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
    const label = this.listener.key(event.key, event.timeStamp);
    if (label !== null) {
      clearTimeout(this.timer);
      this.held = [];
      swallow(event);
      this.scanned(label);
    } else if (event.key.length === 1 && event.key !== ' ') {
      swallow(event);
      this.held.push(event);
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.release(), HOLD_MS);
    } else if (event.key !== 'Shift') this.release();
  }

  private release(): void {
    clearTimeout(this.timer);
    for (const { key, code, shiftKey, target } of this.held.splice(0)) {
      // A key before this one may have put the cursor into a field, as `/` does: then this is the first letter of a word.
      const field = document.activeElement;
      if (this.typesInto && isTextField(field)) {
        write(field, key);
        continue;
      }
      const again = new KeyboardEvent('keydown', { key, code, shiftKey, bubbles: true, cancelable: true });
      this.released.add(again);
      const before = document.activeElement;
      target?.dispatchEvent(again);
      this.typesInto ||= document.activeElement !== before;
    }
    this.typesInto = false;
  }
}

const isTextField = (field: Element | null): field is HTMLInputElement | HTMLTextAreaElement =>
  field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement;

/** Writes as a key press would, where the cursor is. */
function write(field: HTMLInputElement | HTMLTextAreaElement, text: string): void {
  field.setRangeText(text, field.selectionStart ?? field.value.length, field.selectionEnd ?? field.value.length, 'end');
  field.dispatchEvent(new InputEvent('input', { bubbles: true, data: text, inputType: 'insertText' }));
}

/** Where a person writes: nothing is held there. */
const FIELDS = 'input, textarea, select, [contenteditable], [role=combobox], [role=searchbox]';

function swallow(event: KeyboardEvent): void {
  event.preventDefault();
  event.stopImmediatePropagation();
}
