import { keptRoot, type StructureName } from '../card/index.js';
import { renderCardFolder, type HouseRule } from '../rule/index.js';
import { contextOf, orderOf, type PlanItem, type PlanSlip } from './items.js';
import { baseBelow } from './kept-together.js';

/** A tree of the card that is filed as it is: below its folder on the drive stand the card's own folders and names. */
export interface KeptTree {
  /** Its root on the card; '' is the whole card. */
  readonly root: string;
  readonly structure: StructureName;
  /** Folder on the drive below which the card's own paths begin. */
  readonly base: string;
  readonly items: readonly PlanItem[];
}

/** The folder of the card that keeps an item as it is, or null when the house gives it a name. */
function treeOf(item: PlanItem, lead: PlanItem, { settings: { asOnCard } }: HouseRule): string | null {
  const kind = item.kind === 'sidecar' ? lead.kind : item.kind;
  if (kind !== 'sidecar' && asOnCard.kinds.includes(kind)) return '';
  return keptRoot({ root: item.structureRoot, structure: item.structure }, asOnCard);
}

/**
 * Parts what is kept as on the card from what gets names of the house. All of a tree goes below one folder: that of its
 * first exposure, or the one that stands already when some of it was filed before under its own path.
 */
export function keptTrees(
  items: readonly PlanItem[],
  slip: PlanSlip,
  rule: HouseRule,
): { readonly trees: readonly KeptTree[]; readonly isKept: (item: PlanItem) => boolean } {
  const byPath = new Map(items.map((item) => [item.path, item]));
  const members = new Map<string, PlanItem[]>();
  for (const item of items) {
    if (item.problem !== null) continue;
    const root = treeOf(item, byPath.get(item.leader) ?? item, rule);
    if (root === null) continue;
    const known = members.get(root);
    if (known) known.push(item);
    else members.set(root, [item]);
  }
  const kept = new Set<PlanItem>();
  const trees = [...members].map(([root, inside]): KeptTree => {
    for (const item of inside) kept.add(item);
    const lead = firstExposure(inside);
    const base = standing(inside) ?? renderCardFolder(rule, contextOf(lead, lead, slip, null));
    return { root, structure: lead.structure, base, items: inside };
  });
  return { trees, isKept: (item) => kept.has(item) };
}

/** The earliest picture, clip or recording; what stands beside them was written by the camera at some other time. */
function firstExposure(items: readonly PlanItem[]): PlanItem {
  const material = items.filter(({ kind, setAside }) => setAside === null && kind !== 'sidecar' && kind !== 'other');
  return [...(material.length ? material : items)].sort((a, b) => orderOf(a.captured, b.captured) || orderOf(a.path, b.path))[0]!;
}

/** Where part of a tree stands under its own path already: there the rest of it belongs. */
function standing(items: readonly PlanItem[]): string | null {
  for (const { path, alreadyFiled } of items) {
    if (alreadyFiled === null) continue;
    const base = baseBelow(path, alreadyFiled);
    if (base !== null) return base;
  }
  return null;
}
