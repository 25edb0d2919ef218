import { stemOf } from '../card/index.js';
import {
  alwaysNumbered,
  cardFields,
  foldName,
  hasSequence,
  linesFor,
  mendPath,
  neededFields,
  newNotes,
  renderFileName,
  renderFolder,
  sequenceScope,
  type FieldName,
  type HouseRule,
  type Notes,
  type RuleContext,
} from '../rule/index.js';
import { otherDays, type OtherDay } from './other-days.js';
import { keptTrees, type KeptTree } from './as-on-card.js';
import { contextOf, orderOf, partOf, reasonLeft, type PlanItem, type PlanSlip } from './items.js';

/** The drive as far as a plan needs it. Keys are folded paths and names (`foldName`). */
export interface DriveView {
  /** Folded path of each existing folder → its spelling on the drive. */
  readonly folders: ReadonlyMap<string, string>;
  /** Folded folder → folded names that stand there or are promised to another intake. */
  readonly names: ReadonlyMap<string, ReadonlySet<string>>;
  /** Scope → next free number. Missing means the sequence's first. */
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
  /** Folder below which it stands as on the card; absent when it has a name of the house. */
  readonly base?: string | undefined;
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
  /** What the wished name met; `every system` where a name of the card is not legal everywhere. */
  readonly with: 'the drive' | 'this card' | 'every system';
}

export interface Plan {
  readonly placements: readonly Placement[];
  readonly folders: readonly PlannedFolder[];
  readonly left: readonly LeftItem[];
  readonly clashes: readonly Clash[];
  /** Items whose folder bears another day than that on which they were taken, and why. */
  readonly otherDays: readonly OtherDay[];
  /** Numbers drawn: each scope's first number and the number after the last. */
  readonly numbers: readonly { readonly scope: string; readonly first: number; readonly next: number }[];
  /** What the slip must still say. */
  readonly missing: readonly ('contributor' | 'assignment')[];
  /** Fields that nobody and nothing says: the house's word stands for them. */
  readonly unsaid: readonly { readonly itemId: number; readonly field: FieldName }[];
  readonly bytes: number;
}

interface Group {
  readonly lead: PlanItem;
  readonly members: PlanItem[];
}

/** What a caller must look up before `makePlan`: the folders it would file into, the counters it would draw from. */
export function planTargets(
  items: readonly PlanItem[],
  slip: PlanSlip,
  rule: HouseRule,
): { readonly folders: readonly string[]; readonly scopes: readonly string[] } {
  const [folders, scopes] = [new Set<string>(), new Set<string>()];
  const { trees, isKept } = keptTrees(items, slip, rule);
  const groups = groupsOf(items, isKept);
  if (!missingOnSlip(rule, slip, groups, trees).length) {
    for (const tree of trees) for (const { folder } of keptPlacements(tree)) folders.add(folder);
    for (const group of groups) {
      for (const item of group.members) folders.add(renderFolder(rule, contextOf(item, group.lead, slip, null)));
      const scope = scopeOf(rule, group, slip);
      if (scope !== null) scopes.add(scope);
    }
  }
  return { folders: [...folders], scopes: [...scopes] };
}

/** A group draws one number: from the counter of its leader, or of the first companion whose kind is numbered. */
function scopeOf(rule: HouseRule, { lead, members }: Group, slip: PlanSlip): string | null {
  const contexts = [lead, ...members].map((item) => contextOf(item, lead, slip, null));
  const numbered = contexts.find(({ kind }) => hasSequence(linesFor(rule, kind)));
  return numbered ? sequenceScope(rule, numbered, renderFolder(rule, numbered)) : null;
}

/** What stands in a folder, or is about to: whole names and stems, folded. */
class Names {
  readonly #names = new Set<string>();
  readonly #stems = new Set<string>();
  constructor(folded: Iterable<string> = []) {
    for (const name of folded) this.add(name);
  }
  add(folded: string): void {
    this.#names.add(folded);
    this.#stems.add(stemOf(folded));
  }
  has(folded: string, byStem: boolean): boolean {
    return byStem ? this.#stems.has(stemOf(folded)) : this.#names.has(folded);
  }
}

/**
 * What will happen when these items are filed: pure, complete, nothing written.
 * Numbers run within the rule's scope in capture order, then by path; companions share the leader's date and number.
 */
export function makePlan(items: readonly PlanItem[], slip: PlanSlip, rule: HouseRule, drive: DriveView): Plan {
  const { trees, isKept } = keptTrees(items, slip, rule);
  const groups = groupsOf(items, isKept);
  const missing = missingOnSlip(rule, slip, groups, trees);
  const left = items.flatMap((item) => leftBecause(item) ?? []);
  if (missing.length)
    return {
      placements: [],
      folders: [],
      left,
      clashes: [],
      otherDays: [],
      numbers: [],
      missing,
      unsaid: [],
      bytes: 0,
    };

  const placements: Placement[] = [];
  const clashes: Clash[] = [];
  const unsaid: Plan['unsaid'][number][] = [];
  const taken = new Map<string, Names>();
  const standing = new Map<string, Names>();
  const next = new Map<string, { first: number; next: number }>();
  const folders = new Map<string, { path: string; isNew: boolean; items: number; bytes: number }>();
  const namesIn = (kept: Map<string, Names>, key: string, folded?: Iterable<string>) => {
    const known = kept.get(key) ?? new Names(folded);
    kept.set(key, known);
    return known;
  };

  const put = (key: string, folder: string, bytes: number) => {
    const planned = folders.get(key) ?? { path: folder, isNew: !drive.folders.has(key), items: 0, bytes: 0 };
    planned.items++;
    planned.bytes += bytes;
    folders.set(key, planned);
  };

  for (const tree of trees) {
    for (const { item, folder: wished, name: own } of keptPlacements(tree)) {
      const key = foldName(wished);
      const [here, there] = [namesIn(taken, key), namesIn(standing, key, drive.names.get(key))];
      const free = (name: string) => !here.has(foldName(name), false) && !there.has(foldName(name), false);
      let name = own;
      for (let copy = 2; !free(name); copy++) name = `${stemOf(own)}-${copy}${own.slice(stemOf(own).length)}`;
      if (name !== own) {
        const blocker = here.has(foldName(own), false) ? 'this card' : 'the drive';
        clashes.push({ itemId: item.id, wanted: own, given: name, with: blocker });
      } else if (mendPath(item.path) !== item.path) {
        clashes.push({ itemId: item.id, wanted: item.path, given: mendPath(item.path), with: 'every system' });
      }
      here.add(foldName(name));
      const folder = spelling(wished, drive);
      placements.push({
        itemId: item.id,
        from: item.path,
        folder,
        name,
        bytes: item.bytes,
        n: null,
        scope: null,
        base: spelling(tree.base, drive),
      });
      put(key, folder, item.bytes);
    }
  }
  for (const group of groups) {
    const { lead, members } = group;
    const targets = members.map((item) => {
      const notes = newNotes();
      const context = contextOf(item, lead, slip, null);
      const rendered = renderFolder(rule, context, notes);
      const key = foldName(rendered);
      const here = namesIn(taken, key);
      return {
        item,
        context,
        key,
        notes,
        folder: spelling(rendered, drive),
        here,
        there: namesIn(standing, key, drive.names.get(key)),
      };
    });
    const scope = scopeOf(rule, group, slip);
    const numbered = targets.some(({ context }) => hasSequence(linesFor(rule, context.kind)));
    // Numbers that only tell equal names apart: a raw and a JPEG of two exposures must not look like companions either.
    const byStem = numbered && scope === null;
    const isFree = ({ here, there }: (typeof targets)[number], name: string) =>
      !here.has(foldName(name), byStem) && !there.has(foldName(name), byStem);
    const nameWith = ({ context, item }: (typeof targets)[number], n: number | null, suffix = '', notes?: Notes) =>
      renderFileName(rule, { ...context, n }, `${partOf(item)}${suffix}`, notes);

    // A number is free when every companion's name is free under it. Two companions with one name
    // (A.JPG and a.jpg) cannot be told apart by a number: the later gets a suffix.
    const counter =
      scope === null ? null : (next.get(scope) ?? start(Math.max(drive.next.get(scope) ?? 0, rule.settings.sequence.start)));
    let n: number | null = null;
    if (numbered) n = counter ? counter.next : targets.every(({ context }) => alwaysNumbered(rule, context)) ? 1 : null;
    const wanted = targets.map((target) => nameWith(target, n, '', target.notes));
    let names = wanted;
    while (numbered && !targets.every((target, index) => isFree(target, names[index]!))) {
      n = n === null ? 2 : n + 1;
      names = targets.map((target) => nameWith(target, n));
    }
    if (counter && n !== null) {
      counter.next = n + 1;
      next.set(scope!, counter);
    }
    const given = new Map<string, Set<string>>();
    targets.forEach((target, index) => {
      const { item, key, folder, here } = target;
      const mine = given.get(key) ?? new Set<string>();
      given.set(key, mine);
      const free = (name: string) => !mine.has(foldName(name)) && isFree(target, name);
      let name = names[index]!;
      for (let copy = 2; !free(name); copy++) name = nameWith(target, n, `-${copy}`);
      if (name !== wanted[index]) {
        const folded = foldName(wanted[index]!);
        const blocker = mine.has(folded) || here.has(folded, byStem) ? 'this card' : 'the drive';
        clashes.push({ itemId: item.id, wanted: wanted[index]!, given: name, with: blocker });
      }
      mine.add(foldName(name));
      placements.push({ itemId: item.id, from: item.path, folder, name, bytes: item.bytes, n, scope: n === null ? null : scope });
      for (const field of new Set(target.notes.unsaid)) unsaid.push({ itemId: item.id, field });
      put(key, folder, item.bytes);
    });
    for (const [key, mine] of given) for (const folded of mine) namesIn(taken, key).add(folded);
  }
  return {
    placements,
    folders: [...folders.values()].sort((a, b) => (a.path < b.path ? -1 : 1)),
    left,
    clashes,
    otherDays: otherDays(rule, slip, groups),
    numbers: [...next].map(([scope, { first, next: after }]) => ({ scope, first, next: after })),
    missing,
    unsaid,
    bytes: placements.reduce((sum, placement) => sum + placement.bytes, 0),
  };
}

/** What is to be filed of a kept tree, in the order of the card. */
function keptPlacements({ base, items }: KeptTree): { item: PlanItem; folder: string; name: string }[] {
  return items
    .filter((item) => reasonLeft(item) === null)
    .sort((a, b) => orderOf(a.path, b.path))
    .map((item) => {
      const path = [base, mendPath(item.path)].filter(Boolean).join('/');
      const slash = path.lastIndexOf('/');
      return { item, folder: path.slice(0, Math.max(0, slash)), name: path.slice(slash + 1) };
    });
}

const start = (first: number) => ({ first, next: first });

/** What the rule needs and nobody has said, for any of the items to be filed; for an empty card, what the slip lacks. */
function missingOnSlip(rule: HouseRule, slip: PlanSlip, groups: readonly Group[], trees: readonly KeptTree[]): Plan['missing'] {
  const filed = trees.filter(({ items }) => items.some((item) => reasonLeft(item) === null));
  const named = groups.length || !filed.length ? [...neededFields(rule)] : [];
  const kept = filed.length || rule.settings.asOnCard.card ? [...cardFields(rule)] : [];
  const speaks = (fields: readonly FieldName[], what: string) => fields.some((name) => name.startsWith(`${what}.`));
  const lacks = (what: 'contributor' | 'assignment') =>
    !slip[what] &&
    ((speaks(named, what) && (groups.length === 0 || groups.some(({ lead }) => !lead[what]))) ||
      (speaks(kept, what) && (!filed.length || filed.some(({ items }) => items.some((item) => !item[what])))));
  return (['contributor', 'assignment'] as const).filter(lacks);
}

function leftBecause(item: PlanItem): LeftItem | null {
  const reason = reasonLeft(item);
  return reason === null ? null : { itemId: item.id, from: item.path, reason };
}

/** Items to be filed, in the order of their numbers. The leader gives date and camera, even when it is left itself. */
function groupsOf(items: readonly PlanItem[], isKept: (item: PlanItem) => boolean = () => false): Group[] {
  const byPath = new Map(items.map((item) => [item.path, item]));
  const groups = new Map<string, Group>();
  for (const item of items) {
    if (leftBecause(item) || isKept(item)) continue;
    const group = groups.get(item.leader);
    if (group) group.members.push(item);
    else groups.set(item.leader, { lead: byPath.get(item.leader) ?? item, members: [item] });
  }
  for (const group of groups.values()) group.members.sort((a, b) => orderOf(a.path, b.path));
  return [...groups.values()].sort((a, b) => orderOf(a.lead.captured, b.lead.captured) || orderOf(a.lead.path, b.lead.path));
}

/** What a rule can say of each item that would be filed, in the order of the numbers: for trying a rule on them. */
export function itemContexts(items: readonly PlanItem[], slip: PlanSlip): RuleContext[] {
  const fresh = items
    .filter(({ objectRole }) => objectRole !== 'index')
    .map((item) => ({ ...item, taken: true, alreadyFiled: null }));
  return groupsOf(fresh).map(({ lead, members }) => contextOf(members[0]!, lead, slip, null));
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
