/** Something that lasts from one day to another, `yyyy-MM-dd`, both included. */
export interface Lasting {
  readonly from: string;
  readonly to: string;
}

const DAY_MS = 86_400_000;
const at = (day: string): number => Date.parse(`${day}T00:00:00Z`);
const dayOf = (ms: number): string => new Date(ms).toISOString().slice(0, 10);

/** The Monday of a day's week (ISO 8601: weeks begin on Monday). */
export function mondayOf(day: string): string {
  const ms = at(day);
  return dayOf(ms - ((new Date(ms).getUTCDay() + 6) % 7) * DAY_MS);
}

/** A tape along the days of one week: which columns (0: Monday), on which line below the others. */
export interface Tape<T> {
  readonly of: T;
  readonly first: number;
  readonly days: number;
  readonly line: number;
  /** Does it go on before, or after, this week? */
  readonly before: boolean;
  readonly after: boolean;
}

export interface Week<T> {
  readonly monday: string;
  readonly days: readonly string[];
  readonly tapes: readonly Tape<T>[];
}

/** Weeks with what lasts through them, as tapes that never lie over each other: the longest first, each on the first free line. */
export function weeksOf<T extends Lasting>(things: readonly T[], first: string, count: number): Week<T>[] {
  const monday = at(mondayOf(first));
  return Array.from({ length: count }, (_, index) => {
    const begins = monday + index * 7 * DAY_MS;
    const days = Array.from({ length: 7 }, (_day, i) => dayOf(begins + i * DAY_MS));
    const [from, to] = [days[0]!, days[6]!];
    const here = things
      .filter((thing) => thing.from <= to && thing.to >= from)
      .sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : a.to > b.to ? -1 : 1));
    const taken: number[] = [];
    const tapes = here.map((thing) => {
      const begin = Math.max(0, days.indexOf(thing.from));
      const end = thing.to > to ? 6 : days.indexOf(thing.to);
      let line = taken.findIndex((until) => until < begin);
      if (line < 0) line = taken.length;
      taken[line] = end;
      return { of: thing, first: begin, days: end - begin + 1, line, before: thing.from < from, after: thing.to > to };
    });
    return { monday: from, days, tapes };
  });
}
