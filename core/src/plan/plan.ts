import type { WallClock } from '../capture/index.js';
import type { Kind } from '../card/index.js';
import {
  foldName,
  hasSequence,
  neededFields,
  renderFileName,
  renderFolder,
  type HouseRule,
  type RuleContext,
} from '../rule/index.js';

export interface PlanItem {
  readonly id: number;
  /** Path on the card, `/` between folders. */
  readonly path: string;
  readonly bytes: number;
  readonly kind: Kind;
  readonly captured: WallClock;
  readonly camera: { readonly make: string | null; readonly model: string | null };
  /** Path of the item that leads its companions; its own path when it stands alone. */
  readonly leader: string;
  readonly taken: boolean;
  readonly setAside: string | null;
  /** Path on the drive where the same bytes stand. */
  readonly alreadyFiled: string | null;
  /** What keeps it from being filed at all (a symbolic link, a device). */
  readonly problem: string | null;
  /** Whose it is and what it was shot for, where that differs from the slip. The leader's holds for its companions. */
  readonly contributor?: RuleContext['contributor'];
  readonly assignment?: RuleContext['assignment'];
}

export interface PlanSlip {
  readonly contributor: RuleContext['contributor'];
  readonly assignment: RuleContext['assignment'];
  readonly cardLabel: string;
  readonly received: WallClock;
}

/** The drive as far as a plan needs it. Keys are folded paths and names (`foldName`). */
export interface DriveView {
  /** Folded path of each existing folder → its spelling on the drive. */
  readonly folders: ReadonlyMap<string, string>;
  /** Folded folder → folded names that stand there or are promised to another intake. */
  readonly names: ReadonlyMap<string, ReadonlySet<string>>;
  /** Scope → next free number. Missing means 1. */
  readonly next: ReadonlyMap<string, number>;
}

export const EMPTY_DRIVE: DriveView = { folders: new Map(), names: new Map(), next: new Map() };

export interface Placement {
  readonly itemId: number;
  readonly from: string;
  readonly folder: string;
  readonly name: string;
  readonly bytes: number;
  /** Number in the sequence and the scope it was drawn from; null where the rule has none. */
  readonly n: number | null;
  readonly scope: string | null;
}

export interface PlannedFolder {
  readonly path: string;
  readonly isNew: boolean;
  readonly items: number;
  readonly bytes: number;
}

export interface LeftItem {
  readonly itemId: number;
  readonly from: string;
  readonly reason: string;
}

export interface Clash {
  readonly itemId: number;
  readonly wanted: string;
  readonly given: string;
  readonly with: 'the drive' | 'this card';
}

export interface Plan {
  readonly placements: readonly Placement[];
  readonly folders: readonly PlannedFolder[];
  readonly left: readonly LeftItem[];
  readonly clashes: readonly Clash[];
  /** Numbers drawn: each scope's first number and the number after the last. */
  readonly numbers: readonly { readonly scope: string; readonly first: number; readonly next: number }[];
  /** What the slip must still say. */
  readonly missing: readonly ('contributor' | 'assignment')[];
  readonly bytes: number;
}

interface Group {
  readonly lead: PlanItem;
  readonly members: PlanItem[];
}

/** Scope of a sequence that runs per folder. */
export const folderScope = (folder: string): string => `folder:${foldName(folder)}`;

/** The folders that a plan of these items would file into: what a caller must look up before `makePlan`. */
export function targetFolders(items: readonly PlanItem[], slip: PlanSlip, rule: HouseRule): string[] {
  if (missingOnSlip(rule, slip, groupsOf(items)).length) return [];
  const folders = new Set<string>();
  for (const group of groupsOf(items)) folders.add(renderFolder(rule, contextOf(group.lead, group.lead, slip, null)));
  return [...folders];
}

/**
 * What will happen when these items are filed: pure, complete, nothing written.
 * Numbers run per folder in capture order, then by path; companions share the leader's date, folder and number.
 */
export function makePlan(items: readonly PlanItem[], slip: PlanSlip, rule: HouseRule, drive: DriveView): Plan {
  const groups = groupsOf(items);
  const missing = missingOnSlip(rule, slip, groups);
  const left = items.flatMap((item) => leftBecause(item) ?? []);
  if (missing.length) return { placements: [], folders: [], left, clashes: [], numbers: [], missing, bytes: 0 };

  const numbered = hasSequence(rule);
  const placements: Placement[] = [];
  const clashes: Clash[] = [];
  const taken = new Map<string, Set<string>>();
  const next = new Map<string, { first: number; next: number }>();
  const folders = new Map<string, { path: string; isNew: boolean; items: number; bytes: number }>();

  for (const { lead, members } of groups) {
    const rendered = renderFolder(rule, contextOf(lead, lead, slip, null));
    const key = foldName(rendered);
    const folder = spelling(rendered, drive);
    const here = taken.get(key) ?? new Set<string>();
    taken.set(key, here);
    const there = drive.names.get(key);
    const scope = folderScope(rendered);
    const counter = next.get(scope) ?? start(drive.next.get(scope) ?? 1);
    const isFree = (name: string) => !here.has(foldName(name)) && !there?.has(foldName(name));
    const blockedBy = (name: string): Clash['with'] => (here.has(foldName(name)) ? 'this card' : 'the drive');

    // A number is free when every companion's name is free under it. Two companions with one name
    // (A.JPG and a.jpg) cannot be told apart by a number: the later gets a suffix.
    const nameWith = (item: PlanItem, n: number | null, suffix = '') =>
      renderFileName(rule, contextOf(item, lead, slip, n), suffix);
    let n = numbered ? counter.next : null;
    const wanted = members.map((item) => nameWith(item, n));
    let names = wanted;
    if (n !== null) {
      while (!names.every(isFree)) {
        n++;
        names = members.map((item) => nameWith(item, n));
      }
      counter.next = n + 1;
      next.set(scope, counter);
    }
    members.forEach((item, index) => {
      let name = names[index]!;
      for (let copy = 2; !isFree(name); copy++) name = nameWith(item, n, `-${copy}`);
      if (name !== wanted[index]) {
        clashes.push({ itemId: item.id, wanted: wanted[index]!, given: name, with: blockedBy(wanted[index]!) });
      }
      here.add(foldName(name));
      placements.push({ itemId: item.id, from: item.path, folder, name, bytes: item.bytes, n, scope: n === null ? null : scope });
      const planned = folders.get(key) ?? { path: folder, isNew: !drive.folders.has(key), items: 0, bytes: 0 };
      planned.items++;
      planned.bytes += item.bytes;
      folders.set(key, planned);
    });
  }
  return {
    placements,
    folders: [...folders.values()].sort((a, b) => (a.path < b.path ? -1 : 1)),
    left,
    clashes,
    numbers: [...next].map(([scope, { first, next: after }]) => ({ scope, first, next: after })),
    missing,
    bytes: placements.reduce((sum, placement) => sum + placement.bytes, 0),
  };
}

const start = (first: number) => ({ first, next: first });

/** What the rule needs and nobody has said, for any of the items to be filed; for an empty card, what the slip lacks. */
function missingOnSlip(rule: HouseRule, slip: PlanSlip, groups: readonly Group[]): Plan['missing'] {
  const fields = [...neededFields(rule)];
  const lacks = (what: 'contributor' | 'assignment') =>
    fields.some((name) => name.startsWith(`${what}.`)) &&
    !slip[what] &&
    (groups.length === 0 || groups.some(({ lead }) => !lead[what]));
  return (['contributor', 'assignment'] as const).filter(lacks);
}

/** Why an item stays on the card, in words, or null when it is filed. */
export function reasonLeft(item: Pick<PlanItem, 'setAside' | 'problem' | 'alreadyFiled' | 'taken'>): string | null {
  if (item.setAside !== null) return `set aside: ${item.setAside}`;
  if (item.problem !== null) return item.problem;
  if (item.alreadyFiled !== null) return `already filed as ${item.alreadyFiled}`;
  return item.taken ? null : 'left by choice';
}

function leftBecause(item: PlanItem): LeftItem | null {
  const reason = reasonLeft(item);
  return reason === null ? null : { itemId: item.id, from: item.path, reason };
}

/** Items to be filed, in the order of their numbers. The leader gives date and camera, even when it is left itself. */
function groupsOf(items: readonly PlanItem[]): Group[] {
  const byPath = new Map(items.map((item) => [item.path, item]));
  const groups = new Map<string, Group>();
  for (const item of items) {
    if (leftBecause(item)) continue;
    const group = groups.get(item.leader);
    if (group) group.members.push(item);
    else groups.set(item.leader, { lead: byPath.get(item.leader) ?? item, members: [item] });
  }
  for (const group of groups.values()) group.members.sort((a, b) => order(a.path, b.path));
  return [...groups.values()].sort((a, b) => order(a.lead.captured, b.lead.captured) || order(a.lead.path, b.lead.path));
}

const order = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);

function contextOf(item: PlanItem, lead: PlanItem, slip: PlanSlip, n: number | null): RuleContext {
  return {
    captured: lead.captured,
    received: slip.received,
    contributor: lead.contributor ?? slip.contributor,
    assignment: lead.assignment ?? slip.assignment,
    cardLabel: slip.cardLabel,
    camera: lead.camera,
    kind: item.kind,
    original: item.path.slice(item.path.lastIndexOf('/') + 1),
    n,
  };
}

/** A folder that stands on the drive under another spelling (case, Unicode form) keeps the drive's. */
function spelling(folder: string, drive: DriveView): string {
  let path = '';
  for (const part of folder.split('/')) {
    const wished = path ? `${path}/${part}` : part;
    path = drive.folders.get(foldName(wished)) ?? wished;
  }
  return path;
}
