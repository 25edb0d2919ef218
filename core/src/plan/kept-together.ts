import { foldName, mendPath } from '../rule/index.js';

/** Where a file of the card stands on the drive, or will. */
export interface Placed {
  readonly from: string;
  readonly to: string;
}

/** Files that stand below one folder with the card's own folders and names. */
export interface KeptTogether<P extends Placed> {
  readonly base: string;
  /** The folder on the card that holds them all; '' is the card. */
  readonly root: string;
  readonly placed: readonly P[];
}

/** Parts what stands as on the card from what has names of the house, told by the paths alone: also long after filing. */
export function keptTogether<P extends Placed>(all: readonly P[]): { trees: KeptTogether<P>[]; named: P[] } {
  const bases = new Map<string, P[]>();
  for (const one of all) {
    const base = one.from.includes('/') ? baseOf(one) : null;
    if (base === null) continue;
    const known = bases.get(base);
    if (known) known.push(one);
    else bases.set(base, [one]);
  }
  const named: P[] = [];
  for (const one of all) {
    if (one.from.includes('/')) {
      if (baseOf(one) === null) named.push(one);
      continue;
    }
    // What lies at the root of the card has no folder that shows it: it is kept where others of the card are.
    const kept = bases.get(baseOf(one) ?? '\0');
    if (kept) kept.push(one);
    else named.push(one);
  }
  const trees = [...bases].map(([base, placed]) => ({ base, root: commonFolder(placed), placed }));
  return { trees, named };
}

function baseOf({ from, to }: Placed): string | null {
  const below = `/${mendPath(from)}`;
  const path = `/${to}`;
  return foldName(path).endsWith(foldName(below)) ? path.slice(1, path.length - below.length) : null;
}

function commonFolder(placed: readonly Placed[]): string {
  let common = placed[0]!.from.split('/').slice(0, -1);
  for (const { from } of placed) {
    const parts = from.split('/').slice(0, -1);
    const differs = common.findIndex((part, index) => part !== parts[index]);
    if (differs >= 0) common = common.slice(0, differs);
  }
  return common.join('/');
}
