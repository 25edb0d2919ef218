import { type Keeping, objectsOf, setAsideReason, systemReason } from '@tally/core/card';
import type { Item } from '../db/entities/intake.js';

/** What paths and sizes tell of a file: its object, its place in it, and whether it is set aside. As items keep it. */
export type InObject = Pick<
  Item,
  'leader' | 'objectRole' | 'part' | 'parts' | 'structure' | 'structureRoot' | 'series' | 'setAside'
>;

/** @returns for each path of a card what it is; what cannot be filed and what systems put there stand alone. */
export function objectsOnCard(
  files: readonly { readonly path: string; readonly bytes: number; readonly problem: string | null }[],
  keeping: Keeping,
): (path: string) => InObject {
  const objects = objectsOf(files.filter(({ path, problem }) => problem === null && systemReason(path) === null));
  return (path) => {
    const one = objects.get(path);
    return {
      leader: one?.object ?? path,
      objectRole: one?.role ?? 'leader',
      part: one?.part ?? null,
      parts: one?.parts ?? null,
      structure: one?.structure ?? 'dcf',
      structureRoot: one?.root ?? null,
      series: one?.series ?? null,
      setAside: setAsideReason(path, one, keeping),
    };
  };
}
