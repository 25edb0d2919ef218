import type { ItemView } from '@tally/contract';
import { reasonLeft, type PlanItem, type PlanSlip } from '@tally/core/plan';
import { dateDoubt, type DateDoubt } from '@tally/core/capture';
import { profileOf } from '@tally/core/footage';
import type { Db } from '../db/database.js';
import type { Metadata } from '../media/metadata.js';
import { type ListedItem, placeableItems } from '../seeing/index.js';
import { assignmentsOf, contributorsOf } from '../people/index.js';
import { type House, houseTime, theIntake } from '../house/index.js';

/** The items of an intake and its slip, as a plan needs them, with what their own dates give rise to. */
export async function planMaterial(
  house: Pick<House, 'settings' | 'clock'>,
  db: Db,
  intakeId: number,
): Promise<{ items: (PlanItem & { filedAs: string | null })[]; slip: PlanSlip; doubts: Map<number, DateDoubt> }> {
  const intake = await theIntake({ db }, intakeId);
  const rows = await placeableItems(db, intakeId);
  const spoken = (ids: Iterable<number | null | undefined>) => [...new Set(ids)].filter((id) => typeof id === 'number');
  const assignments = await assignmentsOf(db, spoken([intake.assignment?.id, ...rows.map(({ assignmentId }) => assignmentId)]));
  const contributors = await contributorsOf(db, spoken(rows.map(({ contributorId }) => contributorId)));
  const now = houseTime(house, house.clock());
  const doubts = new Map<number, DateDoubt>();
  const items = rows.map((item) => {
    const doubt = item.read ? dateDoubt(item.captured, now) : null;
    if (doubt) doubts.set(item.id, doubt);
    return {
      id: item.id,
      path: item.path,
      bytes: item.bytes,
      kind: item.kind,
      captured: item.captured.local,
      camera: { make: item.make, model: item.model },
      leader: item.leader,
      ...objectOf(item),
      taken: item.taken,
      setAside: item.setAside ?? item.aside,
      alreadyFiled: item.filedAs ?? (item.alreadyFiled?.confirmed ? item.alreadyFiled.path : null),
      looksLike: item.alreadyFiled?.confirmed === false ? item.alreadyFiled.path : null,
      problem: item.problem,
      contributor: item.contributorId === null ? null : (contributors.get(item.contributorId) ?? null),
      assignment: item.assignmentId === null ? null : (assignments.get(item.assignmentId) ?? null),
      description: item.description || null,
      role: item.role,
      profile: profileOf(item.profile, item.clip),
      filedAs: item.filedAs,
    };
  });
  const slip: PlanSlip = {
    contributor: intake.contributor,
    assignment: intake.assignment && (assignments.get(intake.assignment.id) ?? null),
    cardLabel: intake.card.label ?? '',
    received: houseTime(house, intake.receivedAt),
    filed: now,
    intake: intake.number,
  };
  return { items, slip, doubts };
}

/** What an item is in its object, and what has to be kept with it. */
const objectOf = ({ objectRole, part, parts, structure, structureRoot }: InItsObject): InItsObject => ({
  ...{ objectRole, part, parts, structure, structureRoot },
});
type InItsObject = Pick<ListedItem, 'objectRole' | 'part' | 'parts' | 'structure' | 'structureRoot'>;

/** What was read of a folder, as a plan needs it: everything taken. */
export function planItemsOf(lines: readonly ReadLine[], filed: ReadonlyMap<string, string> = new Map()): PlanItem[] {
  return lines.map((line, index) => ({
    id: index + 1,
    path: line.path,
    bytes: line.bytes,
    kind: line.kind,
    captured: line.captured.local,
    camera: { make: line.make ?? null, model: line.model ?? null },
    leader: line.leader,
    ...objectOf(line),
    profile: profileOf(null, line.clip ?? null),
    taken: true,
    setAside: line.setAside,
    alreadyFiled: filed.get(line.path) ?? null,
    problem: line.problem,
  }));
}

export type ReadLine = ListedItem & Partial<Metadata> & { readonly quickHash: Buffer | null };

/** Why an item stays on its card, as it stands now; null when it is taken. */
export const whyLeft = (item: Pick<ItemView, 'setAside' | 'aside' | 'problem' | 'alreadyFiled' | 'taken'>): string | null =>
  reasonLeft({
    ...item,
    setAside: item.setAside ?? item.aside,
    alreadyFiled: item.alreadyFiled?.confirmed ? item.alreadyFiled.path : null,
    looksLike: item.alreadyFiled?.confirmed === false ? item.alreadyFiled.path : null,
  });
