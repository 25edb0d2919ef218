import type { IntakeState } from '../copies/index.js';

/** What pulling a card depends on. */
export interface PullNow {
  readonly present: boolean;
  /** Did it come in through a browser? Then there is no card. */
  readonly handedIn: boolean;
  readonly state: IntakeState;
  /** Was everything read, compared and recognised? */
  readonly readThrough: boolean;
  readonly comparing: number;
  /** Items that are taken and wait to be filed. */
  readonly taken: number;
  readonly letGo: 'asked' | 'done' | null;
  /** Can it be unmounted? What cannot may be pulled as soon as nothing needs it. */
  readonly letsGo: boolean;
  /** What is done to the card itself just now. */
  readonly work: 'clear' | 'restore' | null;
}

export interface Pulling {
  /** `let it go`: nothing needs it, but it is still mounted. */
  readonly standing: 'no card' | 'needed' | 'let it go' | 'may be pulled';
  readonly why: string | null;
  /** Is it only needed because something on it waits? Then a person may say: all the same. */
  readonly waits: boolean;
}

/** May the card be pulled? Nothing reads it, nothing waits for it, it is not mounted. */
export function pullingOf(card: PullNow): Pulling {
  const is = (standing: Pulling['standing'], why: string | null = null, waits = false): Pulling => ({ standing, why, waits });
  if (card.handedIn) return is('no card');
  if (!card.present) return is(card.letGo === 'done' ? 'may be pulled' : 'no card');
  if (card.work === 'clear') return is('needed', 'it is being cleared');
  if (card.work === 'restore') return is('needed', 'files are put back on it');
  if (card.letGo === 'asked') return is('needed', 'it is being let go');
  if (card.state === 'filing') return is('needed', 'it is being filed');
  if (!card.readThrough) return is('needed', 'it is being read');
  if (card.comparing > 0) return is('needed', `${card.comparing} are being compared with what is filed`);
  if (card.state === 'needs attention') return is('needed', 'filing is not finished', true);
  if (card.state === 'open' && card.taken > 0)
    return is('needed', `${card.taken} taken ${card.taken === 1 ? 'is' : 'are'} not filed`, true);
  return is(card.letsGo ? 'let it go' : 'may be pulled');
}
