import type { IntakeState } from '../copies/index.js';
import type { Tray } from './moves.js';

/** What the next step of a card depends on. */
export interface CardNow {
  readonly state: IntakeState;
  readonly tray: Tray;
  /** Is it in a reader? */
  readonly present: boolean;
  readonly cleared: boolean;
  readonly items: number;
  /** Items whose metadata is read, taken and not filed, filed already, and still compared with what is filed. */
  readonly read: number;
  readonly taken: number;
  readonly alreadyFiled: number;
  readonly comparing: number;
  /** Does the slip say whose it is, and what it was shot for? */
  readonly saysWho: boolean;
  readonly saysWhat: boolean;
  /** Did it come in through a browser? Then there is no card to put in, to clear or to give back. */
  readonly handedIn: boolean;
}

export interface NextStep {
  /** 0 something is in the way; 1 a person's hand is needed now; 2 it goes on by itself, or is done. */
  readonly urgency: 0 | 1 | 2;
  readonly words: string;
}

/** What is to be done with a card next, as a person at the counter says it. */
export function nextStep(card: CardNow): NextStep {
  const by = (urgency: NextStep['urgency'], words: string): NextStep => ({ urgency, words });
  if (card.state === 'needs attention')
    return by(0, card.present ? 'see what is in the way' : 'put it back into a reader: filing goes on');
  if (card.state === 'filing') return by(2, card.present ? 'being filed' : 'put it back into a reader: filing goes on');
  if (card.tray === 'to give back') {
    if (card.handedIn) return by(1, 'nothing to give back: it is done');
    if (!card.present) return by(1, 'give it back');
    return by(1, card.cleared ? 'pull it out, give it back' : 'clear it, or pull it out and give it back');
  }
  if (card.state !== 'open') return by(2, 'filed');
  if (!card.present) return by(1, 'put it into a reader');
  if (card.items === 0) return by(1, 'nothing is on it: pull it out');
  if (card.read < card.items) return by(2, 'being read');
  if (card.alreadyFiled === card.items) return by(1, 'nothing new is on it: give it back');
  if (card.comparing) return by(2, 'being compared with what is filed');
  if (!card.saysWho) return by(1, 'say whose it is');
  if (!card.saysWhat) return by(1, 'say what it is');
  return card.taken ? by(1, `file ${card.taken}`) : by(1, 'take something, or give it back');
}
