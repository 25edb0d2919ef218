/** States of one copy of one item at one place. */
export const COPY_STATES = ['waiting', 'copying', 'tallied', 'differs', 'missing', 'unreadable'] as const;
export type CopyState = (typeof COPY_STATES)[number];

/** States of an intake. */
export const INTAKE_STATES = ['open', 'filing', 'tallied', 'needs attention', 'closed'] as const;
export type IntakeState = (typeof INTAKE_STATES)[number];

/** The shapes of a notch on the stick: state is shape first, colour second. `none`: that place does not hold such items. */
export const NOTCH_SHAPES = ['open', 'half', 'cut', 'crossed', 'ring', 'double', 'none'] as const;
export type NotchShape = (typeof NOTCH_SHAPES)[number];

const TROUBLE: readonly CopyState[] = ['differs', 'missing', 'unreadable'];

/**
 * The notch of a copy: cut when it tallies, half while it is being copied, crossed when something is wrong.
 */
export function notchOfCopy(state: CopyState): NotchShape {
  if (state === 'tallied') return 'cut';
  if (state === 'copying') return 'half';
  return TROUBLE.includes(state) ? 'crossed' : 'open';
}

/** An item as far as its notch goes. */
export interface NotchedItem {
  readonly taken: boolean;
  readonly problem: string | null;
  /** The same bytes stand on the drive; not confirmed while they are still being compared. */
  readonly alreadyFiled: { readonly confirmed: boolean } | null;
  readonly filedAs: string | null;
  readonly copies: readonly { readonly place: string; readonly state: CopyState }[];
}

/** The notch of an item on the card's half of the stick, and one for each of these places. */
export function notchesOf(item: NotchedItem, places: readonly string[]): { card: NotchShape; copies: NotchShape[] } {
  const all = (shape: NotchShape) => ({ card: shape, copies: places.map(() => shape) });
  if (item.filedAs === null) {
    if (item.alreadyFiled?.confirmed) return all('double');
    if (item.problem !== null) return all('crossed');
    if (!item.taken) return all('ring');
  }
  const copies = places.map((place) => {
    const copy = item.copies.find((candidate) => candidate.place === place);
    if (copy) return notchOfCopy(copy.state);
    return item.filedAs === null ? 'open' : 'none';
  });
  return { card: 'cut', copies };
}

/** The state of an intake whose items were given to filing, from all their copies at required places. */
export function stateOfFiling(copies: Iterable<CopyState>): 'filing' | 'tallied' | 'needs attention' {
  let waiting = false;
  let trouble = false;
  for (const state of copies) {
    if (TROUBLE.includes(state)) trouble = true;
    else if (state !== 'tallied') waiting = true;
  }
  if (waiting) return 'filing';
  return trouble ? 'needs attention' : 'tallied';
}
