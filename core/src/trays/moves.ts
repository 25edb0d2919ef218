import type { IntakeState } from '../copies/index.js';

export const TRAYS = ['in', 'on the desk', 'to give back', 'out'] as const;
export type Tray = (typeof TRAYS)[number];

/** What a move of a card depends on. */
export interface CardStanding {
  readonly tray: Tray;
  /** Its newest intake since it was handed in; null when it was not read yet. */
  readonly intake: {
    readonly state: IntakeState;
    /** Items taken and not filed. */
    readonly taken: number;
    /** Items that look as if they were filed already, and are still being compared. */
    readonly comparing?: number;
  } | null;
}

/**
 * Why a card may not go to a tray; null when it may. A card leaves *in* only through the whole process: it is read, what
 * is taken is filed and proven, then it is given back.
 */
export function whyNotTo(card: CardStanding, to: Tray): string | null {
  const { tray, intake } = card;
  if (tray === to) return null;
  switch (to) {
    case 'in':
      if (tray === 'out') return null;
      if (tray === 'to give back') return 'It was filed: put it on the desk to look at it again.';
      return intake?.state === 'open' ? null : 'Its filing has begun: it stays on the desk.';
    case 'on the desk':
      if (tray === 'out') return 'It is out: hand it in first.';
      return intake ? null : 'It was not read yet: put it into a reader.';
    case 'to give back':
      if (tray === 'out') return 'It is out already.';
      if (tray === 'in') return 'It leaves this tray through the desk: open it first.';
      return whyNotDone(intake);
    case 'out':
      return tray === 'to give back' ? null : 'It goes to “to give back” first, when everything taken from it tallies.';
  }
}

function whyNotDone(intake: CardStanding['intake']): string | null {
  if (!intake) return 'It was not read yet: put it into a reader.';
  if (intake.state === 'filing') return 'It is being filed: wait until its copies tally.';
  if (intake.state === 'needs attention') return 'Not all of its copies tally.';
  if (intake.comparing) return `${intake.comparing} are still being compared with what is filed: wait for that, or leave them.`;
  if (intake.state === 'open' && intake.taken > 0) return `${intake.taken} taken and not filed: file them, or leave them.`;
  return null;
}

/** The tray a card goes to when its label is scanned at the counter; null: it stays, and opens. */
export function nextTray(card: CardStanding): Tray | null {
  if (card.tray === 'out') return 'in';
  return card.tray === 'to give back' ? 'out' : null;
}
