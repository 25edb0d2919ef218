/** To what a habit belongs, the nearest first. */
export const BELONGINGS = ['card', 'contributor', 'assignment', 'reader', 'house'] as const;
export type Belonging = (typeof BELONGINGS)[number];

/** What a slip can say by itself. */
export interface Answers {
  readonly contributorId?: number;
  readonly assignmentId?: number;
  readonly wordIds?: readonly number[];
  readonly locationId?: number;
  readonly termsId?: number;
  readonly creditLine?: string;
  readonly copyrightNotice?: string;
  readonly take?: 'all' | 'none';
  readonly fileByItself?: boolean;
}
export type AnswerField = keyof Answers;

export interface Habit {
  readonly id: number;
  readonly name: string;
  readonly belongs: Belonging;
  /** Which card, contributor or assignment by id, which reader by its folder; null for the house. */
  readonly of: number | string | null;
  readonly answers: Answers;
}

/** Where a card is, and what is said of it already. */
export interface SlipNow {
  readonly cardId: number;
  readonly reader: string | null;
  readonly contributorId: number | null;
  readonly assignmentId: number | null;
}

export interface Answer {
  readonly value: NonNullable<Answers[AnswerField]>;
  readonly habit: { readonly id: number; readonly name: string; readonly belongs: Belonging };
}
export type AnswersGiven = Readonly<Partial<Record<AnswerField, Answer>>>;

/**
 * What habits answer for a slip: the nearest wins, field by field. An answer may bring in others (a card says whose it
 * is, its contributor's habit says the words), so it is asked again until nothing new comes; what a person said is
 * never answered over, and an answer once given stays.
 */
export function answersFor(habits: readonly Habit[], slip: SlipNow): AnswersGiven {
  const given: Partial<Record<AnswerField, Answer>> = {};
  const now = { ...slip };
  // Once for each belonging that an answer may bring in.
  for (const _round of BELONGINGS) {
    const fitting = habits
      .filter((habit) => fits(habit, now))
      .sort((a, b) => BELONGINGS.indexOf(a.belongs) - BELONGINGS.indexOf(b.belongs) || a.id - b.id);
    let news = false;
    for (const { id, name, belongs, answers } of fitting)
      for (const [field, value] of Object.entries(answers) as [AnswerField, Answer['value'] | undefined][]) {
        if (value === undefined || isSaid(field, slip)) continue;
        const before = given[field];
        if (before && BELONGINGS.indexOf(before.habit.belongs) <= BELONGINGS.indexOf(belongs)) continue;
        // Who and what, once answered, brought others in: they stay.
        if (before && (field === 'contributorId' || field === 'assignmentId')) continue;
        given[field] = { value, habit: { id, name, belongs } };
        news = true;
      }
    if (given.contributorId) now.contributorId = given.contributorId.value as number;
    if (given.assignmentId) now.assignmentId = given.assignmentId.value as number;
    if (!news) break;
  }
  return given;
}

const isSaid = (field: AnswerField, slip: SlipNow): boolean =>
  (field === 'contributorId' && slip.contributorId !== null) || (field === 'assignmentId' && slip.assignmentId !== null);

function fits({ belongs, of }: Habit, slip: SlipNow): boolean {
  switch (belongs) {
    case 'card':
      return of === slip.cardId;
    case 'contributor':
      return of !== null && of === slip.contributorId;
    case 'assignment':
      return of !== null && of === slip.assignmentId;
    case 'reader':
      return of !== null && of === slip.reader;
    case 'house':
      return true;
  }
}
