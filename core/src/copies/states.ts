/** States of one copy of one item at one place. */
export const COPY_STATES = ['waiting', 'copying', 'tallied', 'differs', 'missing', 'unreadable'] as const;
export type CopyState = (typeof COPY_STATES)[number];

/** States of an intake. */
export const INTAKE_STATES = ['open', 'filing', 'tallied', 'needs attention', 'closed'] as const;
export type IntakeState = (typeof INTAKE_STATES)[number];

/** The shapes of a notch on the stick: state is shape first, colour second. */
export const NOTCH_SHAPES = ['open', 'half', 'cut', 'crossed', 'ring', 'double'] as const;
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
  readonly alreadyFiled: unknown;
  readonly filedAs: string | null;
  readonly copies: readonly { readonly place: string; readonly state: CopyState }[];
}

/** The notch of an item on the card's half of the stick, and one for each of these places. */
export function notchesOf(item: NotchedItem, places: readonly string[]): { card: NotchShape; copies: NotchShape[] } {
  const all = (shape: NotchShape) => ({ card: shape, copies: places.map(() => shape) });
  if (item.filedAs === null) {
    if (item.alreadyFiled) return all('double');
    if (item.problem !== null) return all('crossed');
    if (!item.taken) return all('ring');
  }
  const copies = places.map((place) => notchOfCopy(item.copies.find((copy) => copy.place === place)?.state ?? 'waiting'));
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

export type Clearance = { readonly safe: true } | { readonly safe: false; readonly reasons: readonly string[] };

/**
 * May the card be given up, as far as the logbook knows? Every item must tally at every required place, on at least
 * two devices. (The card itself is looked at again before it is cleared; this is the state of the copies.)
 */
export function clearanceOfCopies(
  items: Iterable<{ readonly path: string; readonly tallied: readonly string[] }>,
  required: readonly { readonly id: string; readonly device: string }[],
): Clearance {
  const reasons: string[] = [];
  if (new Set(required.map((place) => place.device)).size < 2) reasons.push('the required places do not stand on two devices');
  let short = 0;
  let example = '';
  for (const item of items) {
    if (required.every((place) => item.tallied.includes(place.id))) continue;
    example ||= item.path;
    short++;
  }
  if (short)
    reasons.push(`${short} ${short === 1 ? 'item does' : 'items do'} not tally in every required place, first ${example}`);
  return reasons.length ? { safe: false, reasons } : { safe: true };
}
