import { contextOf, orderOf, partOf, type PlanItem, type PlanSlip } from '../plan/items.js';
import {
  foldName,
  hasSequence,
  type HouseRule,
  linesFor,
  renderFileName,
  renderFolder,
  sequenceScope,
  pathIn,
} from '../rule/index.js';
import type { Step } from './steps.js';

/** A filed item that is to be called as if it had been filed now, with what was said of it since. */
export interface Refiled {
  readonly filedItemId: number;
  /** As it is known now, with whatever is corrected. */
  readonly item: PlanItem;
  readonly lead: PlanItem;
  /** The slip as it is to be, and as it was when its number was drawn. */
  readonly slip: PlanSlip;
  readonly before: { readonly item: PlanItem; readonly lead: PlanItem; readonly slip: PlanSlip };
  readonly from: string;
  readonly n: number | null;
}

/** The drive and its counters, as far as new names need them. */
export interface RefileView {
  /** Folded paths that others have, or that stand there. */
  readonly isTaken: (folded: string) => boolean;
  /** Scope → next free number; missing means the sequence's first. */
  readonly next: ReadonlyMap<string, number>;
}

export interface Refiling {
  readonly steps: readonly (Step & { readonly n: number | null })[];
  /** Numbers drawn, by scope: the first, and the number after the last. */
  readonly numbers: readonly { readonly scope: string; readonly first: number; readonly next: number }[];
}

interface Target extends Refiled {
  readonly folder: string;
}

/**
 * New names for items that were filed under something that was wrong, or under an older rule. An item keeps its number as
 * long as it is drawn from the same sequence and free; else it draws the next one. Companions share theirs.
 * Pure: whoever does it holds the counters.
 */
export function refile(items: readonly Refiled[], rule: HouseRule, view: RefileView): Refiling {
  const next = new Map<string, { first: number; next: number }>();
  const steps: (Step & { n: number | null })[] = [];
  const mine = new Set(items.map(({ from }) => foldName(from)));
  const given = new Set<string>();
  for (const group of groupsOf(items)) {
    const targets = group.map((one): Target => ({
      ...one,
      folder: renderFolder(rule, contextOf(one.item, one.lead, one.slip, null)),
    }));
    const first = targets.find(({ item }) => hasSequence(linesFor(rule, kindOf(item, targets[0]!.lead)))) ?? null;
    const [scope, was] = first ? scopesOf(rule, first) : [null, null];
    const nameWith = (one: Target, n: number | null, suffix = '') =>
      renderFileName(rule, contextOf(one.item, one.lead, one.slip, n), `${partOf(one.item)}${suffix}`);
    const isFree = (one: Target, name: string) => {
      const folded = foldName(pathIn(one.folder, name));
      return !given.has(folded) && (!view.isTaken(folded) || mine.has(folded));
    };
    let n = first?.n ?? null;
    const keeps = first !== null && n !== null && scope === was;
    const draw = () => {
      const start = Math.max(view.next.get(scope!) ?? 0, rule.settings.sequence.start);
      const counter = next.get(scope!) ?? { first: start, next: start };
      next.set(scope!, { first: counter.first, next: counter.next + 1 });
      return counter.next;
    };
    if (first === null) n = null;
    else if (!keeps) n = scope === null ? null : draw();
    for (let tries = 0; first !== null && tries < 100_000 && !targets.every((one) => isFree(one, nameWith(one, n))); tries++)
      n = scope === null ? (n ?? 1) + 1 : draw();
    for (const one of targets) {
      let name = nameWith(one, n);
      for (let copy = 2; !isFree(one, name); copy++) name = nameWith(one, n, `-${copy}`);
      const to = pathIn(one.folder, name);
      given.add(foldName(to));
      if (to !== one.from) steps.push({ filedItemId: one.filedItemId, from: one.from, to, n });
    }
  }
  return {
    steps,
    numbers: [...next].map(([scope, drawn]) => ({ scope, ...drawn })),
  };
}

/** The counters that new names may be drawn from. */
export function refileScopes(items: readonly Refiled[], rule: HouseRule): string[] {
  return [...new Set(items.flatMap((one) => scopesOf(rule, one)[0] ?? []))];
}

/** The folders that new names stand in. */
export function refileFolders(items: readonly Refiled[], rule: HouseRule): string[] {
  return [...new Set(items.map(({ item, lead, slip }) => renderFolder(rule, contextOf(item, lead, slip, null))))];
}

const kindOf = (item: PlanItem, lead: PlanItem) => (item.kind === 'sidecar' ? lead.kind : item.kind);

/** The counters a group draws from: now, and when it was filed. */
function scopesOf(rule: HouseRule, { item, lead, slip, before }: Refiled): [string | null, string | null] {
  const scope = (one: PlanItem, leading: PlanItem, said: PlanSlip) => {
    const context = contextOf(one, leading, said, null);
    return sequenceScope(rule, context, renderFolder(rule, context));
  };
  return [scope(item, lead, slip), scope(before.item, before.lead, before.slip)];
}

/** Objects in the order of their capture, each with its files in the order of the card. */
function groupsOf(items: readonly Refiled[]): Refiled[][] {
  const groups = new Map<string, Refiled[]>();
  for (const one of items) {
    const key = `${one.slip.intake}\0${one.item.leader}`;
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  for (const group of groups.values()) group.sort((a, b) => orderOf(a.item.path, b.item.path));
  return [...groups.values()].sort(
    ([a], [b]) => orderOf(a!.lead.captured, b!.lead.captured) || orderOf(a!.lead.path, b!.lead.path),
  );
}
