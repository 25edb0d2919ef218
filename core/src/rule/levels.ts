import { atomsOf, type Atom } from './atoms.js';
import type { HouseRule, Lines } from './house-rule.js';

/** Folders and the file of a pair of lines; null when a folder may not be there at all. */
export function levelsOf(rule: HouseRule, lines: Lines): Atom[][] | null {
  const known = levelsMemo.get(lines);
  if (known !== undefined) return known;
  const levels = takenApart(rule, lines);
  levelsMemo.set(lines, levels);
  return levels;
}

const levelsMemo = new WeakMap<Lines, Atom[][] | null>();

function takenApart(rule: HouseRule, lines: Lines): Atom[][] | null {
  const folders: Atom[][] = [[]];
  for (const atom of atomsOf(lines.folderLine, rule.settings)) {
    if (atom.type === 'folder') folders.push([]);
    else if (atom.type === 'optional' && atom.atoms.some(({ type }) => type === 'folder')) return null;
    else folders.at(-1)!.push(atom);
  }
  const levels = [...folders.filter((level) => level.length), atomsOf(lines.fileLine, rule.settings)];
  return levels.some((level) => level.every(({ type }) => type === 'optional')) ? null : levels;
}
