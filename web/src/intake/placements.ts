import type { ItemView, PlanView } from '@tally/contract';

/** A file of the card and where it stands on the drive, or will. */
export interface Placement {
  readonly itemId: number;
  readonly from: string;
  readonly to: string;
}

export const plannedPlacements = (plan: PlanView | null): Placement[] =>
  (plan?.placements ?? []).map(({ itemId, from, folder, name }) => ({ itemId, from, to: folder ? `${folder}/${name}` : name }));

export const filedPlacements = (items: readonly ItemView[]): Placement[] =>
  items.flatMap(({ id, path, filedAs }) => (filedAs === null ? [] : [{ itemId: id, from: path, to: filedAs }]));

/** Folders that filing makes. */
export const newFolders = (plan: PlanView | null): Set<string> =>
  new Set(plan?.folders.flatMap(({ path, isNew }) => (isNew ? [path] : [])));
