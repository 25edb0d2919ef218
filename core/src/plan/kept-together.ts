import { foldName, folderOf, mendPath } from '../rule/index.js';

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

/**
 * Below which folder of the drive does a path of the card stand as it is? Compared folder by folder, as file systems
 * compare names. @returns '' for the root of the place; null when it stands under another name.
 */
export function baseBelow(card: string, drive: string): string | null {
  const [below, parts] = [mendPath(card).split('/'), drive.split('/')];
  const from = parts.length - below.length;
  return from >= 0 && below.every((part, index) => foldName(part) === foldName(parts[from + index]!))
    ? parts.slice(0, from).join('/')
    : null;
}

/** Parts what stands as on the card from what has names of the house, told by the paths alone: also long after filing. */
export function keptTogether<P extends Placed>(all: readonly P[]): { trees: KeptTogether<P>[]; named: P[] } {
  const told = all.map((one) => ({ one, base: baseBelow(one.from, one.to) }));
  // What lies at the root of the card has no folder that shows it: it is kept where others of the card are.
  const bases = new Map(
    told.flatMap(({ one, base }): [string, P[]][] => (base !== null && one.from.includes('/') ? [[base, []]] : [])),
  );
  const named: P[] = [];
  for (const { one, base } of told) ((base === null ? undefined : bases.get(base)) ?? named).push(one);
  const trees = [...bases].map(([base, placed]) => ({ base, root: commonFolder(placed), placed }));
  return { trees, named };
}

/** A folder that is filed into; of what is kept as on the card only that below which it stands. */
export interface FiledFolder {
  readonly path: string;
  readonly items: number;
  readonly isNew: boolean;
  readonly asOnCard: boolean;
}

/** @param isNew folders that filing makes. */
export function filedFolders(all: readonly Placed[], isNew: ReadonlySet<string>): FiledFolder[] {
  const { trees, named } = keptTogether(all);
  const kept = trees.map(({ base, placed }): FiledFolder => ({
    ...{ path: base, items: placed.length, asOnCard: true },
    isNew: placed.every(({ to }) => isNew.has(folderOf(to))),
  }));
  const counts = new Map<string, number>();
  for (const { to } of named) counts.set(folderOf(to), (counts.get(folderOf(to)) ?? 0) + 1);
  const bases = new Set(kept.map(({ path }) => path));
  const others = [...counts].filter(([path]) => !bases.has(path));
  return [...kept, ...others.map(([path, items]) => ({ path, items, isNew: isNew.has(path), asOnCard: false }))];
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
