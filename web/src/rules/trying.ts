import type { RuleMaterial } from '@tally/contract';
import { filedFolders, itemContexts, makePlan, type DriveView, type FiledFolder, type Plan } from '@tally/core/plan';
import {
  datedByCopying,
  EXAMPLE,
  foldName,
  judgeRule,
  parseRule,
  type RuleFault,
  type RuleSource,
  type Verdict,
} from '@tally/core/rule';

/** One item under a rule, and under the revision it is compared with. */
export interface TriedName {
  readonly itemId: number;
  readonly from: string;
  readonly to: string;
  /** Path under the other rule; null when nothing is compared or that one gives none. */
  readonly other: string | null;
}

export interface Tried {
  readonly verdicts: readonly Verdict[];
  readonly names: readonly TriedName[];
  readonly folders: readonly FiledFolder[];
  readonly longest: string;
  /** Are names dated by the day of copying, and not by that of capture? */
  readonly datedByCopying: boolean;
  /** Names that had to give way to another. */
  readonly clashes: number;
  /** Items with a field that nobody says. */
  readonly unsaid: number;
  /** Was there another rule to compare with? */
  readonly compared: boolean;
  /** Against the other rule: items that get another name, and that go to another folder. */
  readonly renamed: number;
  readonly moved: number;
}

export type TriedOrFault = { readonly ok: true; readonly tried: Tried } | { readonly ok: false; readonly fault: RuleFault };

/**
 * What a rule would do with real items, as if none of them were filed yet and all were taken: every name, every folder,
 * the five verdicts. Pure, so that it runs in a web worker and in tests alike.
 */
export function tryRule(material: RuleMaterial, source: RuleSource, other: RuleSource | null): TriedOrFault {
  const parsed = parseRule(source);
  if (!parsed.ok) return { ok: false, fault: { line: parsed.line, kind: parsed.kind, error: parsed.error } };
  const { known, sharePrefix } = material;
  const slip = slipFor(material);
  const items = material.items.map((item) => ({ ...item, taken: true, alreadyFiled: null }));
  const drive: DriveView = {
    folders: new Map(withParents(material.folders).map((folder) => [foldName(folder), folder])),
    names: new Map(),
    next: new Map(),
  };
  const plan = makePlan(items, slip, parsed.rule, drive);
  const before = other && parseRule(other);
  const otherPlan = before?.ok ? makePlan(items, slip, before.rule, drive) : null;
  const otherPaths = new Map(otherPlan?.placements.map((one) => [one.itemId, one]));
  const names = plan.placements.map((one): TriedName => {
    const old = otherPaths.get(one.itemId);
    return { itemId: one.itemId, from: one.from, to: pathOf(one), other: old ? pathOf(old) : null };
  });
  const verdicts = judgeRule(parsed.rule, { items: itemContexts(items, slip), known, sharePrefix });
  const changed = (test: (one: Plan['placements'][number], old: Plan['placements'][number]) => boolean) =>
    plan.placements.filter((one) => otherPaths.has(one.itemId) && test(one, otherPaths.get(one.itemId)!)).length;
  return {
    ok: true,
    tried: {
      verdicts,
      names,
      folders: filedFolders(names, new Set(plan.folders.flatMap(({ path, isNew }) => (isNew ? [path] : [])))),
      longest: names.reduce((longest, { to }) => (to.length > longest.length ? to : longest), ''),
      datedByCopying: datedByCopying(parsed.rule),
      clashes: plan.clashes.length,
      unsaid: new Set(plan.unsaid.map(({ itemId }) => itemId)).size,
      compared: otherPlan !== null,
      renamed: changed((one, old) => one.name !== old.name),
      moved: changed((one, old) => one.folder !== old.folder),
    },
  };
}

const { slug, title } = EXAMPLE.assignment!;
const EXAMPLE_ASSIGNMENT = { slug, title };

/** What the slip of a card does not say yet is tried with somebody and something the house knows. */
export function slipFor({ slip, known }: RuleMaterial): RuleMaterial['slip'] {
  return {
    ...slip,
    contributor: slip.contributor ?? known.contributors[0] ?? EXAMPLE.contributor,
    assignment: slip.assignment ??
      known.assignments[0] ?? { code: null, from: null, to: null, place: null, ...EXAMPLE_ASSIGNMENT },
  };
}

const pathOf = ({ folder, name }: { folder: string; name: string }) => (folder ? `${folder}/${name}` : name);

function withParents(folders: readonly string[]): string[] {
  const all = new Set<string>();
  for (const folder of folders) {
    const parts = folder.split('/');
    for (let depth = 1; depth <= parts.length; depth++) all.add(parts.slice(0, depth).join('/'));
  }
  return [...all];
}
