import type { IntakeSummary } from '@tally/contract';
import { nextStep, type NextStep } from '@tally/core/trays';

/** What is to be done with a card next. */
export function nextStepOf(intake: IntakeSummary): NextStep {
  const said = (what: 'contributor' | 'assignment') =>
    intake[what] !== null || (intake.parts.length > 0 && intake.parts.every((part) => part[what] !== null));
  return nextStep({
    ...intake,
    cleared: intake.clearedAt !== null,
    saysWho: said('contributor'),
    saysWhat: said('assignment'),
  });
}

/** Those that need a hand now first, those in trouble before them; else in the order in which they came. */
export const byNeed = (intakes: readonly IntakeSummary[]): IntakeSummary[] =>
  [...intakes].sort((a, b) => nextStepOf(a).urgency - nextStepOf(b).urgency);
