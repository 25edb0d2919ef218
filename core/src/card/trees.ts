import type { CardFile, ObjectRole, Placed } from './object.js';
import type { StructureName } from './structures.js';

/** What lies in a folder of a tree. `clip` leads; everything else belongs to the clip whose stem begins its own. */
type Zone = 'clip' | Extract<ObjectRole, 'sound' | 'sidecar' | 'proxy' | 'thumbnail' | 'index'>;

interface TreeRule {
  readonly structure: StructureName;
  /** Is this folder the root of such a tree? Names in lower case. */
  readonly isRoot: (name: string, children: ReadonlySet<string>) => boolean;
  /** A parent that belongs to the tree too. */
  readonly within?: RegExp;
  /** What lies where, by the path below the root in lower case; the first that fits. */
  readonly zones: readonly (readonly [test: RegExp, zone: Zone])[];
  /** The clip that a file in the clip zone is (part of). */
  readonly clip: (file: CardFile) => { readonly clip: string; readonly order: number | null };
}

const byStem = (file: CardFile) => ({ clip: file.stem, order: null });
const any =
  (...names: string[]) =>
  (children: ReadonlySet<string>) =>
    names.some((name) => children.has(name));

const TREES: readonly TreeRule[] = [
  {
    structure: 'avchd',
    isRoot: (name, children) => name === 'bdmv' && any('stream', 'clipinf', 'playlist')(children),
    within: /^avchd$/,
    zones: [
      [/(^|\/)stream\//, 'clip'],
      [/(^|\/)clipinf\//, 'sidecar'],
    ],
    clip: byStem,
  },
  {
    structure: 'clip root',
    isRoot: (name, children) => name.endsWith('root') && children.has('clip'),
    zones: [
      [/^clip\//, 'clip'],
      [/^sub\//, 'proxy'],
      [/^thmbnl\//, 'thumbnail'],
    ],
    clip: byStem,
  },
  {
    structure: 'contents',
    isRoot: (name, children) =>
      name === 'contents' &&
      (any('video', 'audio', 'icon', 'proxy', 'voice')(children) || [...children].some((child) => /^clips\d+$/.test(child))),
    zones: [
      [/^video\//, 'clip'],
      [/^(audio|voice)\//, 'sound'],
      [/^icon\//, 'thumbnail'],
      [/^proxy\//, 'proxy'],
      [/^clip\//, 'sidecar'],
      [/^clips\d+\/[^/]+\//, 'clip'],
    ],
    clip: (file) => {
      // `CLIPS001/AA0001/AA000101.MXF`: the folder is the clip, the last two digits its segment.
      const folder = /(?:^|\/)clips\d+\/([^/]+)$/.exec(file.foldedFolder)?.[1];
      const segment = folder && file.stem.startsWith(folder) ? /^\d{2}/.exec(file.stem.slice(folder.length))?.[0] : undefined;
      return folder && segment ? { clip: folder, order: Number(segment) } : byStem(file);
    },
  },
  {
    structure: 'segments',
    isRoot: (name) => /\.(rdm|rdc)$/.test(name),
    within: /\.rdm$/,
    zones: [
      [/\.(mov|mp4)$/, 'proxy'],
      [/(^|\/)[^/]+\.rdc\//, 'clip'],
      [/^[^/]+$/, 'clip'],
    ],
    clip: (file) => {
      const segment = /^(.*)_(\d{3})$/.exec(file.stem);
      return segment ? { clip: segment[1]!, order: Number(segment[2]) } : byStem(file);
    },
  },
];

/** A tree found on a card: its root's path as it is written, and what it is. */
interface Tree {
  readonly root: string;
  readonly rule: TreeRule;
}

/** What may stand behind a clip's stem in the name of what belongs to it: `C0001M01`, `0001AB00`, `A001_C001_H`. */
const BEHIND = /^([._-]?[a-z]{0,4}\d{0,3})$/;

/** A recording is broken where its file system ends a file. Both limits less the last, unfinished block of a stream. */
const LIMITS = [2 ** 31, 2 ** 32] as const;
const isBrokenOff = (bytes: number | undefined) =>
  bytes !== undefined && LIMITS.some((limit) => bytes <= limit && bytes >= limit * 0.95);

/**
 * The trees of a card: folders that mean something together.
 * @returns what each file below one is; files of no tree are not in it.
 */
export function placeInTrees(files: readonly CardFile[]): Map<string, Placed> {
  const trees = treesOf(files);
  const placed = new Map<string, Placed>();
  const members = new Map<string, { tree: Tree; files: CardFile[] }>();
  for (const file of files) {
    const tree = trees(file.folder);
    if (!tree) continue;
    const known = members.get(tree.root);
    if (known) known.files.push(file);
    else members.set(tree.root, { tree, files: [file] });
  }
  for (const { tree, files: inside } of members.values()) placeTree(tree, inside, placed);
  return placed;
}

/** The roots of the cameras' trees among folders, each told by its name and by what folders stand in it. */
export function treeRoots(folders: readonly string[]): Set<string> {
  const trees = treesOf(folders.map((folder) => ({ folder })));
  return new Set(folders.flatMap((folder) => trees(folder)?.root ?? []));
}

/**
 * For folders of a drive: which folder holds the camera's tree that each lies in. What lies in none is not in it. A tree
 * stands as it stood on its card, `PRIVATE` with it (common practice of cameras), and means something only as a whole.
 */
export function treeHolders(folders: readonly string[]): Map<string, string> {
  const trees = treesOf(folders.map((folder) => ({ folder })));
  const above = (path: string) => path.slice(0, Math.max(0, path.lastIndexOf('/')));
  return new Map(
    folders.flatMap((folder): [string, string][] => {
      const tree = trees(folder);
      if (!tree) return [];
      const holder = above(tree.root);
      return [[folder, /(^|\/)private$/i.test(holder) ? above(holder) : holder]];
    }),
  );
}

function placeTree({ root, rule }: Tree, files: readonly CardFile[], placed: Map<string, Placed>): void {
  const below = (file: CardFile) => file.path.slice(root.length + 1).toLowerCase();
  const zoneOf = (file: CardFile): Zone => {
    const at = below(file);
    const zone = rule.zones.find(([test]) => test.test(at))?.[1] ?? 'index';
    if (zone === 'clip' && (file.kind === 'sidecar' || file.kind === 'other')) return 'sidecar';
    return zone;
  };
  const common = { structure: rule.structure, root };
  const key = (clip: string) => `${root}\0${clip}`;
  const clips = new Set<string>();
  const others: { file: CardFile; zone: Exclude<Zone, 'clip'> }[] = [];
  const streams: { file: CardFile; clip: string }[] = [];
  for (const file of files) {
    const zone = zoneOf(file);
    if (zone !== 'clip') {
      others.push({ file, zone });
      continue;
    }
    const { clip, order } = rule.clip(file);
    clips.add(clip);
    if (rule.structure === 'avchd') streams.push({ file, clip });
    else placed.set(file.path, { ...common, key: key(clip), role: 'leader', order });
  }
  const recordings = new Map<string, string>();
  for (const { file, clip, order } of brokenStreams(streams)) {
    recordings.set(file.stem, clip);
    placed.set(file.path, { ...common, key: key(clip), role: 'leader', order });
  }
  for (const { file, zone } of others) {
    const clip = clipFor(file, clips);
    if (clip !== null && zone !== 'index')
      placed.set(file.path, { ...common, key: key(recordings.get(clip) ?? clip), role: zone, order: null });
    else if (zone === 'index' || zone === 'sidecar')
      placed.set(file.path, { ...common, key: `${root}\0\0index`, role: 'index', order: null });
    else placed.set(file.path, { ...common, key: key(`\0${file.path}`), role: zone, order: null });
  }
}

/** Streams whose number follows on one that was broken off at the limit of its file system are parts of one recording. */
function brokenStreams(
  streams: readonly { file: CardFile; clip: string }[],
): { file: CardFile; clip: string; order: number | null }[] {
  const sorted = [...streams].sort((a, b) => (a.clip < b.clip ? -1 : a.clip > b.clip ? 1 : 0));
  const found: { file: CardFile; clip: string; order: number | null }[] = [];
  for (const { file, clip } of sorted) {
    const before = found.at(-1);
    const follows =
      before && isBrokenOff(before.file.bytes) && /^\d+$/.test(file.stem) && Number(file.stem) === Number(before.file.stem) + 1;
    if (!follows) found.push({ file, clip, order: null });
    else {
      if (before.order === null) found[found.length - 1] = { ...before, order: 1 };
      found.push({ file, clip: before.clip, order: (before.order ?? 1) + 1 });
    }
  }
  return found;
}

/** The clip whose stem begins this file's, with no more behind it than a mark of what it is. */
function clipFor(file: CardFile, clips: ReadonlySet<string>): string | null {
  const { stem } = file;
  if (clips.has(stem)) return stem;
  for (let end = stem.length - 1; end > 0; end--) {
    const begin = stem.slice(0, end);
    if (clips.has(begin)) return BEHIND.test(stem.slice(end)) ? begin : null;
  }
  return null;
}

/** @returns for a folder of the card the tree that it lies in, the outermost where one lies in another. */
function treesOf(files: readonly Pick<CardFile, 'folder'>[]): (folder: string) => Tree | null {
  const children = new Map<string, Set<string>>();
  const seen = new Set<string>();
  for (const { folder } of files) {
    // Every folder once, from the inside to the first that is known.
    for (let path = folder; path !== '' && !seen.has(path);) {
      seen.add(path);
      const slash = path.lastIndexOf('/');
      const parent = slash < 0 ? '' : path.slice(0, slash);
      const known = children.get(parent) ?? new Set();
      known.add(path.slice(slash + 1).toLowerCase());
      children.set(parent, known);
      path = parent;
    }
  }
  const none: ReadonlySet<string> = new Set();
  const trees = new Map<string, Tree | null>([['', null]]);
  const treeAt = (folder: string): Tree | null => {
    const known = trees.get(folder);
    if (known !== undefined) return known;
    // Walks up without recursion: a card may have thousands of levels.
    const chain: string[] = [];
    let path = folder;
    while (!trees.has(path)) {
      chain.push(path);
      const slash = path.lastIndexOf('/');
      path = slash < 0 ? '' : path.slice(0, slash);
    }
    for (const step of chain.reverse()) {
      const slash = step.lastIndexOf('/');
      const parent = slash < 0 ? '' : step.slice(0, slash);
      const name = step.slice(slash + 1).toLowerCase();
      const rule = TREES.find(({ isRoot }) => isRoot(name, children.get(step) ?? none));
      const above = parent.slice(parent.lastIndexOf('/') + 1).toLowerCase();
      const outer = trees.get(parent) ?? null;
      if (outer) trees.set(step, outer);
      else if (!rule) trees.set(step, null);
      else trees.set(step, { rule, root: rule.within?.test(above) ? parent : step });
    }
    return trees.get(folder)!;
  };
  // What lies beside BDMV in AVCHD belongs to the tree too.
  const roots = new Map<string, Tree>();
  for (const { folder } of files) {
    const tree = treeAt(folder);
    if (tree) roots.set(tree.root, tree);
  }
  return (folder) => {
    const tree = treeAt(folder);
    if (tree || !roots.size) return tree;
    for (let path = folder; path !== '';) {
      const root = roots.get(path);
      if (root) return root;
      const slash = path.lastIndexOf('/');
      path = slash < 0 ? '' : path.slice(0, slash);
    }
    return null;
  };
}
