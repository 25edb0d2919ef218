import type { WallClock } from '../capture/index.js';
import type { Kind, ObjectRole, StructureName } from '../card/index.js';
import { nameOf, type RuleContext } from '../rule/index.js';

export interface PlanItem {
  readonly id: number;
  /** Path on the card, `/` between folders. */
  readonly path: string;
  readonly bytes: number;
  readonly kind: Kind;
  readonly captured: WallClock;
  readonly camera: { readonly make: string | null; readonly model: string | null };
  /** Path of the item that leads its object; its own path when it stands alone. */
  readonly leader: string;
  /** What it is in its object, and which part of how many. */
  readonly objectRole: ObjectRole;
  readonly part: number | null;
  readonly parts: number | null;
  readonly structure: StructureName;
  /** Folder on the card that has to be kept together. */
  readonly structureRoot: string | null;
  readonly taken: boolean;
  readonly setAside: string | null;
  /** Path on the drive where the same bytes stand. */
  readonly alreadyFiled: string | null;
  /** Where something stands that it looks like and is still being compared with; it is neither filed nor left until then. */
  readonly looksLike?: string | null;
  /** What keeps it from being filed at all (a symbolic link, a device). */
  readonly problem: string | null;
  /** Whose it is and what it was shot for, where that differs from the slip. The leader's holds for its companions. */
  readonly contributor?: RuleContext['contributor'];
  readonly assignment?: RuleContext['assignment'];
  readonly description?: string | null;
  readonly role?: string | null;
  readonly profile?: string | null;
}

export interface PlanSlip {
  readonly contributor: RuleContext['contributor'];
  readonly assignment: RuleContext['assignment'];
  readonly cardLabel: string;
  readonly received: WallClock;
  /** Now, in the house's zone. */
  readonly filed: WallClock;
  /** Number of the intake; null before there is one. */
  readonly intake: string | null;
}

/** Why an item stays on the card, in words, or null when it is filed. */
export function reasonLeft(item: Pick<PlanItem, 'setAside' | 'problem' | 'alreadyFiled' | 'looksLike' | 'taken'>): string | null {
  if (item.setAside !== null) return `set aside: ${item.setAside}`;
  if (item.problem !== null) return item.problem;
  if (item.alreadyFiled !== null) return `already filed as ${item.alreadyFiled}`;
  if (item.looksLike) return `looks like ${item.looksLike}, which is filed: being compared`;
  return item.taken ? null : 'left by choice';
}

/** What a rule can say of an item. @param lead gives date, camera and what was said of the whole object. */
export function contextOf(item: PlanItem, lead: PlanItem, slip: PlanSlip, n: number | null): RuleContext {
  return {
    captured: lead.captured,
    received: slip.received,
    filed: slip.filed,
    contributor: lead.contributor ?? slip.contributor,
    assignment: lead.assignment ?? slip.assignment,
    cardLabel: slip.cardLabel,
    camera: lead.camera,
    // A sidecar stays with what it belongs to.
    kind: item.kind === 'sidecar' ? lead.kind : item.kind,
    original: nameOf(item.path),
    cardPath: item.path,
    intake: slip.intake,
    description: lead.description ?? null,
    role: lead.role ?? null,
    profile: lead.profile ?? null,
    n,
  };
}

/** Sorts texts by their code units. */
export const orderOf = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/**
 * What stands behind the stem of one of several files of an object that share its number: the part, so that they sort in
 * their order, and what it is where its extension does not say so.
 */
export function partOf({ part, parts, objectRole }: PlanItem): string {
  const number = part && parts ? `-${String(part).padStart(String(parts).length, '0')}` : '';
  const marked = objectRole === 'proxy' || objectRole === 'edit' || objectRole === 'thumbnail';
  return marked ? `${number}-${objectRole}` : number;
}
