import { foldName, mendPath, nameFaults, PATH_CHARS_MAX, folderOf } from '../rule/index.js';

/** One file that gets another path. */
export interface Step {
  /** null: a file that the logbook does not know. */
  readonly filedItemId: number | null;
  readonly from: string;
  readonly to: string;
}

/** Why a step cannot be taken. */
export interface StepFault {
  readonly step: Step;
  readonly why: string;
}

/**
 * Looks through a mend before it is done: nothing may be replaced, no two may meet, every name must be legal everywhere.
 * @param stands what stands at a folded path, or is promised to somebody; the mend's own files do not count.
 */
export function faultsOf(steps: readonly Step[], stands: (folded: string) => boolean): StepFault[] {
  const faults: StepFault[] = [];
  const leaving = new Set(steps.map(({ from }) => foldName(from)));
  const coming = new Map<string, Step>();
  for (const step of steps) {
    const folded = foldName(step.to);
    const fault = (why: string) => void faults.push({ step, why });
    const names = step.to.split('/').flatMap((part) => nameFaults(part));
    if (step.to === '' || step.to.startsWith('/') || step.to.split('/').includes('..')) fault('it would leave the place');
    else if (names.length) fault(`it would be called ${step.to}: ${names.join('; ')}`);
    else if (step.to.length > PATH_CHARS_MAX) fault(`its path would have more than ${PATH_CHARS_MAX} characters`);
    else if (coming.has(folded)) fault(`${coming.get(folded)!.from} would be called the same`);
    else if (stands(folded) && !leaving.has(folded)) fault(`${step.to} stands there already`);
    coming.set(folded, step);
  }
  return faults;
}

/** A whole folder that gets another path, with all that stands in it. */
export interface FolderStep {
  readonly from: string;
  readonly to: string;
}

/**
 * Steps in the order in which they can be taken: each name is free when its turn comes, because whoever has it went before.
 * Those that go in a circle, and those whose name changes by case only, go by way of a temporary name beside their new one.
 * @param temporary a name that nobody has, by a number that is given once.
 */
export function inTurn(steps: readonly Step[], temporary: (n: number) => string): Step[] {
  const bySource = new Map(steps.map((step) => [foldName(step.from), step]));
  const state = new Map<Step, 'under way' | 'done'>();
  const turns: Step[] = [];
  const last: Step[] = [];
  let n = 0;
  const byWayOf = (step: Step) => {
    const slash = step.to.lastIndexOf('/');
    const between = `${step.to.slice(0, slash + 1)}${temporary(n++)}`;
    turns.push({ ...step, to: between });
    last.push({ ...step, from: between });
  };
  for (const step of steps) {
    // Along the chain of those who have each other's name, the last one first.
    const chain: Step[] = [];
    for (let one: Step | undefined = step; one && !state.has(one); one = bySource.get(foldName(one.to))) {
      state.set(one, 'under way');
      chain.push(one);
    }
    const end = chain.at(-1);
    const next = end && bySource.get(foldName(end.to));
    const isCircle = next !== undefined && state.get(next) === 'under way';
    if (isCircle) {
      // It steps aside first, so that whoever wants its name can have it.
      byWayOf(next);
      state.set(next, 'done');
    }
    for (const one of chain.reverse()) {
      if (state.get(one) === 'done') continue;
      turns.push(one);
      state.set(one, 'done');
    }
  }
  return [...turns, ...last];
}

/**
 * What of a mend can be done by giving whole folders another name: every file that the logbook has in a folder and below
 * goes to the same place in another one.
 * @param filesBelow how many files the logbook has in a folder and below. @param stands does anything stand at a folded path?
 */
export function asFolders(
  steps: readonly Step[],
  filesBelow: (folder: string) => number,
  stands: (folded: string) => boolean,
): { readonly folders: readonly FolderStep[]; readonly rest: readonly Step[] } {
  const wholes = new Map<string, { to: string; count: number }>();
  for (const { from, to } of steps) {
    // The common end of both paths stays; what stands before it is the folder.
    const [a, b] = [from.split('/'), to.split('/')];
    let end = 0;
    while (end < Math.min(a.length, b.length) - 1 && a[a.length - 1 - end] === b[b.length - 1 - end]) end++;
    if (end === 0) continue;
    const [folder, other] = [a.slice(0, a.length - end).join('/'), b.slice(0, b.length - end).join('/')];
    if (!folder || !other) continue;
    const whole = wholes.get(folder);
    if (!whole) wholes.set(folder, { to: other, count: 1 });
    else if (whole.to === other) whole.count++;
    else whole.count = -1_000_000_000;
  }
  const folders = [...wholes]
    .filter(
      ([from, { to, count }]) =>
        count === filesBelow(from) && !stands(foldName(to)) && !to.startsWith(`${from}/`) && foldName(to) !== foldName(from),
    )
    .map(([from, { to }]) => ({ from, to }))
    // The outermost first; what lies in it goes with it.
    .sort((x, y) => x.from.length - y.from.length);
  const outer = folders.filter(({ from }) => !folders.some((other) => from.startsWith(`${other.from}/`)));
  const distinct = new Set<string>();
  const taken = outer.filter(({ to }) => !distinct.has(foldName(to)) && distinct.add(foldName(to)));
  const goes = ({ from }: Step) => taken.some((folder) => from.startsWith(`${folder.from}/`));
  return { folders: taken, rest: steps.filter((step) => !goes(step)) };
}

/** Folders that steps make and those that they leave, each once, in order. */
export function foldersOf(steps: readonly Step[]): { readonly into: string[]; readonly outOf: string[] } {
  const into = [...new Set(steps.map(({ to }) => folderOf(to)))].sort();
  return { into, outOf: [...new Set(steps.map(({ from }) => folderOf(from)))].sort() };
}

/** A path under which every system can keep a file, with a number where another one has it already. */
export function legalPath(path: string, stands: (folded: string) => boolean): string {
  const mended = mendPath(path);
  const slash = mended.lastIndexOf('/');
  const dot = mended.lastIndexOf('.');
  const [stem, ext] = dot > slash + 1 ? [mended.slice(0, dot), mended.slice(dot)] : [mended, ''];
  for (let n = 1; ; n++) {
    const candidate = n === 1 ? mended : `${stem}-${n}${ext}`;
    if (candidate !== path && !stands(foldName(candidate))) return candidate;
  }
}
