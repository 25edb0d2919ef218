import type { IntakeState } from '../copies/index.js';
import { whyNotTo, type Tray } from '../trays/index.js';

/** What a person wants of a filing: that it pauses or stops; null: that it goes on. */
export type Wish = 'pause' | 'stop' | null;

/** How an intake stands, and the card it came by. */
export interface Life {
  readonly state: IntakeState;
  readonly tray: Tray;
  /** Is the card in a reader? */
  readonly present: boolean;
  readonly wish: Wish;
  /** Is the card being let go, or was it, so that it may be pulled? Until it is put in again. */
  readonly letGo: 'asked' | 'done' | null;
}

/** What can happen to an intake or its card. A new intake begins open, in the tray *in*, present. */
export type Happening =
  /** The card is in a reader again with exactly the files of this intake. */
  | { readonly what: 'put in'; readonly unfinished: boolean }
  | { readonly what: 'pulled' }
  /** Somebody wants to pull the card: it is unmounted; that failed; that is done. */
  | { readonly what: 'letting go' | 'not let go' | 'let go' }
  /** Something new is to be filed: files arrived, or what was taken for filed turned out to be something else. */
  | { readonly what: 'more came' }
  | { readonly what: 'said' }
  | { readonly what: 'begun' }
  | { readonly what: 'wished'; readonly wish: Wish }
  /** Filing, or filling up afterwards, came to rest. */
  | { readonly what: 'settled'; readonly whole: boolean }
  /** A filing was stopped by a person. `kept`: some items are in some places only. */
  | { readonly what: 'stopped'; readonly kept: boolean }
  | { readonly what: 'tried again' }
  /** A person set items aside. `whole`: everything else tallies; `filed`: is there anything else that is filed? */
  | { readonly what: 'set aside'; readonly whole: boolean; readonly filed: boolean }
  /** Somebody moves the card. `taken`: items taken and not filed; `comparing`: items still compared with what is filed. */
  | { readonly what: 'moved'; readonly to: Tray; readonly taken: number; readonly comparing: number }
  /** Somebody said that the card was given back, and it was not. */
  | { readonly what: 'not given back' }
  | { readonly what: 'cleared' }
  /** Everything of it was taken into the logbook where it stood. */
  | { readonly what: 'adopted' }
  /** What tallied is looked at no more: its card went out, or is taken for formatted. */
  | { readonly what: 'done with' };

const AS_IT_IS: Readonly<Record<IntakeState, readonly IntakeState[]>> = {
  ...{ open: ['open'], filing: ['filing'], tallied: ['tallied'], 'needs attention': ['needs attention'], closed: ['closed'] },
};

/**
 * The states that an intake can be in after a happening, by the state before. None: it cannot happen then.
 * Filing ends by being settled or stopped, never by anything else.
 */
export const TABLE: Readonly<Record<Happening['what'], Readonly<Record<IntakeState, readonly IntakeState[]>>>> = {
  'put in': {
    open: ['open'],
    filing: ['filing'],
    tallied: ['tallied'],
    'needs attention': ['needs attention', 'filing'],
    closed: ['closed'],
  },
  pulled: {
    open: ['open'],
    filing: ['filing'],
    tallied: ['tallied'],
    'needs attention': ['needs attention'],
    closed: ['closed'],
  },
  'letting go': { ...AS_IT_IS, filing: [] },
  'not let go': AS_IT_IS,
  'let go': AS_IT_IS,
  'more came': { open: ['open'], filing: [], tallied: ['open'], 'needs attention': ['needs attention'], closed: [] },
  said: {
    open: ['open'],
    filing: ['filing'],
    tallied: ['tallied'],
    'needs attention': ['needs attention'],
    closed: ['closed'],
  },
  begun: { open: ['filing'], filing: [], tallied: ['filing'], 'needs attention': ['filing'], closed: ['filing'] },
  wished: { open: [], filing: ['filing'], tallied: [], 'needs attention': [], closed: [] },
  settled: {
    open: [],
    filing: ['tallied', 'needs attention'],
    tallied: [],
    'needs attention': ['tallied', 'needs attention'],
    closed: [],
  },
  stopped: { open: [], filing: ['open', 'needs attention'], tallied: [], 'needs attention': [], closed: [] },
  'tried again': { open: [], filing: [], tallied: [], 'needs attention': ['filing'], closed: [] },
  'set aside': {
    open: ['open'],
    filing: [],
    tallied: ['tallied'],
    'needs attention': ['needs attention', 'tallied', 'open'],
    closed: [],
  },
  'not given back': { open: ['open'], filing: [], tallied: [], 'needs attention': [], closed: ['tallied'] },
  moved: {
    open: ['open'],
    filing: ['filing'],
    tallied: ['tallied', 'closed'],
    'needs attention': ['needs attention'],
    closed: ['closed'],
  },
  cleared: { open: ['open'], filing: [], tallied: ['tallied'], 'needs attention': ['needs attention'], closed: ['closed'] },
  'done with': { open: [], filing: [], tallied: ['closed'], 'needs attention': [], closed: [] },
  adopted: { open: ['closed'], filing: [], tallied: [], 'needs attention': [], closed: ['closed'] },
};

/** Why something cannot happen now, in words for the person who asked for it. */
const REFUSALS: Readonly<Partial<Record<Happening['what'], string>>> = {
  begun: 'This card is being filed already.',
  'letting go': 'This card is being filed.',
  wished: 'This card is not being filed.',
  'tried again': 'There is nothing to try again.',
  'set aside': 'This card is being filed or was given back.',
  'not given back': 'This card was not given back.',
  cleared: 'This card is being filed: wait until its copies tally.',
  adopted: 'This came by a card: it is filed, not adopted.',
  'more came': 'This card is being filed or was given back.',
};

export type Outcome = { readonly ok: true; readonly life: Life } | { readonly ok: false; readonly why: string };

/** What becomes of a life when something happens. */
export function becomes(life: Life, happening: Happening): Outcome {
  const no = (why: string): Outcome => ({ ok: false, why });
  if (!TABLE[happening.what][life.state].length) return no(REFUSALS[happening.what] ?? 'That cannot happen now.');
  if (happening.what === 'letting go' && !life.present) return no('The card is not in the reader.');
  if (happening.what === 'begun' && life.letGo === 'asked') return no('This card is being let go just now.');
  if (happening.what === 'begun' && !life.present) return no('The card is not in the reader. Put it back to file it.');
  if (happening.what === 'tried again' && !life.present)
    return no('The card is not in the reader. Put it back and filing goes on by itself.');
  // What lies in a reader is a card: it is filed.
  if (happening.what === 'adopted' && (life.present || life.tray !== 'out'))
    return no('This came by a card: it is filed, not adopted.');
  if (happening.what === 'not given back' && life.tray !== 'out') return no('This card was not given back.');
  if (happening.what === 'moved') {
    const { taken, comparing } = happening;
    const why = whyNotTo({ tray: life.tray, intake: { state: life.state, taken, comparing } }, happening.to);
    if (why !== null) return no(why);
  }
  return { ok: true, life: after(life, happening) };
}

function after(life: Life, happening: Happening): Life {
  switch (happening.what) {
    case 'put in':
      return putIn(life, happening.unfinished);
    case 'pulled':
      // It went while it was let go: that was why.
      return { ...life, present: false, letGo: life.letGo === 'asked' ? 'done' : life.letGo };
    case 'letting go':
      return { ...life, letGo: 'asked' };
    case 'not let go':
      return { ...life, letGo: life.letGo === 'asked' ? null : life.letGo };
    case 'let go':
      return { ...life, present: false, letGo: 'done' };
    case 'more came':
      return life.state === 'needs attention'
        ? { ...life, present: true, letGo: null }
        : { ...life, letGo: null, state: 'open', tray: life.tray === 'on the desk' ? life.tray : 'in', present: true };
    case 'said':
      return { ...life, tray: life.tray === 'in' ? 'on the desk' : life.tray };
    case 'begun':
    case 'tried again':
      return { ...life, state: 'filing', tray: 'on the desk', wish: null };
    case 'set aside':
      return setAside(life, happening);
    case 'not given back':
      return { ...life, tray: 'to give back', state: life.state === 'closed' ? 'tallied' : life.state };
    case 'wished':
      return { ...life, wish: happening.wish };
    case 'settled':
      return happening.whole
        ? { ...life, state: 'tallied', tray: 'to give back', wish: null }
        : { ...life, state: 'needs attention', tray: 'on the desk', wish: null };
    case 'stopped':
      return { ...life, state: happening.kept ? 'needs attention' : 'open', wish: null };
    case 'moved':
      return {
        ...life,
        tray: happening.to,
        letGo: happening.to === 'out' && !life.present ? null : life.letGo,
        state: happening.to === 'out' && life.state === 'tallied' ? 'closed' : life.state,
      };
    case 'cleared':
      return life;
    case 'done with':
    case 'adopted':
      return { ...life, state: 'closed' };
  }
}

/** What was handed in by hand and turns out to hold nothing new is done; what waited for its card goes on. */
function putIn(life: Life, unfinished: boolean): Life {
  const { state, tray } = life;
  if (state === 'needs attention' && unfinished)
    return { ...life, state: 'filing', tray: 'on the desk', present: true, wish: null, letGo: null };
  const done = state === 'tallied' || state === 'closed';
  const comes = tray === 'out' || (tray === 'in' && done);
  const to = done ? 'to give back' : state === 'open' ? 'in' : 'on the desk';
  return { ...life, tray: comes ? to : tray, present: true, letGo: null };
}

/** What waited for these alone is whole now, or was never begun. */
function setAside(life: Life, { whole, filed }: { readonly whole: boolean; readonly filed: boolean }): Life {
  if (life.state !== 'needs attention' || !whole) return life;
  return filed ? { ...life, state: 'tallied', tray: 'to give back', wish: null } : { ...life, state: 'open', wish: null };
}
