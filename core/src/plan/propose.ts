import { houseDay, MIDNIGHT, type WallClock } from '../capture/index.js';

/** An assignment as far as proposing it goes. Days are `yyyy-MM-dd`. */
export interface ProposableAssignment {
  readonly id: number;
  readonly from: string;
  readonly to: string;
  readonly expected: readonly { readonly id: number }[];
}

/**
 * The assignments that items of these days may have been shot for, the likeliest first: those that last on a day of
 * theirs, and among them those for which the contributor is expected, then the shorter ones.
 * @param dayBegins when the house's day begins, `HH:mm`: a night belongs to the day before it.
 */
export function proposeAssignments<A extends ProposableAssignment>(
  captured: readonly WallClock[],
  assignments: readonly A[],
  contributorId: number | null,
  dayBegins = MIDNIGHT,
): A[] {
  const days = [...new Set(captured.map((local) => houseDay(local, dayBegins)))];
  const expected = (assignment: A) => assignment.expected.some(({ id }) => id === contributorId);
  const length = (assignment: A) => Date.parse(assignment.to) - Date.parse(assignment.from);
  return assignments
    .filter(({ from, to }) => days.some((day) => from <= day && day <= to))
    .sort((a, b) => Number(expected(b)) - Number(expected(a)) || length(a) - length(b) || a.id - b.id);
}

/** The one assignment that is proposed by itself: the only one of those days, or the only one that expects the contributor. */
export function onlyProposal<A extends ProposableAssignment>(
  captured: readonly WallClock[],
  assignments: readonly A[],
  contributorId: number | null,
  dayBegins = MIDNIGHT,
): A | null {
  const proposed = proposeAssignments(captured, assignments, contributorId, dayBegins);
  const expecting = proposed.filter(({ expected }) => expected.some(({ id }) => id === contributorId));
  if (expecting.length === 1) return expecting[0]!;
  return proposed.length === 1 ? proposed[0]! : null;
}
